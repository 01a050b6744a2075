"""What a pile holds, in words."""

from rooms.bench.models import Output
from rooms.bench.queries.rows import TestRows


def sum_of(rows: TestRows, output: Output) -> str:
    """What a pile holds, in words that two versions can be told apart by."""
    weighings = rows.of(output)
    if not weighings:
        return "nothing"
    if len(weighings) > 3:
        return f"{len(weighings)} weighings, the last {weighings[-1]}"
    return " + ".join(str(weighing) for weighing in weighings)
