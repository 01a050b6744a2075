"""The command line. Computes on files without the web application; see docs/formats/."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any

from cutting.costing.sheet import compute
from cutting.errors import BadDocument
from cutting.ways.compared import compare_ways
from formats.decoding import LARGEST_FILE, parse_json, refused
from formats.layout import read_layout, solve_layout, write_layout
from formats.prices import build, read_pricing, write_prices
from formats.reading import read_document
from formats.result import write_result
from formats.ways import read_ways, write_ways

BAD_INPUT = 2


def main(argv: Sequence[str] | None = None) -> int:
    """Exit status 0 with JSON on standard output; 2 with one line per fault on standard error."""
    parser = argparse.ArgumentParser(prog="mindful-tally", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    one = commands.add_parser("compute", help="a cutting test: balance, yields, costings, margins")
    two = commands.add_parser("price", help="prices for a test from target, endings, locks, ladder")
    for each in (one, two):
        each.add_argument("file", help="a cutting test document, or - for standard input")
    three = commands.add_parser("layout", help="where to put the knife on one piece")
    three.add_argument("file", help="a layout document, or - for standard input")
    four = commands.add_parser("compare", help="two to six ways to cut one piece, side by side")
    four.add_argument("file", help="a document of ways, or - for standard input")
    five = commands.add_parser("choose", help="which bags are cut today, and by which way")
    five.add_argument("file", help="a document of a day, or - for standard input")
    six = commands.add_parser("blend", help="tubs into batches of a fat share, the cheapest way")
    six.add_argument("file", help="a document of a blend, or - for standard input")
    seven = commands.add_parser("label", help="a tray label: words, numbers, codes")
    seven.add_argument("file", help="a document of a label, or - for standard input")
    seven.add_argument("--png", help="a file to draw it into")
    seven.add_argument("--pdf", help="a file to draw it into")
    wanted = parser.parse_args(argv)
    work = {
        "compute": _compute,
        "price": _price,
        "layout": _layout,
        "compare": _compare,
        "choose": _choose,
        "blend": _blend,
        "label": lambda data: _label(data, wanted.png, wanted.pdf),
    }[wanted.command]
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


def _layout(data: Any) -> dict[str, Any]:
    document = read_layout(data)
    return write_layout(solve_layout(document), document.unit)


def _compare(data: Any) -> dict[str, Any]:
    document = read_ways(data)
    return write_ways(compare_ways(document.piece, document.ways, document.rate))


def _choose(data: Any) -> dict[str, Any]:
    from cutting.planning.integer_program import begin
    from formats.day import read_day, solve_day, write_day  # these load the solver

    with _quiet():
        begin()
    day = read_day(data)
    return write_day(day, *solve_day(day))


def _blend(data: Any) -> dict[str, Any]:
    from cutting.planning.integer_program import begin
    from formats.blend import read_blend, write_blend
    from formats.blend_solving import solve_blend  # this loads the solver

    with _quiet():
        begin()
    blend = read_blend(data)
    return write_blend(blend, solve_blend(blend))


def _label(data: Any, png: str | None, pdf: str | None) -> dict[str, Any]:
    from formats.label import read_label, write_label

    label = read_label(data)
    for name, kind in ((png, "png"), (pdf, "pdf")):
        if name:
            from rooms.common.paper.labels import drawn_as  # this loads the drawing libraries

            _write(name, drawn_as(label, kind))
    return write_label(label)


def _write(name: str, content: bytes) -> None:
    try:
        with open(name, "wb") as handle:
            handle.write(content)
    except OSError as error:
        raise refused(f"{name!a}: {error.strerror}", "a file that can be written") from None


@contextmanager
def _quiet() -> Iterator[None]:
    """Nothing is written to standard output: the solver's library names itself there once."""
    sys.stdout.flush()
    kept = os.dup(1)
    try:
        with open(os.devnull, "w", encoding="utf-8") as nowhere:
            os.dup2(nowhere.fileno(), 1)
            yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)


def load_json(name: str) -> Any:
    """Decoded JSON from a file. Raises BadDocument when it is not UTF-8 JSON of sane size."""
    try:
        if name == "-":
            data = sys.stdin.buffer.read(LARGEST_FILE + 1)
        else:
            with open(name, "rb") as handle:
                data = handle.read(LARGEST_FILE + 1)
    except OSError as error:
        raise refused(f"{name!a}: {error.strerror}", "a file that can be read") from None
    except ValueError:
        raise refused(f"{name!a} is not a file name", "a file that can be read") from None
    return parse_json(data)


if __name__ == "__main__":
    sys.exit(main())
