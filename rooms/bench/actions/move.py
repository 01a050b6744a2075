"""Moving a weighing to another pile, and merging one pile into another."""

from uuid import UUID

from django.utils import timezone

from cutting.quantities import ZERO
from rooms.bench.actions.lay import lay_again
from rooms.bench.actions.ledger import Acting, carry
from rooms.bench.actions.revision import touch
from rooms.bench.models import Move, Output, Weighing
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.rows import TestRows, load_known, must_be_open, must_load
from rooms.common.db.writing import write
from rooms.common.errors import BadInput, Refused


def move_weighing(
    test_id: UUID, weighing_id: str, to: str, saw: str, by_id: int | None
) -> TestRows:
    """Put one weighing on another pile. `saw`: the pile the page showed it on.

    On the wanted pile already: nothing changes. Raises Refused when somebody moved or took it
    back since, with both versions.
    """
    with write():
        rows = open_rows(test_id, "the weighing stays")
        weighing = next((w for w in rows.weighings if str(w.pk) == weighing_id), None)
        if weighing is None:
            raise BadInput("Move: there is no such weighing in this test.")
        target = _pile_shown(rows, to, "Move")
        if weighing.output_id == target.pk:
            return rows
        stands = (
            "taken back" if weighing.back_id is not None else _name_shown(rows, weighing.output_id)
        )
        if weighing.back_id is not None or saw != str(weighing.output_id):
            raise Refused(
                f"Move: this page saw {weighing} on {_name_shown(rows, saw)}; it is now {stands}."
                " Nothing was moved. Look again."
            )
        _move(rows, [weighing], target, by_id)
    return _laid_again(test_id)


def merge_piles(test_id: UUID, away: str, into: str, saw: str, by_id: int | None) -> TestRows:
    """All of one pile goes onto another, and the first is no longer shown.

    `saw`: what the page showed of it, as `sum_of`. Raises Refused with both versions when it
    changed since.
    """
    with write():
        rows = open_rows(test_id, "the piles stay")
        gone, target = _pile_shown(rows, away, "Merge"), _pile_shown(rows, into, "Merge")
        if gone.pk == target.pk:
            raise BadInput("Merge: choose two different piles.")
        if saw != sum_of(rows, gone):
            raise Refused(
                f"Merge: this page saw {gone} with {saw[:60] or 'nothing'}; it now has"
                f" {sum_of(rows, gone)}. Nothing was merged. Look again."
            )
        _move(rows, rows.of(gone), target, by_id, gone=gone)
        _expect_more(target, gone, 1)
        gone.merged_into = target
        Output.objects.bulk_update([gone, target], ["merged_into", *SHARES])
    return _laid_again(test_id)


def unmerge(test_id: UUID, pile: str, by_id: int | None) -> TestRows:
    """Undo a merge: the pile is shown again with what came from it. Twice: no change."""
    with write():
        rows = open_rows(test_id, "the piles stay")
        again = next((o for o in rows.outputs if str(o.pk) == pile), None)
        if again is None:
            raise BadInput("Merge: there is no such pile in this test.")
        if again.merged_into_id is None:
            return rows
        target = next(o for o in rows.outputs if o.pk == again.merged_into_id)
        if target.merged_into_id is not None:
            later = next(o for o in rows.outputs if o.pk == target.merged_into_id)
            raise Refused(f"Merge: {target} was merged into {later} since; undo that merge first.")
        merges = _merges_that_hold(rows)
        came = [
            w
            for w in rows.standing
            if w.pk in merges
            and w.output_id == target.pk
            and merges[w.pk].merged_from_id == again.pk
        ]
        _move(rows, came, again, by_id, undoes=merges)
        _expect_more(target, again, -1)
        again.merged_into = None
        Output.objects.bulk_update([again, target], ["merged_into", *SHARES])
    return _laid_again(test_id)


SHARES = ("share", "share_one", "share_rest")


def _expect_more(target: Output, other: Output, sign: int) -> None:
    """What is expected of one pile goes onto another (1) or off it again (-1), by either of two
    plans too, so that a split that moves later knows of the merge."""
    for name in SHARES:
        ours, theirs = getattr(target, name), getattr(other, name)
        if theirs is not None:  # a pile that was added at the block is expected by no plan
            setattr(target, name, (ours or ZERO) + sign * theirs)


def _merges_that_hold(rows: TestRows) -> dict[int, Move]:
    """The move of the last merge of each weighing that was neither undone nor moved on by hand."""
    holding: dict[int, list[Move]] = {}
    for move in Move.objects.filter(weighing__test=rows.test).order_by("id"):
        merges = holding.setdefault(move.weighing_id, [])
        if move.undoes_id is not None:
            del merges[-1:]
        elif move.merged_from_id is not None:
            merges.append(move)
        else:
            merges.clear()
    return {pk: merges[-1] for pk, merges in holding.items() if merges}


def _laid_again(test_id: UUID) -> TestRows:
    rows = load_known(test_id)
    lay_again(rows)
    return rows


def open_rows(test_id: UUID, consequence: str) -> TestRows:
    """The rows of an open test. Raises BadInput or Refused."""
    rows = must_load(test_id)
    must_be_open(rows.test, consequence)
    return rows


def _move(
    rows: TestRows,
    weighings: list[Weighing],
    to: Output,
    by_id: int | None,
    *,
    gone: Output | None = None,
    undoes: dict[int, Move] | None = None,
) -> None:
    now = timezone.now()
    moves = Move.objects.bulk_create(
        Move(
            weighing=weighing,
            to=to,
            merged_from=gone,
            at=now,
            by_id=by_id,
            undoes=undoes[weighing.pk] if undoes else None,
        )
        for weighing in weighings
    )
    carry(Acting(rows.test, by_id, now), moves, to)
    touch(rows.test)


def _pile_shown(rows: TestRows, wanted: str, field: str) -> Output:
    output = next((o for o in rows.piles if str(o.pk) == wanted), None)
    if output is None:
        raise BadInput(f"{field}: choose one of the piles shown.")
    return output


def _name_shown(rows: TestRows, wanted: object) -> str:
    found = next((o.name for o in rows.outputs if str(o.pk) == str(wanted)), "no pile")
    return f"“{found}”"
