"""The web server's door: gunicorn mindful_tally.wsgi"""

import gc
import os
from collections.abc import Iterable
from typing import Any

from django.core.wsgi import get_wsgi_application
from django.urls import resolve

from mindful_tally.bodies import WholeBody

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mindful_tally.settings.production")


Environ = dict[str, Any]
_django = get_wsgi_application()


def application(environ: Environ, start_response: Any) -> Iterable[bytes]:
    length = environ.get("CONTENT_LENGTH") or "0"
    if length.isdecimal() and int(length):
        environ["wsgi.input"] = WholeBody(environ["wsgi.input"], int(length))
    return _django(environ, start_response)  # type: ignore[no-any-return]


# What is loaded for good is not looked through again for garbage: that took a tenth of a second of
# every third request.
resolve("/")
gc.collect()
gc.freeze()
