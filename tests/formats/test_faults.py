"""Every verb tells what is wrong in a document once, by one syntax of paths, and never ends in a traceback."""

import copy
import json
import re
from pathlib import Path

import pytest

from cutting.errors import BadDocument
from formats.blend import read_blend
from formats.day import read_day
from formats.label import read_label
from formats.layout import read_layout
from formats.prices import read_pricing
from formats.reading import read_document
from formats.ways import read_ways

EXAMPLES = Path(__file__).parents[2] / "docs" / "formats" / "examples"
READ = {
    "blend-two-batches": read_blend,
    "day-hands": read_day,
    "label-flat-iron": read_label,
    "layout-top-sirloin": read_layout,
    "price-clod": read_pricing,
    "cutting-test-clod": read_document,
    "ways-flat": read_ways,
}
PATH = re.compile(r"\$(\.\w+|\[\d+\])*")
STEP = re.compile(r"\.(\w+)|\[(\d+)\]")
WRONG = ({"x": 1}, [1], "\0", -1, None)


def paths(part, path="$"):
    """Every place in a document."""
    inside = part.items() if isinstance(part, dict) else enumerate(part)
    for key, value in inside:
        own = f"{path}.{key}" if isinstance(part, dict) else f"{path}[{key}]"
        yield own
        if isinstance(value, dict | list):
            yield from paths(value, own)


def put(document, path, value):
    changed = copy.deepcopy(document)
    *steps, last = [key or int(number) for key, number in STEP.findall(path)]
    at = changed
    for step in steps:
        at = at[step]
    at[last] = value
    return changed


def faults(read, document):
    try:
        read(document)
    except BadDocument as bad:
        return bad.faults
    return ()


OFTEN = ("cutting-test-clod", "price-clod")
OFTEN_AND_LONG = [
    name if name in OFTEN else pytest.param(name, marks=pytest.mark.long) for name in READ
]


@pytest.mark.parametrize("name", OFTEN_AND_LONG)
def test_whatever_is_put_anywhere_is_told_once_where_it_stands(name):
    document = json.loads((EXAMPLES / f"{name}.json").read_text())
    for path in paths(document):
        for value in WRONG:
            found = faults(READ[name], put(document, path, value))
            told = [fault.path for fault in found]
            said = path, value, [str(one) for one in found]
            assert len(told) == len(set(told)), said
            assert all(PATH.fullmatch(one) for one in told), said
            assert all(one.startswith(path) or path.startswith(one) for one in told), said
            assert len(told) <= 1 or isinstance(value, dict | list), said
