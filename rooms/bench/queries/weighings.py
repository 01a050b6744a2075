"""Every weighing of a test in a list, with the piles it can go to."""

from dataclasses import dataclass

from django.db.models import prefetch_related_objects

from rooms.bench.models import Output, Weighing
from rooms.bench.queries.piles import sum_of
from rooms.bench.queries.rows import TestRows
from rooms.catalog.queries.looks import looks


@dataclass(frozen=True)
class WeighingLine:
    """One weighing: where it lies, where it was taken, whether it counts."""

    weighing: Weighing
    pile: Output
    look: str
    first: Output | None
    """Where it was taken, when that is another pile."""

    @property
    def stands(self) -> bool:
        return self.weighing.back_id is None


@dataclass(frozen=True)
class WeighingsView:
    lines: list[WeighingLine]
    piles: list[tuple[Output, str, str]]
    """Each pile shown, what it holds in words, its look."""
    merged: list[tuple[Output, Output]]

    @property
    def may_go(self) -> list[tuple[int, str]]:
        """Piles that may be merged away, with what they hold."""
        return [(output.pk, f"{output} ({holds})") for output, holds, _ in self.piles]

    @property
    def may_take(self) -> list[tuple[int, str]]:
        return [(output.pk, str(output)) for output, _, _ in self.piles]

    @property
    def usual_goal(self) -> int | None:
        return self.piles[-1][0].pk if self.piles else None


def weighings_view(rows: TestRows) -> WeighingsView:
    """The last weighing first: two queries beside the rows."""
    prefetch_related_objects(rows.weighings, "taken_by", "tub")
    by_id = {output.pk: output for output in rows.outputs}
    look = looks(rows.outputs)
    lines = []
    for weighing in reversed(rows.weighings):
        first = by_id[weighing.first_output_id]
        pile = by_id[weighing.output_id]
        lines.append(
            WeighingLine(weighing, pile, look[pile.pk], first if first is not pile else None)
        )
    piles = [(output, sum_of(rows, output), look[output.pk]) for output in rows.piles]
    merged = [(o, by_id[o.merged_into_id]) for o in rows.outputs if o.merged_into_id is not None]
    return WeighingsView(lines, piles, merged)
