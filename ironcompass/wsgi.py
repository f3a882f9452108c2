"""The WSGI application that gunicorn serves."""

import os
from importlib import import_module
from threading import Thread

from django.core.wsgi import get_wsgi_application

from compass.do.order import ready_solver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ironcompass.settings")
application = get_wsgi_application()


def _make_ready() -> None:
    """Load what takes a second: nobody's first press or look at the ledger waits for it, nor does the start."""
    ready_solver()
    import_module("scipy.stats")


Thread(target=_make_ready, daemon=True).start()
