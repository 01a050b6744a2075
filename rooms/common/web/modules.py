"""Which scripts a module imports, so that a page names them all: it loads them at once, and the
service worker keeps what a kept page names."""

import posixpath
import re
from functools import lru_cache
from pathlib import Path

from django.contrib.staticfiles import finders

IMPORTED = re.compile(r'^import\b[^"]*"(\.[\w./-]+\.js)";', re.MULTILINE)


@lru_cache
def imported_by(name: str) -> tuple[str, ...]:
    """Every script that `name` needs, itself not, each once and before what needs it.

    Raises FileNotFoundError for one that is not there.
    """
    path = finders.find(name)
    if path is None:
        raise FileNotFoundError(f"{name} is no script of ours")
    found: dict[str, None] = {}
    for each in IMPORTED.findall(Path(path).read_text(encoding="utf-8")):
        needed = posixpath.normpath(posixpath.join(posixpath.dirname(name), each))
        found |= dict.fromkeys((*imported_by(needed), needed))
    return tuple(found)
