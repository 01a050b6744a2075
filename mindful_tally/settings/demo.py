"""The invented shop on this machine: `make demo`. Never for real records."""

import os

from mindful_tally.settings.base import *  # noqa: F403
from mindful_tally.settings.base import INSTALLED_APPS, VAR

DEBUG = False
SECRET_KEY = "demo-only-this-shop-is-invented"  # noqa: S105 (nothing here is secret)
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]

INSTALLED_APPS = [*INSTALLED_APPS, "rooms.demo"]

PORT = int(os.environ.get("PORT", "8000"))
SCALE_PORT = int(os.environ.get("SCALE_PORT", str(PORT + 1)))
SCALE_URL = f"http://127.0.0.1:{SCALE_PORT}"
SCALE_KEY = "demo-scale"
SCALE_IS_SIMULATED = True
TRIM_PORT = int(os.environ.get("TRIM_PORT", str(PORT + 3)))
MORE_SCALES = [{"name": "trim", "label": "Trim scale", "url": f"http://127.0.0.1:{TRIM_PORT}"}]
PROBE_KEY = "demo-probe"
SOLVER_PORT = int(os.environ.get("SOLVER_PORT", str(PORT + 4)))
SOLVER_URL = f"http://127.0.0.1:{SOLVER_PORT}"
TESTER_PORT = int(os.environ.get("TESTER_PORT", str(PORT + 5)))
TESTER_URL = f"http://127.0.0.1:{TESTER_PORT}"
PRINTER_PORT = int(os.environ.get("PRINTER_PORT", str(PORT + 6)))
PRINTER_URL = f"http://127.0.0.1:{PRINTER_PORT}"
PROBE_PORT = int(os.environ.get("PROBE_PORT", str(PORT + 2)))
PROBE_PANEL = f"http://127.0.0.1:{PROBE_PORT}/panel"

DATABASES["default"]["NAME"] = os.environ.get("TALLY_DB", VAR / "demo.sqlite3")  # noqa: F405

DEMO_PINS = "Ines 3141, Bram 2718, Tove 1618, Odile 4669"
DEMO_LOGIN = "bram, with the password gull-quay-demo"
