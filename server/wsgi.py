"""The application as a WSGI callable."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings")
application = get_wsgi_application()

# What was loaded up to here stays; to look through it again and again costs an answer now and then a tenth of a second.
gc.collect()
gc.freeze()
