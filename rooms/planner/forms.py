"""What is asked of a day, of ways side by side, and what the case wants."""

from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from django import forms

from cutting.planning.hands import MOST_CUTTERS
from cutting.quantities import ZERO, Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import Piece as CorePiece
from rooms.catalog.models import Piece, Plan
from rooms.common.web.forms import ListForm, PlainDecimal
from rooms.planner.models import BuyingTerms
from rooms.planner.queries.boxes import boxes_of
from rooms.planner.queries.chains import goes_on
from rooms.planner.queries.crew import DayAsked
from rooms.shop.queries.current import house

AIMS = [("profit", "the most gross profit"), ("hour", "the most an hour")]
STEPS = [(1, "whole, by one way"), (2, "also in halves"), (4, "also in quarters")]
USUAL_HOURS = Decimal(3)
MOST_HOURS = 14


class DayForm(forms.Form):
    """Who is there and for how long, what the block loses; what is pinned stands in the rows of the
    bags."""

    optional_word = "not there"
    use_required_attribute = False

    key = forms.UUIDField(widget=forms.HiddenInput)
    begins = forms.TimeField(label="Begins at", widget=forms.TimeInput(attrs={"type": "time"}))
    aim = forms.ChoiceField(label="Aim", choices=AIMS, required=False)
    least_products = forms.IntegerField(
        label="Different products, at least", min_value=0, max_value=60, required=False
    )
    steps = forms.TypedChoiceField(label="A bag is cut", choices=STEPS, coerce=int)
    is_anyone = forms.BooleanField(label="Anybody may cut a piece new to them", required=False)
    wash = PlainDecimal(label="A washed board, minutes", least=0, most=60, example="6")
    saw = PlainDecimal(label="The saw set up and cleaned, minutes", least=0, most=60, example="8")
    wait = PlainDecimal(label="Firming in the freezer, minutes", least=0, most=600, example="40")
    freezer = PlainDecimal(
        label="Room in the freezer", above=0, most=10000, required=False, example="40"
    )

    WHO = ("begins", "aim", "least_products", "steps", "is_anyone")
    LOSSES = ("wash", "saw", "wait", "freezer")

    def __init__(self, *args: Any, people: Sequence[tuple[int, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.people = people
        for pk, name in people:
            self.fields[f"hours_{pk}"] = PlainDecimal(
                label=f"{name}, hours", above=0, most=MOST_HOURS, required=False, example="3.5"
            )
        for name in ("aim", "least_products", "is_anyone"):
            self.fields[name].optional_word = "none"
        self.fields["freezer"].label = f"Room in the freezer, {house().unit.value}"
        self.fields["freezer"].optional_word = "enough"

    @property
    def hours_fields(self) -> list[forms.BoundField]:
        return [self[f"hours_{pk}"] for pk, _ in self.people]

    @property
    def other_fields(self) -> list[forms.BoundField]:
        return [self[name] for name in self.WHO]

    @property
    def loss_fields(self) -> list[forms.BoundField]:
        return [self[name] for name in self.LOSSES]

    def clean(self) -> Any:
        data = super().clean()
        here = [pk for pk, _ in self.people if data.get(f"hours_{pk}")]
        wrong = any(name.startswith("hours_") for name in self.errors)
        if not wrong and not 1 <= len(here) <= MOST_CUTTERS:
            raise forms.ValidationError(
                f"Hours: {len(here)} have some; 1 to {MOST_CUTTERS} cutters are right."
            )
        return data

    def asked(self, pins: Mapping[str, str]) -> DayAsked:
        """Only after is_valid()."""
        data = self.cleaned_data
        hours = {pk: data[f"hours_{pk}"] for pk, _ in self.people}
        return DayAsked(
            minutes={pk: own * 60 for pk, own in hours.items() if own},
            least_products=data["least_products"] or 0,
            pins=pins,
            is_anyone=data["is_anyone"],
            wash=data["wash"],
            saw=data["saw"],
            wait=data["wait"],
            freezer=Weight(data["freezer"], house().unit) if data["freezer"] else None,
            steps=data["steps"],
        )


class WaysForm(forms.Form):
    """The piece as it is bought, and the ways to set side by side."""

    optional_word = "none"
    use_required_attribute = False

    weight = PlainDecimal(label="Weight", above=0, most=2000)
    unit = forms.ChoiceField(label="Unit", choices=[("lb", "lb"), ("kg", "kg")])
    price = PlainDecimal(label="Price paid for one lb or kg", above=0, most=10000, example="4.35")
    freight = PlainDecimal(label="Freight", least=0, most=100000, required=False)
    plans = forms.ModelMultipleChoiceField(
        Plan.objects.none(),
        label="Ways",
        widget=forms.CheckboxSelectMultiple,
        to_field_name="key",
    )

    box_freight = PlainDecimal(
        label="Freight of boxes, per lb or kg", least=0, most=100, required=False, example="0.12"
    )

    def __init__(self, *args: Any, piece: Piece, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.piece = piece
        self.boxes = boxes_of(piece) if "boxes" in self.data else []
        for box in self.boxes:
            price = box.words(self["unit"].value())
            field = PlainDecimal(label=box.name, above=0, most=10000, required=False)
            field.widget.attrs["placeholder"] = price and f"{price}, invoice"
            self.fields[f"box-{box.key}"] = field
        self.fields["plans"].queryset = Plan.in_house_order(piece.plans.all())
        self.fields["plans"].label_from_instance = lambda plan: plan.name

    def clean_plans(self) -> Any:
        plans = list(self.cleaned_data["plans"])
        if len(plans) == 1 and goes_on(plans[0]):
            return plans  # it ends at whole pieces, or is carried on
        if not 2 <= len(plans) <= 4:
            raise forms.ValidationError(f"{len(plans)} are ticked; two to four are right.")
        return plans

    @property
    def box_fields(self) -> list[forms.BoundField]:
        return [self[name] for name in self.fields if name.startswith("box-")]

    @property
    def is_boxed(self) -> bool:
        """Whether boxes are asked about, and any plan of the piece gives what comes in them."""
        return bool(self.boxes)

    @property
    def box_prices(self) -> dict[str, Decimal]:
        """What was typed for boxes, by the key of the piece. Only after is_valid()."""
        return {
            name.removeprefix("box-"): value
            for name, value in self.cleaned_data.items()
            if name.startswith("box-") and value is not None
        }

    def bought(self) -> CorePiece:
        """Only after is_valid()."""
        data, unit = self.cleaned_data, Unit(self.cleaned_data["unit"])
        return CorePiece(
            Weight(data["weight"], unit),
            UnitPrice(data["price"], unit),
            self.piece.shown_name,
            self.piece.species,
            freight=data["freight"] or ZERO,
        )


class TermsForm(ListForm):
    """How a piece is bought."""

    of_list = BuyingTerms

    optional_word = "none"
    use_required_attribute = False

    piece = forms.ModelChoiceField(Piece.objects.all(), label="Piece", to_field_name="key")
    in_case = forms.IntegerField(label="In a case", min_value=1, max_value=100)
    more = PlainDecimal(
        label="One alone costs more a lb or kg", least=0, most=100, required=False, example="0.35"
    )
