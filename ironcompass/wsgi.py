"""The WSGI application that gunicorn serves."""

import os
from importlib import import_module

from django.core.wsgi import get_wsgi_application

from compass.do.order import ready_solver
from ironcompass.patience import bound_waits

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ironcompass.settings")
application = get_wsgi_application()
bound_waits()

# What takes a second to load is loaded before the workers part from each other: nobody's first press or look at the
# ledger waits for it, and they share its memory. No thread may run by then.
ready_solver()
import_module("scipy.stats")
