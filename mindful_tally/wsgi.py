"""The web server's door: gunicorn mindful_tally.wsgi"""

import gc
import os

from django.core.wsgi import get_wsgi_application
from django.urls import resolve

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mindful_tally.settings.production")
application = get_wsgi_application()

# What is loaded for good is not looked through again for garbage: that took a tenth of a second of
# every third request.
resolve("/")
gc.collect()
gc.freeze()
