"""The WSGI application for gunicorn or any other WSGI server."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "frostline.settings")

application = get_wsgi_application()
