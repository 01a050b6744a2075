"""Draws docs/architecture.svg from what the code imports: rooms, core, devices, and the arrows.

python tools/architecture.py          writes the picture
python tools/architecture.py --check  exit 1 when the picture is not what the code is
"""

import sys
from pathlib import Path

import grimp

ROOT = Path(__file__).parents[1]
PICTURE = ROOT / "docs" / "architecture.svg"
SAYS = {
    "demo": "the invented shop",
    "today": "the morning page",
    "pricing": "building prices, cost changes",
    "planner": "the day, ways, orders, ads, what to buy",
    "demand": "what the case needs, seasons, sales",
    "recall": "where meat went, recalls",
    "trays": "packing, labels, markdown",
    "grinder": "tubs, blends, grind log",
    "bench": "cutting tests, weighings, sheets",
    "shop": "settings, the first day",
    "cooler": "deliveries, bags, temperature",
    "pricebook": "products and dated prices",
    "catalog": "animals, pieces, cuts, guides",
    "staff": "people, tablets, rights",
    "common": "what every room uses",
    "layout": "where to put the knife",
    "planning": "the day, the next order, what to buy",
    "ways": "plans compared, chained, mixed",
    "grinding": "tubs, blends, names",
    "prices": "margins, ladders, ads",
    "costing": "the schools",
    "sheet": "balance, yields, portions",
    "quantities": "weights, money, units",
}
ROOMS = (
    "demo",
    "today",
    "recall",
    "pricing",
    "planner",
    "demand",
    "trays",
    "grinder",
    "bench",
    "layout",
    "cooler",
    "pricebook",
    "catalog",
    "shop",
    "staff",
    "common",
)
CORE = (
    "planning",
    "ways",
    "grinding",
    "layout",
    "cooler",
    "prices",
    "costing",
    "sheet",
    "quantities",
)
ROW, HIGH, TOP = 58, 44, 64
LEFT, WIDE, CORE_LEFT = 250, 330, 690


def edges(package: str, parts: tuple[str, ...]) -> list[tuple[str, str]]:
    """Which part of a package imports which other, directly."""
    graph = grimp.build_graph(package, cache_dir=None)
    found = []
    for part in parts:
        name = f"{package}.{part}"
        for other in parts:
            target = f"{package}.{other}"
            if part != other and graph.direct_import_exists(
                importer=name, imported=target, as_packages=True
            ):
                found.append((part, other))
    return found


def column(package: str, parts: tuple[str, ...], left: int, bend: int) -> list[str]:
    """Boxes from the top in import order; arrows beside them, a short way further in."""
    high = {part: TOP + i * ROW for i, part in enumerate(parts)}
    drawn = []
    for part, other in edges(package, parts):
        start, end = high[part] + HIGH // 2 + 6, high[other] + HIGH // 2 - 6
        out = left - bend * (parts.index(other) - parts.index(part)) ** 0.8 - 14
        drawn.append(
            f'<path class="arrow" d="M{left} {start}C{out:.0f} {start} {out:.0f} {end} {left} {end}"'
            f' marker-end="url(#tip)"><title>{part} uses {other}</title></path>'
        )
    for part in parts:
        y = high[part]
        drawn.append(
            f'<rect x="{left}" y="{y}" width="{WIDE}" height="{HIGH}" rx="6"/>'
            f'<text x="{left + 14}" y="{y + 27}"><tspan class="name">{part}</tspan>'
            f'<tspan dx="10">{SAYS.get(part, "receiving, ageing, temperature")}</tspan></text>'
        )
    return drawn


def picture() -> str:
    height = TOP + ROW * max(len(ROOMS), len(CORE)) + 20
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1060 {height}" font-family="sans-serif"'
        ' font-size="14">',
        "<style>rect{fill:#fffdf8;stroke:#424d54}.ground{fill:#f7f2e8;stroke:none}text{fill:#1f2a30}"
        ".name{font-weight:700}.head{font-size:17px;font-weight:700}"
        ".arrow{fill:none;stroke:#0b4a50;stroke-width:1.3;opacity:.7}</style>",
        '<defs><marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" markerHeight="7"'
        ' orient="auto"><path d="M0 0L8 4L0 8Z" fill="#0b4a50"/></marker></defs>',
        f'<rect class="ground" width="1060" height="{height}"/>',
        f'<text class="head" x="{LEFT}" y="40">rooms/: an arrow is an import</text>',
        f'<text class="head" x="{CORE_LEFT}" y="40">cutting/: every room uses it</text>',
        *column("rooms", ROOMS, LEFT, 38),
        *column("cutting", CORE, CORE_LEFT, 16),
        "</svg>",
    ]
    return "\n".join(parts) + "\n"


if __name__ == "__main__":
    drawn = picture()
    if "--check" in sys.argv:
        if not PICTURE.exists() or PICTURE.read_text() != drawn:
            sys.exit("docs/architecture.svg is not what the code is: run tools/architecture.py")
    else:
        PICTURE.write_text(drawn)
