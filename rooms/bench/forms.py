"""The form that opens a piece."""

import uuid
from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from typing import Any

from django import forms
from django.http import QueryDict
from django.utils import timezone

from cutting.quantities import HUNDRED, Unit, UnitPrice, Weight, price_of_total
from cutting.sheet.choices import off_the_list
from rooms.bench.actions.layout import Laying
from rooms.bench.actions.open_test import (
    BLANK,
    HEAVIEST,
    LAST,
    LONGEST_REASON,
    PLAN,
    Opening,
    last_of,
)
from rooms.bench.actions.pieces import Keeping
from rooms.bench.models import Tare
from rooms.bench.queries.opening import OfBags
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.catalog.queries.shapes import shapes
from rooms.common.errors import BadInput
from rooms.common.web.forms import ListForm, PlainDecimal
from rooms.common.web.formsets import NumberedForm
from rooms.cooler.forms import CARRIED, DAMAGE, MarblingField
from rooms.layout.forms import read
from rooms.shop.models import FAT_CHOICES
from rooms.shop.queries.current import house

UNITS = [("lb", "lb"), ("kg", "kg")]
HALF = Decimal(50)


class TareForm(ListForm):
    """A tub of known weight, new or weighed again. What is right is said by the action."""

    of_list = Tare
    use_required_attribute = False
    optional_word = "none"

    name = forms.CharField(
        label="Name",
        max_length=40,
        strip=False,
        widget=forms.TextInput(attrs={"placeholder": "Blue tub", "autocomplete": "off"}),
    )
    value = forms.CharField(
        label="Weight",
        max_length=40,
        widget=forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"}),
    )
    unit = forms.ChoiceField(label="Unit", choices=[(u, u) for u in ("lb", "oz", "kg", "g")])


class PlanField(forms.ModelChoiceField):
    def label_from_instance(self, plan: Any) -> Any:
        return plan.name


class ChoiceRow(NumberedForm):
    """What of one counted pile is chosen otherwise than its plan has it. Its number is the pile's
    place in the plan."""

    target = forms.CharField(label="Target", max_length=20, required=False)
    thickness = forms.CharField(label="Thickness", max_length=20, required=False)

    def __init__(self, *args: Any, output: PlanOutput, **kwargs: Any) -> None:
        self.output = output
        super().__init__(*args, **kwargs)
        for name, usual in self.usual.items():
            self.fields[name].initial = usual
            self.fields[name].widget.attrs["size"] = 8
        self.label_cells(target=f"Target of {output.name}", thickness=f"Thickness of {output.name}")

    @property
    def usual(self) -> dict[str, str]:
        output = self.output
        target = output.target_value
        return {
            "target": "" if target is None else f"{target:f} {output.target_unit}",
            "thickness": output.thickness,
        }

    def choices(self) -> list[tuple[int, str, str]]:
        """Those that differ from the plan; an empty field leaves it to the plan."""
        return [
            (self.output.position, name, typed)
            for name, usual in self.usual.items()
            if (typed := " ".join(self.cleaned_data[name].split())) and typed != usual
        ]


def choice_rows(plan: Plan | None, data: Any = None) -> list[ChoiceRow]:
    """A row for each counted pile of the plan, as it is or as it was sent: one query."""
    outputs = plan.outputs.filter(is_counted=True).order_by("position") if plan else []
    return [
        ChoiceRow(data, prefix=f"{output.pk}", output=output, auto_id="choice-%s")
        for output in outputs
    ]


