"""The fields of give and take: what is moved, its sizes, and the prices on both sides."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from django import forms

from rooms.common.web.forms import PlainDecimal

LABELS = {"length": "Length, in", "width": "Width, in", "each": "One rib weighs, lb"}
MOST = {"layer": Decimal(4), "pieces": Decimal(20), "weight": Decimal(100)}
MOST_SIZE = Decimal(100)
MOST_PRICE = Decimal(10000)


class GivingForm(forms.Form):
    """`prices`: by field the product's name and today's price of it, None without one."""

    optional_word = "none"
    use_required_attribute = False

    def __init__(
        self,
        link: Mapping[str, Any],
        prices: Mapping[str, tuple[str, Decimal | None]],
        typed: Mapping[str, str],
    ) -> None:
        sizes = [name for name in LABELS if name in link]
        usual = {name: str(link[name]) for name in ("amount", *sizes)}
        self.racks = link.get("racks", [])
        if self.racks:
            usual["broken"] = "0"
        usual |= {
            name: "" if amount is None else f"{amount:f}" for name, (_, amount) in prices.items()
        }
        super().__init__(usual | dict(typed), auto_id="in-%s")
        most = MOST.get(link["kind"], MOST_SIZE)
        self.fields["amount"] = PlainDecimal(label=link["question"], least=0, most=most)
        if self.racks:
            ways = [(str(i), rack["broken"]) for i, rack in enumerate(self.racks)]
            self.fields["broken"] = forms.ChoiceField(label="The shoulder came off", choices=ways)
        for name in sizes:
            self.fields[name] = PlainDecimal(label=LABELS[name], least=0, most=MOST_SIZE)
        for name, (product, _) in prices.items():
            self.fields[name] = PlainDecimal(
                label=f"Price of {product}", required=False, least=0, most=MOST_PRICE
            )
        self.full_clean()

    def fault(self, field: str) -> str:
        """What is wrong in one field, with its name; empty when nothing is."""
        wrong = self.errors.get(field)
        return f"{self.fields[field].label}: {' '.join(wrong)}" if wrong else ""

    @property
    def ribs(self) -> int | None:
        """How many ribs the rack had, from where the side was broken; None without a rack."""
        way = self.cleaned_data.get("broken")
        return None if way is None else self.racks[int(way)]["ribs"]

    def numbers(self) -> dict[str, Decimal | None]:
        """The amount and the sizes, None for one that is wrong."""
        return {
            name: self.cleaned_data.get(name) for name in ("amount", *LABELS) if name in self.fields
        }
