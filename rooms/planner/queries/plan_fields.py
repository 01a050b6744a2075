"""The fields of the ad planner and of what to buy, as their pages and kept plans have them."""

from decimal import Decimal
from typing import Any

from django import forms

from cutting.planning.buying import TestsGave
from rooms.catalog.models import Plan
from rooms.common.web.forms import Percent, PlainDecimal
from rooms.common.web.formsets import NumberedForm
from rooms.pricebook.models import Price, Product
from rooms.pricebook.queries.product_terms import usual_target
from rooms.shop.queries.current import house
from wording.pencil import money, percent

Book = list[tuple[Product, Price]]
MOST_POUNDS = 100_000


def is_key(text: str) -> bool:
    """Whether a field may hold the number of a row."""
    return text.isascii() and text.isdecimal() and len(text) < 18


class AdRow(NumberedForm):
    """A product of the ad week; row 0 is the ad item. Empty fields mean what the book says."""

    product = forms.CharField(required=False, widget=forms.Select)
    price = PlainDecimal(label="price", required=False, above=0, most=MOST_POUNDS)
    usual = PlainDecimal(label="usual", required=False, above=0, most=MOST_POUNDS)
    cost = PlainDecimal(label="cost", required=False, least=0, most=MOST_POUNDS)
    usual_pounds = PlainDecimal(label="usual pounds", required=False, least=0, most=MOST_POUNDS)
    pounds = PlainDecimal(label="pounds", required=False, least=0, most=MOST_POUNDS)

    def __init__(self, *args: Any, book: Book, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        at = self.prefix
        pk = str(self["product"].value() or "").strip()
        found = next(((p, price) for p, price in book if pk == str(p.pk)), None)
        self.chosen: Product | None = found[0] if found else None
        self.price_in_book: Price | None = found[1] if found else None
        first = "the ad item" if self.is_item else "a cut around it"
        choices = [(p.pk, f"{p}, {p.cut.species}") for p, _ in book]
        self.fields["product"].widget.choices = [("", first), *choices]
        self.label_cells(
            product="Ad item" if self.is_item else f"Product {at} around it",
            price=f"Price in the ad week, row {at}",
            usual="Usual price",
            cost=f"Cost, row {at}",
            usual_pounds=f"Sold in a usual week, row {at}",
            pounds=f"Sold in the ad week, row {at}",
        )
        if self.price_in_book:
            usual = "usual" if self.is_item else "price"
            self._hint(usual, self.price_in_book.amount)
            self._hint("cost", self.price_in_book.cost)

    def _hint(self, field: str, value: Decimal | None) -> None:
        if value is not None:
            self.fields[field].widget.attrs["placeholder"] = money(value)

    @property
    def is_item(self) -> bool:
        return self.prefix == "0"


class AdForm(forms.Form):
    """The share to merchandise: two plans and the goal."""

    optional_word = "none"
    use_required_attribute = False
    auto_id = "%s"

    plain = forms.CharField(label="The ad pieces cut as", required=False, widget=forms.Select)
    other = forms.CharField(
        label="some of them merchandised as", required=False, widget=forms.Select
    )
    goal = Percent(label="Goal, % of sales", required=False, least=0, most=95)

    def __init__(
        self, data: Any, plans: list[Plan], usual: tuple[Plan | None, Plan | None]
    ) -> None:
        plain, other = ("" if plan is None else str(plan.pk) for plan in usual)
        super().__init__(filled(data, plain=plain, other=other, goal=usual_target()), auto_id="%s")
        choices = [(plan.pk, f"{plan.piece.shown_name}: {plan}") for plan in plans]
        for name in ("plain", "other"):
            self.fields[name].widget.choices = [("", "choose a plan"), *choices]
        self.fields["goal"].widget.attrs["class"] = "narrow-input"


class SpecRow(NumberedForm):
    """One thing to buy: from tests, or typed over them."""

    group = forms.CharField(required=False, widget=forms.Select)
    name = forms.CharField(required=False, max_length=60)
    price = PlainDecimal(label="price", required=False, above=0, most=1000)
    ready = Percent(label="yield", required=False, above=0, most=100)
    minutes = PlainDecimal(label="minutes", required=False, least=0, most=600)
    credits = PlainDecimal(label="credits", required=False, least=0, most=1000)

    def __init__(self, *args: Any, groups: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        at = self.prefix
        self.fields["group"].widget.choices = [("", "none: typed"), *groups]
        self.label_cells(
            group=f"Tests for row {at}",
            name=f"Name, row {at}",
            price=f"Price, row {at}",
            ready=f"Ready, row {at}",
            minutes=f"Minutes, row {at}",
            credits=f"Credits, row {at}",
        )

    def hint(self, gave: TestsGave) -> None:
        """What the tests say stands in the empty fields."""
        said = {
            "price": money(gave.price),
            "ready": percent(gave.ready.share).removesuffix(" %"),
            "minutes": "" if gave.minutes is None else money(gave.minutes),
            "credits": money(gave.credits),
        }
        for name, words in said.items():
            self.fields[name].widget.attrs["placeholder"] = words


class BuyForm(forms.Form):
    optional_word = "none"

    rate = PlainDecimal(label="Labour, an hour", required=False, least=0, most=1000)

    def __init__(self, data: Any) -> None:
        super().__init__(filled(data, rate=f"{house().labour_rate:f}"), auto_id="%s")
        self.fields["rate"].widget.attrs["class"] = "narrow-input"


def filled(data: Any, **usual: str) -> dict[str, str]:
    """The fields with their usual values where nothing was typed."""
    return {name: (data.get(name) or "").strip() or value for name, value in usual.items()}
