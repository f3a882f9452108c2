"""How it is served: gunicorn's settings and the worker that keeps slow senders from everybody else."""
