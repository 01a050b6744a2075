"""The four pictures of safe handling, drawn for a thermal head: a dot of a picture is a square of black.

9 CFR 317.2(l) asks for a picture beside each rule: refrigerator, washing, pan, thermometer (value from
memory). Ours are drawn here; `#` is black.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Icon:
    """A square of `side` dots; `runs`: x, y and length of each run of black."""

    side: int
    runs: tuple[tuple[int, int, int], ...]


def icon_of(rows: tuple[str, ...]) -> Icon:
    """Return the runs of a picture written as rows of `#` and `.`. Raises ValueError where it is no square."""
    side = len(rows)
    if any(len(row) != side for row in rows):
        raise ValueError("a picture is a square")
    runs = []
    for y, row in enumerate(rows):
        start = None
        for x, dot in enumerate([*row, "."]):
            if dot == "#" and start is None:
                start = x
            elif dot != "#" and start is not None:
                runs.append((start, y, x - start))
                start = None
    return Icon(side, tuple(runs))


REFRIGERATOR = icon_of(
    (
        "...##########...",
        "..#..........#..",
        "..#..........#..",
        "..#.#........#..",
        "..#.#........#..",
        "..#..........#..",
        "..############..",
        "..#..........#..",
        "..#.#........#..",
        "..#.#........#..",
        "..#.#........#..",
        "..#..........#..",
        "..#..........#..",
        "..############..",
        "...##......##...",
        "................",
    )
)
WASHING = icon_of(
    (
        "......######....",
        ".....#......#...",
        ".....#......#...",
        "..####....####..",
        "..........#..#..",
        "..........#..#..",
        "...........##...",
        "............#...",
        "...........#....",
        "..##......#..##.",
        "#....#..#..#....",
        ".####....####..#",
        "..############..",
        "...##########...",
        "....########....",
        "................",
    )
)
PAN = icon_of(
    (
        "................",
        "....#...#...#...",
        "...#...#...#....",
        "....#...#...#...",
        "...#...#...#....",
        "................",
        "...########.....",
        "###########..###",
        "#..........##...",
        "#.........#.....",
        ".#########......",
        "................",
        "..#..#..#..#....",
        ".##.##.##.##....",
        "..#..#..#..#....",
        "................",
    )
)
THERMOMETER = icon_of(
    (
        ".......##.......",
        "......#..#......",
        "......#..#..###.",
        "......#..#......",
        "......#.##..###.",
        "......#.##......",
        "......####..###.",
        "......####......",
        "......####..###.",
        ".....######.....",
        "....########....",
        "....########....",
        "....########....",
        ".....######.....",
        "......####......",
        "................",
    )
)
ICONS = (REFRIGERATOR, WASHING, PAN, THERMOMETER)
"""In the order of the rules."""
