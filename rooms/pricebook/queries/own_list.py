"""The shop's own list of what it sells, matched with the catalog's cuts; doubts are asked."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

from cutting.errors import BadValue
from cutting.prices.margins import retail_price
from cutting.quantities import parse_decimal
from rooms.catalog.models import Cut, Species
from rooms.catalog.queries.finding import CUT, catalog_index
from rooms.catalog.queries.search import words_of
from rooms.common.errors import BadInput
from rooms.common.tables.files import as_record, headed, rows_of, text_of
from rooms.common.web.forms import tidy
from rooms.pricebook.models import Product
from rooms.shop.queries.current import house
from rooms.shop.queries.money import SIGNS, bare_amount

COLUMNS = {"name": "name", "product": "name", "cut": "name", "item": "name", "price": "price"} | {
    "per": "per",
    "unit": "per",
}
MOST_LINES = 300
MOST_CANDIDATES = 6
SURE, ASKED, TWO, UNKNOWN = "sure", "asked", "two", "unknown"
BETWEEN = re.compile(r"\s*(?:/|&|\+|;|,|\d+[.,]\d\d|\band\b)\s*", re.IGNORECASE)
LEAVE_OUT = "out"


@dataclass(frozen=True)
class ListLine:
    """One line as it stands: the price may be missing."""

    where: str
    name: str
    price: str
    per: str


@dataclass(frozen=True)
class Matched:
    """A line with the cuts it may mean; the first one where it is `sure`. `product`: it is sold
    already."""

    number: int
    line: ListLine
    state: str
    cuts: list[Cut]
    product: Product | None = None

    @property
    def usual(self) -> str:
        """The answer that stands there before anybody answers."""
        return str(self.cuts[0].pk) if self.state == SURE else ""

    @property
    def both(self) -> str:
        """The answer for two cuts on one line."""
        return "+".join(str(cut.pk) for cut in self.cuts)


def lines_of(raw: bytes) -> list[ListLine]:
    """The lines of a table with a first row of names, or of a plain list: name, then price.

    Raises BadInput for a file that is none, for no line, and for more than MOST_LINES.
    """
    table = rows_of(raw) if raw.strip() else []
    heads = headed(table[0][1], COLUMNS) if table else []
    if "name" in heads:
        records = [(where, as_record(heads, cells)) for where, cells in table[1:]]
        found = [
            ListLine(where, one["name"], one.get("price", ""), one.get("per", ""))
            for where, one in records
            if "name" in one
        ]
    elif raw.startswith(b"PK"):
        found = [_line(where, cells) for where, cells in table]
    else:
        plain = enumerate(text_of(raw).splitlines(), 1)
        found = [_line(f"row {i}", re.split(r"[\t;]", text)) for i, text in plain if text.strip()]
    if not found:
        raise BadInput("List: it is empty; one product a line is right, such as: Strip steak 17.99")
    if len(found) > MOST_LINES:
        raise BadInput(f"List: {len(found)} lines; at most {MOST_LINES} at once are right.")
    return found


def as_text(lines: Iterable[ListLine]) -> str:
    """The lines as a table with names, for the page to send back."""
    rows = ("\t".join(re.sub(r"\s", " ", part) for part in (x.name, x.price, x.per)) for x in lines)
    return "\n".join(("name\tprice\tper", *rows))


@lru_cache(maxsize=8)
def price_pattern(currency: str) -> re.Pattern[str]:
    """A name with its price behind it, in the shop's currency: “Flat iron kr 129/kg”."""
    words = sorted({currency, *SIGNS.get(currency, ()), "$", "€", "£"}, key=len, reverse=True)
    sign = f"(?:(?:{'|'.join(map(re.escape, words))})\\s*)?"
    return re.compile(
        rf"^(?P<name>.*?\w.*?)[\s,:]*[-–=]?\s*(?<![^\W\d_]){sign}(?P<price>\d+(?:[.,]\d{{1,2}})?)\s*{sign}"
        r"(?:(?:/|a|per)?\s*(?P<per>lb|kg)s?)?\.?$",
        re.IGNORECASE,
    )


def _line(where: str, cells: list[str]) -> ListLine:
    full = [cell.strip() for cell in cells if cell.strip()]
    price_at_end = price_pattern(house().currency)
    if len(full) > 1:
        name = next((cell for cell in full if re.search(r"[^\W\d_]", cell)), full[0])
        said = price_at_end.match("x " + next((c for c in full if c != name and _has_price(c)), ""))
    else:
        name, said = full[0], price_at_end.match(full[0])
        name = said["name"] if said else name
    price, per = (said["price"], said["per"] or "") if said else ("", "")
    return ListLine(where, name.strip(" .,:–-"), price, per)


def _has_price(cell: str) -> bool:
    return price_pattern(house().currency).match(f"x {cell}") is not None


