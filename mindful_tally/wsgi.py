"""The web server's door: gunicorn mindful_tally.wsgi"""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mindful_tally.settings.production")
application = get_wsgi_application()
