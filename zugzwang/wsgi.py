"""The WSGI application."""

import os

from django.core.wsgi import get_wsgi_application

import zugzwang.preloaded  # noqa: F401  the first request would otherwise wait for it

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zugzwang.settings")
application = get_wsgi_application()
