"""JSON from bytes, refused in plain words when it is none."""

from __future__ import annotations

import json
from typing import Any

from cutting.errors import BadDocument, Fault

LARGEST_FILE = 16 * 1024 * 1024


def parse_json(data: bytes) -> Any:
    """Decoded JSON from bytes. Raises BadDocument, naming the place, when it is not."""
    if len(data) > LARGEST_FILE:
        raise refused("the file is huge", f"at most {LARGEST_FILE // 2**20} MB")
    try:
        found = json.loads(
            data.decode("utf-8-sig"), object_pairs_hook=_no_doubles, parse_constant=_no_constant
        )
    except UnicodeDecodeError as error:
        raise refused(f"byte {error.start} is not UTF-8", "a file in UTF-8") from None
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise refused(f"not JSON at {place} ({error.msg})", "a JSON document") from None
    except RecursionError:
        raise refused("nested too deep", "a document as docs/formats/ shows it") from None
    except ValueError as error:
        raise refused(str(error).splitlines()[0], "a JSON document") from None
    if half := _half_letter(found, "$"):
        raise BadDocument((half,))
    return found


def _half_letter(found: Any, path: str) -> Fault | None:
    """Half of a surrogate pair is no letter and can be written nowhere."""
    if isinstance(found, str):
        try:
            found.encode()
        except UnicodeEncodeError:
            return Fault(path, f"{ascii(found)[:60]} has half a letter", "whole ones are right")
    parts: list[tuple[Any, str]] = []
    if isinstance(found, dict):
        parts = [(name, path) for name in found]
        parts += [(value, f"{path}.{ascii(name)[1:-1]}") for name, value in found.items()]
    elif isinstance(found, list):
        parts = [(value, f"{path}[{i}]") for i, value in enumerate(found)]
    return next((half for value, at in parts if (half := _half_letter(value, at))), None)


def _no_doubles(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        names = [name for name, _ in pairs]
        twice = next(name for name in names if names.count(name) > 1)
        raise ValueError(f"the field {ascii(twice)[:60]} is there twice in one object")
    return found


def _no_constant(name: str) -> Any:
    raise ValueError(f"{name} is not a number")


def refused(wrong: str, right: str) -> BadDocument:
    return BadDocument((Fault("$", wrong, f"{right} is right"),))
