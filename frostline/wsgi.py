"""The WSGI application for gunicorn or any other WSGI server."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "frostline.settings")

application = get_wsgi_application()

from frostline.calls import judging  # noqa: E402 -- Django must be set up first

judging.in_background.set()  # a page never waits for a sheet to be worked out
