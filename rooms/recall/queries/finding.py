"""What somebody typed or scanned: which lots, tests, tubs, batches and trays it may be."""

import re
from dataclasses import dataclass
from typing import Any
from urllib.parse import unquote

from django.db.models import Q

from cutting.tracing.lots import lot_key
from rooms.bench.models import CuttingTest
from rooms.common.errors import BadInput
from rooms.cooler.models import Bag
from rooms.cooler.queries.scanning import scan
from rooms.grinder.models import Batch, TrimTub, TubLot
from rooms.grinder.queries.lots import lot_name
from rooms.grinder.queries.sources import OF_BATCH, OF_TEST
from rooms.trays.models import Tray

LONGEST = 300
OF_TRAY = re.compile(r"(?i)^(?:tray\s*)?#?([0-9]{1,9})$", re.ASCII)
OF_RUN = re.compile(r"^[0-9]{5}-([0-9]{1,9})$", re.ASCII)
"""What the record names the batches between two clean-downs by."""
OF_LINK = re.compile(r"/21/([^/?#]+)")
MOST = 12


@dataclass(frozen=True)
class Match:
    """One thing that the text may be. `name`: a lot's key, else the id."""

    kind: str
    name: str
    words: str


def found(text: str) -> list[Match]:
    """Everything that it may be, the likeliest first: ten queries at most.

    Raises BadInput for nothing, something too long, and what is no code of this shop.
    """
    words = " ".join(text.split())
    if not words or len(words) > LONGEST or "\x00" in words:
        raise BadInput(
            f"Code: {len(words)} characters; a lot, test, tub, batch, tray or a label's code is right."
        )
    matches = _scanned(words) or [*_of_the_house(words), *_lots(words), *_tubs(words)]
    if not matches:
        raise BadInput(
            f"Code: nothing here is “{words[:60]}”; a lot as on the bag, “test 12”, “G-12”, “tray 12” or"
            " what the scanner reads is right."
        )
    return matches


def _scanned(words: str) -> list[Match]:
    """A link behind a QR, an element string, a number of the store's own, the serial under it."""
    link = OF_LINK.search(words) if "/" in words else None
    if link:
        return _serial(unquote(link[1]))
    if words.isascii() and words.isdecimal() and len(words) == SERIAL:
        return _serial(words) or _store_code(words)
    store = _store_code(words)
    if store:
        return store
    if words[0] in "(]\x1d" or (words.isascii() and words.startswith("01") and len(words) > 16):
        label = scan(words)
        bags = Bag.objects.filter(gtin=label.gtin, serial=label.serial) if label.serial else ()
        own = [Match("bag", str(bag.pk), f"bag, lot {bag.lot}") for bag in bags]
        return _serial(label.serial) or own or (_lots(label.lot) if label.lot else [])
    return []


SERIAL = 12


def _serial(serial: str) -> list[Match]:
    tray = Tray.objects.filter(serial=serial).select_related("product").first() if serial else None
    return [_tray(tray)] if tray is not None else []


def _tray(tray: Tray) -> Match:
    words = f"{tray}, {tray.product}, {tray.net:f} {tray.unit}, {tray.get_life_display()}"
    return Match("tray", str(tray.pk), words)


def _store_code(words: str) -> list[Match]:
    """As it stands on the label: every tray of the same product and price, or weight."""
    if not (words.isascii() and words.isdecimal() and len(words) in (12, 13)):
        return []
    codes = {words, words.removeprefix("0")} if len(words) == 13 else {words}
    trays = Tray.objects.standing().select_related("product", "mark")
    rows = trays.filter(Q(code__in=codes) | Q(mark__code__in=codes))
    return [_tray(tray) for tray in rows[:MOST]]


def _of_the_house(words: str) -> list[Match]:
    """“G-12”, “test 12”, “tray 12”; a bare number may be a test or a tray."""
    of_batch, of_test = OF_BATCH.match(words), OF_TEST.match(words)
    of_run = OF_RUN.match(words)
    of_tray = OF_TRAY.match(words)
    matches = []
    if of_run:
        batches = Batch.objects.filter(cleaned=int(of_run[1])).order_by("number")
        own = [one for one in batches if lot_name(one) == words]
        matches += [Match("batch", str(one.pk), f"{one}, {one.name}") for one in own]
    if of_batch:
        batches = Batch.objects.filter(number=int(of_batch[1]))
        matches += [Match("batch", str(one.pk), f"{one}, {one.name}") for one in batches]
    if of_tray:
        trays = Tray.objects.filter(number=int(of_tray[1])).select_related("product")
        matches += [_tray(one) for one in trays]
    bare = of_tray if of_tray and not words.lower().startswith("tray") else None
    number = of_test or bare
    if number:
        tests = CuttingTest.objects.filter(number=int(number[1]))
        matches += [
            Match("test", str(one.pk), f"test {one.number}, {one.piece_name}") for one in tests
        ]
    return matches


def _lots(words: str) -> list[Match]:
    """However it is written: three queries."""
    key = lot_key(words)
    if not key:
        return []
    written: dict[str, None] = {}
    for rows in (Bag.objects, CuttingTest.objects, TubLot.objects):
        some: Any = rows.filter(lot_key=key).values_list("lot", flat=True)
        written |= dict.fromkeys(some.distinct()[:MOST])
    if not written:
        return []
    return [Match("lot", key, f"supplier lot {', '.join(written)}")]


def _tubs(words: str) -> list[Match]:
    rows = TrimTub.objects.filter(name__iexact=words).order_by("-started_at")[:MOST]
    return [Match("tub", str(one.pk), f"tub {one.name}, {one.started_at:%Y-%m-%d}") for one in rows]
