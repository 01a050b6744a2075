"""The web server's door: gunicorn mindful_tally.wsgi"""

import gc
import os
import sys
from collections.abc import Iterable
from typing import Any

from django.core.wsgi import get_wsgi_application
from django.db import connection
from django.urls import resolve

from mindful_tally.bodies import WholeBody
from rooms.common.web.starting import CannotStart, check_database

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mindful_tally.settings.production")


NOT_LOADED = 4
"""The exit status by which gunicorn knows that starting again is of no use."""
Environ = dict[str, Any]
_django = get_wsgi_application()


def application(environ: Environ, start_response: Any) -> Iterable[bytes]:
    length = environ.get("CONTENT_LENGTH") or "0"
    if length.isdecimal() and int(length):
        environ["wsgi.input"] = WholeBody(environ["wsgi.input"], int(length))
    return _django(environ, start_response)  # type: ignore[no-any-return]


try:
    check_database()
except CannotStart as fault:
    sys.stderr.write(f"{fault}\n")
    sys.exit(NOT_LOADED)
finally:
    connection.close()  # each thread opens its own

# What is loaded for good is not looked through again for garbage: that took a tenth of a second of
# every third request.
resolve("/")
gc.collect()
gc.freeze()
