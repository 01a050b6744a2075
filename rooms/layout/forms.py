"""What a cutter types of one piece and what is to be cut from it."""

from decimal import Decimal
from fractions import Fraction
from typing import Any

from django import forms

from cutting.layout.profile import MM
from cutting.layout.task import NO_CUT, NO_PRODUCT, Slice, Zone
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet.portioning import parse_thickness
from rooms.catalog.models import Plan
from rooms.common.forms import PlainDecimal
from rooms.common.formsets import NumberedForm
from rooms.layout.rules.asking import AIMS, Asked, is_metric, portion_unit
from rooms.shop.rules.current import house

RULES = [(NO_CUT, "no face is cut"), (NO_PRODUCT, "it goes with the rest")]


class LengthField(forms.CharField):
    """Inches with fractions, or millimetres in a kilo shop; kept in mm."""

    def __init__(self, *, most: int = 2000, **kwargs: Any) -> None:
        self.most = most
        widget = forms.TextInput(attrs={"autocomplete": "off", "size": 7})
        super().__init__(max_length=12, widget=widget, **kwargs)

    def to_python(self, value: Any) -> Any:
        text = " ".join((super().to_python(value) or "").split())
        if text in self.empty_values:
            return None
        bare = text.removesuffix("mm").removesuffix("in").strip()
        number = Fraction(0) if bare == "0" else parse_thickness(f"{bare} in")
        if number is None:
            right = "millimetres such as 25" if is_metric() else "inches such as 3/4 or 13.5"
            raise forms.ValidationError(f"“{text}” is no length; {right} is right.")
        exact = Decimal(number.numerator) / Decimal(number.denominator)
        mm = exact if is_metric() else exact * MM["in"]
        if mm > self.most:
            raise forms.ValidationError(f"{text} is longer than any piece; look at it again.")
        return mm

    def run_validators(self, value: Any) -> None:
        """A text's own validators do not apply to a length."""


class PieceForm(forms.Form):
    """The piece itself: weight, and what a ruler says, if there is one."""

    optional_word = "if measured"
    use_required_attribute = False

    weight = PlainDecimal(label="Weight", above=0, most=500, example="7.84")
    unit = forms.ChoiceField(label="Unit", choices=[("lb", "lb"), ("kg", "kg")])
    length = LengthField(label="Length", required=False)
    width = LengthField(label="Widest", required=False)
    height = LengthField(label="Highest", required=False)
    near = LengthField(label="Face cut, near end", required=False)
    far = LengthField(label="Far end", required=False)
    kerf = LengthField(label="Saw dust a cut", required=False, most=20)
    rest = PlainDecimal(label="The rest is worth", least=0, most=1000, required=False)
    zone_from = LengthField(label="Gristle or a wound from", required=False)
    zone_to = LengthField(label="to", required=False)
    zone_rule = forms.ChoiceField(label="There", choices=RULES, required=False)
    aim = forms.ChoiceField(label="Aim", choices=AIMS, required=False)
    plan = forms.ModelChoiceField(Plan.objects.none(), to_field_name="key", required=False)

    def __init__(self, *args: Any, piece: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["plan"].queryset = Plan.in_house_order(piece.plans.all())
        for name in (
            "near",
            "far",
            "kerf",
            "rest",
            "zone_from",
            "zone_to",
            "zone_rule",
            "aim",
            "plan",
        ):
            self.fields[name].optional_word = "none"

    def clean(self) -> Any:
        data = super().clean()
        start, end = data.get("zone_from"), data.get("zone_to")
        if end is not None and (start or Decimal(0)) >= end:
            self.add_error("zone_to", "It is not behind where it begins; farther on is right.")
        elif start is not None and end is None and "zone_to" not in self.errors:
            self.add_error("zone_to", "It is empty; where it ends is right.")
        return data

    def asked(self) -> Asked:
        """Only after is_valid()."""
        data = self.cleaned_data
        return Asked(
            weight=Weight(data["weight"], Unit(data["unit"])),
            length=data["length"],
            width=data["width"],
            height=data["height"],
            near=data["near"] or Decimal(0),
            far=data["far"] or Decimal(0),
            kerf=data["kerf"] or Decimal(0),
            aim=data["aim"] or "money",
            rest=data["rest"],
            zones=self._zones(data),
        )

    def _zones(self, data: dict[str, Any]) -> tuple[Zone, ...]:
        if data["zone_to"] is None:
            return ()
        start, rule = data["zone_from"] or Decimal(0), data["zone_rule"] or NO_CUT
        return (Zone("gristle", start, data["zone_to"], rule),)


class ProductRow(NumberedForm):
    """One product that may be cut; a row that is not ticked is left out."""

    optional_word = "none"

    use = forms.BooleanField(label="Cut it", required=False)
    name = forms.CharField(widget=forms.HiddenInput, max_length=100)
    price = PlainDecimal(label="Price", above=0, most=10000, required=False)
    light = PlainDecimal(label="Weighs at least", above=0, most=20000, required=False)
    heavy = PlainDecimal(label="Weighs at most", above=0, most=20000, required=False)
    thin = LengthField(label="Thin", required=False)
    thick = LengthField(label="Thick", required=False)
    bones = forms.IntegerField(label="Bones", min_value=1, max_value=16, required=False)
    most = forms.IntegerField(label="At most", min_value=1, max_value=200, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        name = self["name"].value() or "the product"
        self.label_cells(
            use=f"Cut {name}",
            price=f"Price of {name}",
            light=f"{name} weighs at least",
            heavy=f"{name} weighs at most",
            thin=f"{name} is at least so thick",
            thick=f"{name} is at most so thick",
            bones=f"Bones of {name}",
            most=f"How many of {name} at most",
        )

    def clean(self) -> Any:
        data = super().clean()
        if not data.get("use"):
            return data
        for low, high in (("light", "heavy"), ("thin", "thick")):
            one, other = data.get(low), data.get(high)
            if (one is None) != (other is None):
                missing = high if other is None else low
                self.add_error(missing, "It is empty; a least and a most belong together.")
            elif one is not None and other is not None and one > other:
                self.add_error(high, "It is below the least; at least that is right.")
        if not any(data.get(name) is not None for name in ("light", "thin", "bones")):
            self.add_error("thin", "Weight, thickness or bones: one of them is needed.")
        if data.get("price") is None and "price" not in self.errors:
            self.add_error("price", "It is empty; what a unit of it sells for is right.")
        return data

    @property
    def wanted(self) -> Slice | None:
        """Only after is_valid()."""
        data = self.cleaned_data
        if not data["use"]:
            return None
        unit = portion_unit()
        return Slice(
            data["name"],
            lightest=None if data["light"] is None else Weight(data["light"], unit),
            heaviest=None if data["heavy"] is None else Weight(data["heavy"], unit),
            thinnest=None if data["bones"] else data["thin"],
            thickest=None if data["bones"] else data["thick"],
            price=UnitPrice(data["price"], house().unit),
            most=data["most"],
            bones=data["bones"],
        )
