"""The entry point of a web server."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "recensor.site.settings")
application = get_wsgi_application()