class StartForm(forms.Form):
    """Weight paid, price and where it came from. The own weight at opening is optional."""

    key = forms.UUIDField(widget=forms.HiddenInput)
    start_from = forms.ChoiceField(
        label="Piles",
        widget=forms.RadioSelect,
        required=False,
        choices=[(PLAN, "of the plan"), (LAST, "as last time"), (BLANK, "none yet")],
    )
    plan = PlanField(Plan.objects.none(), label="Plan", empty_label=None)
    rest_by = PlanField(
        Plan.objects.none(), label="Rest by another plan", required=False, empty_label="one plan"
    )
    split = PlainDecimal(
        label="First part, % of the piece", least=0, most=100, required=False, example="50"
    )
    weight = PlainDecimal(label="Weight paid for", above=0, most=HEAVIEST)
    unit = forms.ChoiceField(label="Unit", choices=UNITS)
    price = PlainDecimal(
        label="Price paid for one lb or kg", above=0, most=10000, required=False, example="7.49"
    )
    price.optional_word = "none"
    total = PlainDecimal(
        label="Or the total paid", above=0, most=1000000, required=False, example="46.21"
    )
    total.optional_word = "none"
    opened = PlainDecimal(
        label="Own weight at opening",
        above=0,
        most=HEAVIEST,
        required=False,
        help_text="On your own scale, patted dry. Leave it empty if you did not weigh it.",
    )
    supplier = forms.CharField(label="Supplier", max_length=100, required=False)
    lot = forms.CharField(label="Lot", max_length=60, required=False)
    packed_on = forms.DateField(
        label="Packed on", required=False, widget=forms.DateInput(attrs={"type": "date"})
    )
    was_frozen = forms.BooleanField(
        label="Signs of freezing: much drip, ice, burst fibres", required=False
    )
    damage = forms.MultipleChoiceField(
        label="Damage seen", choices=DAMAGE, required=False, widget=forms.CheckboxSelectMultiple
    )
    marbling = MarblingField()
    claims = forms.CharField(label="Claims", max_length=100, required=False, help_text=CARRIED)
    young_reason = forms.CharField(
        label="Too young: why it is cut all the same", max_length=LONGEST_REASON, required=False
    )
    freight = PlainDecimal(label="Freight", least=0, most=100000, required=False, example="4.50")
    discount = PlainDecimal(label="Discount", least=0, most=100000, required=False, example="4.50")
    percent_off = PlainDecimal(
        label="Or percent off the list price", least=0, most=100, required=False, example="5"
    )
    fat_level = forms.ChoiceField(
        label="Fat left on",
        required=False,
        choices=FAT_CHOICES,
    )

    layout = forms.CharField(max_length=6000, required=False, widget=forms.HiddenInput)
    """The address of the layout it is cut by."""

    def __init__(
        self,
        piece: Piece,
        *args: Any,
        plan: str = "",
        bags: OfBags | None = None,
        layout: str = "",
        rest: tuple[str, str] = ("", ""),
        **kwargs: Any,
    ) -> None:
        """`rest`: the key of the plan for the rest of the piece, and the first part in percent."""
        first = piece.plans.filter(key=plan).first() if plan else None
        initial = {
            "key": uuid.uuid4(),
            "unit": house().unit,
            "plan": first,
            "start_from": PLAN,
            "fat_level": house().fat_level,
            "layout": layout,
        }
        if rest[0]:
            second = piece.plans.filter(key=rest[0]).first()
            initial |= {"rest_by": second, "split": rest[1]}
        self.piece = piece
        self.of_bags = bags
        if bags is not None:
            initial |= {"damage": bags.damage, "marbling": bags.marbling, "claims": bags.claims}
            initial |= bags.initial()
            if args and args[0] is not None:  # what the cooler knows is not typed again
                posted = args[0].copy()
                posted.update({name: str(value) for name, value in bags.initial().items()})
                args = (posted, *args[1:])
        kwargs.setdefault("initial", initial)
        super().__init__(*args, **kwargs)
        for name in bags.initial() if bags is not None else ():
            self.fields[name].widget.attrs["readonly"] = True
        self.fields["plan"].queryset = self.fields["rest_by"].queryset = Plan.in_house_order(
            piece.plans.all()
        )
        for name in (
            "start_from",
            "young_reason",
            "fat_level",
            "damage",
            "marbling",
            "claims",
            "rest_by",
            "split",
        ):
            self.fields[name].optional_word = "none"
        if last := last_of(piece):
            words = f"as last time, test {last.number}"
            choices = [(PLAN, "of the plan"), (LAST, words), (BLANK, "none yet")]
        else:
            choices = [(PLAN, "of the plan"), (BLANK, "none yet")]
        self.fields["start_from"].choices = choices
        if bags is None:  # of a bag it is known: the button has the focus
            self.fields["weight"].widget.attrs["autofocus"] = True

    def clean_packed_on(self) -> Any:
        packed = self.cleaned_data["packed_on"]
        if packed and packed > timezone.localdate():
            raise forms.ValidationError(f"{packed} is still to come; today or before is right.")
        return packed

    def clean(self) -> Any:
        data = super().clean()
        if "unit" not in data:
            return data
        if data.get("percent_off") and data.get("discount"):
            self.add_error("percent_off", "a discount stands beside it; one of the two is right.")
        self._clean_total(data)
        paid = (data.get("weight") or 0) * (data.get("price") or 0)
        costs = paid + (data.get("freight") or 0)
        if paid and (data.get("discount") or 0) > costs:
            self.add_error(
                "discount",
                f"{data['discount']} is more than the piece costs; at most {costs:.2f} is right.",
            )
        return data

    def _clean_total(self, data: dict[str, Any]) -> None:
        """One of the unit price and the total; from the total the price follows."""
        price, total, weight = data.get("price"), data.get("total"), data.get("weight")
        if {"price", "total", "weight"} & set(self.errors):
            return
        if total is None:
            if price is None:
                self.add_error("price", "It is empty; a price or the total paid is right.")
        elif price is not None and not self.of_bags:
            self.add_error("total", "A unit price stands beside it; one of the two is right.")
        elif weight and not self.of_bags:
            data["price"] = price_of_total(total, Weight(weight, Unit(data["unit"]))).amount

    def plan_key(self) -> str:
        """The plan that is chosen as the page stands; empty for none or a wrong one."""
        chosen = self["plan"].value()
        if isinstance(chosen, Plan):
            return chosen.key
        found = (
            self.piece.plans.filter(pk=chosen).first() if str(chosen or "").isdecimal() else None
        )
        return found.key if found else ""

    def packed_day(self) -> date | None:
        """The day the meat was first packed, as far as it is known."""
        if self.of_bags:
            return self.of_bags.aged_from
        return self.cleaned_data.get("packed_on") if self.is_bound else None

    def opening(self, choices: Sequence[ChoiceRow] = ()) -> Opening:
        """What was entered, for the action. Only after is_valid()."""
        data = self.cleaned_data
        is_plan = (data["start_from"] or PLAN) == PLAN and not data["rest_by"]
        unit = Unit(data["unit"])
        return Opening(
            key=data["key"],
            plan=None if data["start_from"] == BLANK else data["plan"],
            piece=self.piece,
            rest_by=data["rest_by"],
            split=(HALF if data["split"] is None else data["split"]) / HUNDRED,
            start_from=data["start_from"] or PLAN,
            weight=Weight(data["weight"], unit),
            price=self.of_bags.paid if self.of_bags else UnitPrice(data["price"], unit),
            opened=Weight(data["opened"], unit) if data["opened"] else None,
            freight=data["freight"] or Decimal(0),
            discount=self._discount(data, unit),
            percent_off=data["percent_off"],
            fat_level=data["fat_level"],
            choices=tuple(one for row in choices for one in row.choices()) if is_plan else (),
            damage=tuple(data["damage"]),
            marbling=data["marbling"],
            claims=data["claims"].strip(),
            supplier=data["supplier"].strip(),
            lot=data["lot"].strip(),
            packed_on=data["packed_on"],
            young_reason=" ".join(data["young_reason"].split()),
            was_frozen=data["was_frozen"] or bool(self.of_bags and self.of_bags.was_frozen),
            aged_from=self.of_bags.aged_from if self.of_bags else None,
            bags=self.of_bags.ids if self.of_bags else (),
        )

    def _discount(self, data: dict[str, Any], unit: Unit) -> Decimal:
        """As money, also where it was typed as a percentage."""
        if data["percent_off"] is None or self.of_bags:
            return data["discount"] or Decimal(0)
        price = UnitPrice(data["price"], unit)
        return off_the_list(Weight(data["weight"], unit), price, data["percent_off"])


