"""Gunicorn's settings, for ``gunicorn -c python:ironcompass.serving.gunicorn_settings``; the names are gunicorn's."""

import gc
import os
from typing import Any

if os.geteuid() == 0 and "IC_SERVE_AS_ROOT" not in os.environ:  # tests and measurements of a machine's own
    raise SystemExit("iron-compass: root serves nothing; bin/start makes a user of its own for it")

wsgi_app = "ironcompass.wsgi:application"
worker_class = "ironcompass.serving.buffered_worker.BufferedWorker"
# A reading is work for a processor. Two processes a core let the machine share it out; many threads in one process
# would all be slowed by each other, two let one work while the other waits for the database.
workers = int(os.environ.get("IC_WORKERS", "") or 2 * len(os.sched_getaffinity(0)))
threads = 2
preload_app = True
graceful_timeout = 5
loglevel = "warning"
control_socket_disable = True


def when_ready(_server: Any) -> None:
    """Leave what is loaded by now out of every later search for garbage: its pages stay shared between the workers."""
    gc.collect()
    gc.freeze()
