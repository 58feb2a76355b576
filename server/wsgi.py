"""The application as a WSGI callable."""

import gc
import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

gc.disable()  # while loading, of which little is thrown away
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
application = get_wsgi_application()
get_resolver().url_patterns  # noqa: B018, loaded now and not by the first who asks

# What was loaded up to here stays; to look through it again and again costs an answer now and then a tenth of a second.
gc.freeze()
gc.enable()
