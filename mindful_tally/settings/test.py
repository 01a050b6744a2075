"""For `make test`."""

import os

from mindful_tally.settings.base import *  # noqa: F403
from mindful_tally.settings.base import DATABASES, INSTALLED_APPS, MIDDLEWARE, VAR

DEBUG = False
SECRET_KEY = "test-only"  # noqa: S105
ALLOWED_HOSTS = ["testserver", "127.0.0.1", "localhost"]
INSTALLED_APPS = [*INSTALLED_APPS, "rooms.demo"]
MIDDLEWARE = [*MIDDLEWARE, "tests.doorkeeper.Doorkeeper"]
# A file, not memory: the live server's threads and the write-ahead log behave as in the shop.
DATABASES["default"]["NAME"] = os.environ.get("TALLY_DB", VAR / "scratch.sqlite3")
DATABASES["default"]["TEST"] = {"NAME": VAR / "test.sqlite3"}
DATABASES["default"]["CONN_MAX_AGE"] = 0
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_AUTOREFRESH = True
WHITENOISE_USE_FINDERS = True
SCALE_URL = os.environ.get("SCALE_URL", "http://127.0.0.1:9")
SCALE_IS_SIMULATED = True
SCALE_KEY = "test-scale"
PROBE_KEY = "test-probe"
