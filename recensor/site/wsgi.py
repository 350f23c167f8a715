"""The entry point of a web server."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "recensor.site.settings")
application = get_wsgi_application()

# What start-up made stays; the garbage collector need not walk it again at every request.
gc.collect()
gc.freeze()