def laying_of(piece: Piece, asked: str, key: uuid.UUID) -> Laying:
    """What the page of a layout was asked for. Raises BadInput as that page does."""
    if piece.key not in shapes():
        raise BadInput("Layout: the shape of this piece is not known; cut it without one.")
    reading = read(QueryDict(asked), piece)
    found, task = reading.task
    return Laying(
        key=key,
        task=task,
        aim=found.aim,
        part=reading.shape.key,
        is_measured=found.length is not None,
        base=reading.pooled.fit,
    )


class BackForm(forms.Form):
    """What is packed again and goes back into the cooler."""

    key = forms.UUIDField()
    back = PlainDecimal(label="Weight", above=0, most=HEAVIEST)
    unit = forms.ChoiceField(label="Unit", choices=UNITS)
    bag = forms.UUIDField(required=False)

    def weight(self) -> Weight:
        return Weight(self.cleaned_data["back"], Unit(self.cleaned_data["unit"]))


class PieceForm(forms.Form):
    """A whole piece that goes into the cooler as a bag."""

    key = forms.UUIDField()
    weighing = forms.IntegerField(min_value=1, max_value=2**62)
    piece = forms.SlugField(max_length=60)
    sealed = forms.TypedChoiceField(
        choices=[("1", "sealed"), ("0", "open")], coerce=lambda text: text == "1"
    )
    bag = forms.UUIDField(required=False)

    def keeping(self) -> Keeping:
        data = self.cleaned_data
        return Keeping(data["key"], data["weighing"], data["piece"], data["sealed"], data["bag"])
