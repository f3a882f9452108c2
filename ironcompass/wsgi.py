"""The WSGI application that gunicorn serves."""

import os
from threading import Thread

from django.core.wsgi import get_wsgi_application

from compass.do.order import ready_solver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ironcompass.settings")
application = get_wsgi_application()
# The solver takes a second to import: nobody's first press waits for it, and the start does not either.
Thread(target=ready_solver, daemon=True).start()
