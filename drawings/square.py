"""Pearson's square as one draws it: two tubs left, the aim in the middle, the parts across."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from cutting.grinding.blend import pearson
from cutting.quantities import HUNDRED, ONE, round_half_up, working

WIDTH, HEIGHT, PAD = 420.0, 150.0, 24.0


@dataclass(frozen=True)
class SquareText:
    x: float
    y: float
    words: str
    anchor: str = "start"


@dataclass(frozen=True)
class SquarePicture:
    """A box with its two diagonals and the words at its corners; `words`: read aloud."""

    box: tuple[float, float, float, float]
    lines: tuple[tuple[float, float, float, float], ...]
    texts: tuple[SquareText, ...]
    words: str
    width: float = WIDTH
    height: float = HEIGHT


def square_picture(
    leaner: tuple[str, Decimal], fatter: tuple[str, Decimal], aim: Decimal, pounds: Decimal
) -> SquarePicture:
    """`leaner`, `fatter`: a tub's name and its fat share; `aim`: the fat wanted. Raises BadValue as
    `pearson` does."""
    found = pearson(leaner[1], fatter[1], aim, pounds)

    def percent(share: Decimal) -> str:
        with working():
            return f"{round_half_up((ONE - share) * HUNDRED, 0):f}"

    def points(parts: Decimal) -> str:
        with working():
            return f"{round_half_up(parts * HUNDRED, 1):f}"

    left, right, top, bottom = 150.0, 270.0, PAD, HEIGHT - PAD
    middle = (left + right) / 2, (top + bottom) / 2
    texts = (
        SquareText(left - 8, top + 6, f"{leaner[0]} {percent(leaner[1])}", "end"),
        SquareText(left - 8, bottom + 6, f"{fatter[0]} {percent(fatter[1])}", "end"),
        SquareText(middle[0], middle[1] + 5, percent(aim), "middle"),
        SquareText(
            right + 8, top + 6, f"{points(found.leaner_parts)} parts, {found.leaner:.1f} lb"
        ),
        SquareText(
            right + 8, bottom + 6, f"{points(found.fatter_parts)} parts, {found.fatter:.1f} lb"
        ),
    )
    gap = 18.0
    slope = (bottom - top) / (right - left)
    inner = (middle[0] - gap, middle[1] - gap * slope, middle[0] + gap, middle[1] + gap * slope)
    lines = (
        (left, top, inner[0], inner[1]),
        (inner[2], inner[3], right, bottom),
        (left, bottom, inner[0], inner[3]),
        (inner[2], inner[1], right, top),
    )
    words = (
        f"Square: {leaner[0]} {percent(leaner[1])} lean {points(found.leaner_parts)} parts,"
        f" {fatter[0]} {percent(fatter[1])} lean {points(found.fatter_parts)} parts,"
        f" for {percent(aim)} lean"
    )
    box = (left, top, right - left, bottom - top)
    return SquarePicture(box, lines, texts, words)
