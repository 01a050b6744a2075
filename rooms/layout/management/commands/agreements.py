"""Print where plan, guide, layout, card and name of a piece part from each other."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from rooms.catalog.models import Piece
from rooms.layout.agreements import AGREEMENTS, Agreement, agreements


class Command(BaseCommand):
    """A table, pieces by agreements: ok, the number of faults, or - where nothing is compared."""

    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("pieces", nargs="*", help="Keys of pieces; all where none is named.")

    def handle(self, *args: Any, **options: Any) -> None:
        """Raises CommandError where anything does not agree."""
        asked = options["pieces"]
        pieces = Piece.objects.filter(key__in=asked) if asked else Piece.objects.all()
        missing = sorted(set(asked) - {piece.key for piece in pieces})
        if missing:
            raise CommandError(f"Pieces: {', '.join(missing)} are not in the catalog.")
        self.stdout.write(row("", AGREEMENTS))
        found = []
        for one in agreements(pieces):
            self.stdout.write(row(one.piece.key, [cell(one, name) for name in AGREEMENTS]))
            found += [f"{one.piece.key}, {fault}" for fault in one.faults]
        if found:
            raise CommandError("\n".join(["These do not agree:", *found]))


def cell(one: Agreement, name: str) -> str:
    faults = one.found[name]
    return "-" if faults is None else f"{len(faults)}" if faults else "ok"


def row(head: str, cells: Any) -> str:
    return f"{head:26}" + "".join(f"{text:>9}" for text in cells)
