"""Asking the fat tester for what it shows. See docs/formats/fat-tester.md."""

from dataclasses import dataclass
from decimal import Decimal

from django.conf import settings

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, parse_decimal, working
from rooms.common.clients.processes import Declined, NoAnswer, Unreadable, ask_json
from rooms.common.errors import Refused

SECONDS = 5
LARGEST = 4096


@dataclass(frozen=True)
class FatReading:
    """`name`: of the reading, new for each sample; `fat` as a share."""

    name: str
    fat: Decimal


def read_tester() -> FatReading:
    """The last sample. Raises Refused where no tester is connected, none answers, or it shows none."""
    if not settings.TESTER_URL:
        raise Refused("Tester: none is connected; type what it shows.")
    try:
        said = ask_json(settings.TESTER_URL + "/reading", seconds=SECONDS, largest=LARGEST)
        name, fat = str(said["reading"])[:40], parse_decimal(str(said["fat"]), "Fat")
    except Declined as no:
        raise Refused(f"Tester: {no.words[:200] or 'it shows nothing'}") from None
    except NoAnswer:
        raise Refused("Tester: it does not answer; type what it shows.") from None
    except (Unreadable, LookupError, TypeError, BadValue):
        raise Refused("Tester: what it says is not understood; type what it shows.") from None
    if not name or not 0 <= fat <= HUNDRED:
        raise Refused(f"Tester: {fat:f} % fat; 0 to 100 % is right. Test again.")
    with working():
        return FatReading(name, fat / HUNDRED)
