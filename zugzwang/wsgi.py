"""The WSGI application."""

import os

from django.core.wsgi import get_wsgi_application

import zugzwang.preloaded  # noqa: F401  what the first question would otherwise wait for

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zugzwang.settings")
application = get_wsgi_application()
