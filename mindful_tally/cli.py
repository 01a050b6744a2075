"""The command line. Computes on files without the web application; see docs/formats/."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from typing import Any

from cutting.document import read_document
from cutting.errors import BadDocument, Fault
from cutting.price_document import build, read_pricing, write_prices
from cutting.result import write_result
from cutting.sheet import compute

LARGEST_FILE = 16 * 1024 * 1024
BAD_INPUT = 2


def main(argv: Sequence[str] | None = None) -> int:
    """Exit status 0 with JSON on standard output; 2 with one line per fault on standard error."""
    parser = argparse.ArgumentParser(prog="mindful-tally", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    one = commands.add_parser("compute", help="a cutting test: balance, yields, costings, margins")
    two = commands.add_parser("price", help="prices for a test from target, endings, locks, ladder")
    for each in (one, two):
        each.add_argument("file", help="a cutting test document, or - for standard input")
    wanted = parser.parse_args(argv)
    work = {"compute": _compute, "price": _price}[wanted.command]
    try:
        result = work(load_json(wanted.file))
    except BadDocument as bad:
        for fault in bad.faults:
            print(fault, file=sys.stderr)
        return BAD_INPUT
    print(json.dumps(result, indent=2))
    return 0


def _compute(data: Any) -> dict[str, Any]:
    document = read_document(data)
    return write_result(compute(document.test), document.currency)


def _price(data: Any) -> dict[str, Any]:
    document, pricing = read_pricing(data)
    built = build(document.test, pricing)
    return write_prices(built, document.test.piece.weight.unit, document.currency, pricing)


def load_json(name: str) -> Any:
    """Decoded JSON from a file. Raises BadDocument when it is not UTF-8 JSON of sane size."""
    try:
        if name == "-":
            data = sys.stdin.buffer.read(LARGEST_FILE + 1)
        else:
            with open(name, "rb") as handle:
                data = handle.read(LARGEST_FILE + 1)
    except OSError as error:
        raise _refused(f"{name!a}: {error.strerror}", "a file that can be read") from None
    except ValueError:
        raise _refused(f"{name!a} is not a file name", "a file that can be read") from None
    return parse_json(data)


def parse_json(data: bytes) -> Any:
    """Decoded JSON from bytes. Raises BadDocument, naming the place, when it is not."""
    if len(data) > LARGEST_FILE:
        raise _refused("the file is huge", f"at most {LARGEST_FILE // 2**20} MB")
    try:
        return json.loads(
            data.decode("utf-8-sig"), object_pairs_hook=_no_doubles, parse_constant=_no_constant
        )
    except UnicodeDecodeError as error:
        raise _refused(f"byte {error.start} is not UTF-8", "a file in UTF-8") from None
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise _refused(f"not JSON at {place} ({error.msg})", "a JSON document") from None
    except RecursionError:
        raise _refused("nested too deep", "a document as docs/formats/ shows it") from None
    except ValueError as error:
        raise _refused(str(error).splitlines()[0], "a JSON document") from None


def _no_doubles(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        names = [name for name, _ in pairs]
        twice = next(name for name in names if names.count(name) > 1)
        raise ValueError(f"the field {ascii(twice)[:60]} is there twice in one object")
    return found


def _no_constant(name: str) -> Any:
    raise ValueError(f"{name} is not a number")


def _refused(wrong: str, right: str) -> BadDocument:
    return BadDocument((Fault("$", wrong, f"{right} is right"),))


if __name__ == "__main__":
    sys.exit(main())
