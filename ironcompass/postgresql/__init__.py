"""Django's engine for PostgreSQL, with a way of its own to see whether a connection still stands."""
