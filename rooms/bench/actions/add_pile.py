"""Another pile on an open test."""

from dataclasses import replace
from uuid import UUID

from cutting.sheet.cutting_test import same_name
from rooms.bench.actions.revision import touch
from rooms.bench.actions.start import make_piles
from rooms.bench.queries.rows import TestRows, must_be_open, must_load
from rooms.catalog.models import ROLE_OF_PILE, Cut, Pile, PlanOutput
from rooms.common.db.writing import write
from rooms.common.errors import BadInput
from rooms.common.plain_text import is_plain

MOST_PILES = 40
LONGEST_NAME = 60


def add_pile(test_id: UUID, name: str, pile: str, cut_key: str = "") -> TestRows:
    """Add a pile of a kind, or of a cut of the catalog, whose name and price come with it.

    A name that is already there is refused; nothing else changes.
    """
    cut = Cut.objects.filter(key=cut_key).first() if cut_key else None
    if cut_key and cut is None:
        raise BadInput("Cut: choose one of the cuts shown.")
    name = " ".join((name or (cut.shown_name[:LONGEST_NAME] if cut else "")).split())
    if not name:
        raise BadInput("Name: it is empty; name the pile.")
    if len(name) > LONGEST_NAME or not is_plain(name):
        raise BadInput(f"Name: at most {LONGEST_NAME} plain characters are right.")
    if pile not in Pile.values:
        raise BadInput("Kind: choose one of the kinds shown.")
    with write():
        rows = must_load(test_id)
        must_be_open(rows.test, f"{name} was not added")
        if any(same_name(output.name) == same_name(name) for output in rows.outputs):
            raise BadInput(f"Name: there is already a pile named {name}; each name once is right.")
        if len(rows.outputs) >= MOST_PILES:
            raise BadInput(f"Name: this test has {MOST_PILES} piles; no more fit.")
        like = PlanOutput(name=name, pile=pile, role=ROLE_OF_PILE[Pile(pile)].value, cut=cut)
        (output,) = make_piles(rows.test, [like])
        output.position = rows.outputs[-1].position + 1 if rows.outputs else 0
        output.save(force_insert=True)
        touch(rows.test)
    return replace(rows, outputs=[*rows.outputs, output])
