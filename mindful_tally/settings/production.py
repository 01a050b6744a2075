"""A real shop. Everything secret or local comes from the environment."""

import json
import os
from pathlib import Path

from mindful_tally.settings.base import *  # noqa: F403
from mindful_tally.settings.base import DATABASES, SOLVER_URL, VAR

DEBUG = False
SECRET_KEY = os.environ["SECRET_KEY"]
ALLOWED_HOSTS = os.environ["ALLOWED_HOSTS"].split(",")
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS if host != "*"]

DATABASES["default"]["ENGINE"] = "rooms.common.db.sqlite"
DATABASES["default"]["NAME"] = Path(os.environ.get("TALLY_DB", VAR / "shop.sqlite3"))

SECURE_SSL_REDIRECT = True
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_HSTS_SECONDS = 365 * 24 * 3600
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True

PROBE_KEY = os.environ.get("PROBE_KEY", "")
SCALE_URL = os.environ.get("SCALE_URL", "")
SCALE_KEY = os.environ.get("SCALE_KEY", "")
SOLVER_URL = os.environ.get("SOLVER_URL", SOLVER_URL)
PRINTER_URL = os.environ.get("PRINTER_URL", "")
TESTER_URL = os.environ.get("TESTER_URL", "")
MORE_SCALES = json.loads(os.environ.get("MORE_SCALES", "[]"))