class CutNames:
    """Every cut in use by its names: four queries."""

    def __init__(self) -> None:
        self.cuts = {cut.pk: cut for cut in Cut.objects.select_related("muscle")}
        self.index = catalog_index()
        self.named: dict[str, set[int]] = {}
        self.also: dict[str, set[int]] = {}
        for cut in self.cuts.values():
            others = (*cut.other_name.split(";"), *cut.synonyms)
            for kept, words in ((self.named, (cut.name, cut.house_name)), (self.also, others)):
                for same in filter(None, map(_same, words)):
                    kept.setdefault(same, set()).add(cut.pk)

    def sure(self, text: str) -> Cut | None:
        """The one cut that is called so, of the animal the text names.

        Another name of it is sure only where no other animal has something of that name: a shoulder
        may be anybody's.
        """
        animal, rest = _animal(text)
        for said in (text, rest):
            for kept in (self.named, self.also):
                hits = [self.cuts[pk] for pk in kept.get(_same(said), ())]
                hits = [cut for cut in hits if animal in ("", cut.species)]
                if len(hits) == 1 and (animal or kept is self.named or self._is_of_one(said)):
                    return hits[0]
        return None

    def _is_of_one(self, text: str) -> bool:
        found = [pk for kind, pk in self.index.find(text) if kind == CUT and pk in self.cuts]
        return len({self.cuts[pk].species for pk in found}) == 1

    def maybe(self, text: str) -> list[Cut]:
        """What it may be, the best first: by all its words, else by its longest ones."""
        animal, rest = _animal(text)
        longest = sorted(rest.split(), key=len, reverse=True)[:2]
        for said in (text, rest, *longest):
            ids = [pk for kind, pk in self.index.find(said) if kind == CUT and pk in self.cuts]
            found = [self.cuts[pk] for pk in ids if animal in ("", self.cuts[pk].species)]
            if found:
                return found[:MOST_CANDIDATES]
        return []

    def several(self, text: str) -> list[Cut]:
        """The cuts that the parts of a text are called, where they are more than one."""
        parts = [self.sure(part) for part in BETWEEN.split(text) if part.strip()]
        found = list(dict.fromkeys(part for part in parts if part is not None))
        return found if len(found) > 1 else []


def matched(lines: list[ListLine]) -> list[Matched]:
    """Each line with what it may mean: five queries for any number of lines."""
    names = CutNames()
    products = {row.cut_id: row for row in Product.objects.all()}
    found = []
    for number, line in enumerate(lines):
        if (cut := names.sure(line.name)) is not None:
            found.append(Matched(number, line, SURE, [cut], products.get(cut.pk)))
        elif several := names.several(line.name):
            found.append(Matched(number, line, TWO, several))
        else:
            maybe = names.maybe(line.name)
            found.append(Matched(number, line, ASKED if maybe else UNKNOWN, maybe))
    return found


def _same(text: str) -> str:
    """Words joined, each in the singular: "Rib-Eye Steaks" is ribeyesteak."""
    return "".join(word[:-1] if _is_plural(word) else word for word in words_of(text))


def _is_plural(word: str) -> bool:
    return len(word) > 3 and word.endswith("s") and not word.endswith("ss")


def _animal(text: str) -> tuple[str, str]:
    """The animal a text names, and the text without it."""
    words = text.split()
    said = [word for word in words if word.casefold() in Species.values]
    rest = " ".join(word for word in words if word not in said)
    return (said[0].casefold() if len(said) == 1 and rest else "", rest or text)


def price_of(line: ListLine) -> Decimal | None:
    """Raises BadValue for a price that no tag can show."""
    text = bare_amount(line.price, "price")
    if not text:
        return None
    if re.fullmatch(r"\d+,\d{1,2}", text):
        text = text.replace(",", ".")
    return retail_price(parse_decimal(tidy(text), "price"))


def unit_of(line: ListLine, usual: str) -> str:
    """The unit a line is priced by. Raises BadValue for one that is none."""
    text = line.per.strip().casefold().rstrip(".").removesuffix("s") or usual
    if text not in ("lb", "kg"):
        raise BadValue("per", f"“{line.per}”", "lb or kg is right")
    return text


def answered(found: list[Matched], answers: Mapping[int, str]) -> list[tuple[Matched, Cut]]:
    """The lines with the cut somebody chose; what is left out is left out.

    Raises BadInput, naming every line, for a doubt that nobody has answered and for an answer
    that was not asked.
    """
    chosen, open_ones = [], []
    cuts = {str(cut.pk): cut for cut in Cut.objects.select_related("muscle")}
    for one in found:
        answer = answers.get(one.number, one.usual)
        if answer == LEAVE_OUT:
            continue
        parts = [cuts.get(part) for part in answer.split("+")]
        if not answer or None in parts:
            open_ones.append(f"{one.line.where} “{one.line.name}”")
            continue
        chosen += [(one, cut) for cut in parts if cut is not None]
    if open_ones:
        many = ", ".join(open_ones[:8]) + (" and more" if len(open_ones) > 8 else "")
        raise BadInput(f"Cut: {many}: nobody said yet which it is; choose one, or leave it out.")
    return chosen
