"""What a cutter types of one piece and what is to be cut from it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from typing import Any

from django import forms
from django.utils import timezone

from cutting.errors import BadValue
from cutting.layout.aims import Aim
from cutting.layout.parting import kinds
from cutting.layout.profile import MM
from cutting.layout.task import ACCEPT, NO_CUT, NO_PRODUCT, NOTCH, Slice, Task, Zone, turned
from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet.portioning import parse_thickness
from rooms.catalog.models import Piece, Plan, PlanOutput
from rooms.catalog.queries.shapes import WHOLE, Shape, part_of, shape_of
from rooms.common.errors import BadInput
from rooms.common.web.forms import Percent, PlainDecimal
from rooms.common.web.formsets import NumberedForm, by_number, faults_of, rows_of
from rooms.layout.queries.asking import AIMS, Asked, is_metric, on_grid, portion_unit
from rooms.layout.queries.first import (
    Prices,
    first_rows,
    first_values,
    length_words,
    rest_worth,
    usual_length,
    usual_weight,
)
from rooms.layout.queries.pooling import Pooled, pooled
from rooms.shop.queries.current import house

RULES = [
    (NO_CUT, "no face is cut"),
    (NOTCH, "it is notched out"),
    (NO_PRODUCT, "all goes with the rest"),
    (ACCEPT, "it is only shown"),
]
NOTCHED = Decimal("0.1")
"""What a notch takes of the stretch, where nobody says. Common practice, no published source."""
ZONES = 3
ACROSS = [
    ("1", "whole"),
    ("2", "halves"),
    ("3", "thirds"),
    ("1,2", "whole or halves"),
    ("1,2,3", "as it fits"),
]
RESTS = [
    ("grind", "grind"),
    ("stew", "stew"),
    ("stir-fry", "stir-fry"),
    ("kebab", "kebab"),
]
"""Where the last piece goes that is too thin to sell."""


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

    optional_word = "none"
    use_required_attribute = False
    MEASURED = ("length", "width", "height", "tail")

    weight = PlainDecimal(label="Weight as it lies", above=0, most=500, example="7.84")
    unit = forms.ChoiceField(label="Unit", choices=[("lb", "lb"), ("kg", "kg")])
    length = LengthField(label="Length", required=False)
    width = LengthField(label="Widest", required=False)
    height = LengthField(label="Highest", required=False)
    tail = LengthField(label="High at the far end", required=False)
    bones = forms.IntegerField(label="Bones", min_value=2, max_value=16, required=False)
    near = LengthField(label="Face cut, near end", required=False)
    far = LengthField(label="Face cut, far end", required=False)
    kerf = LengthField(label="Saw dust a cut", required=False, most=20)
    aim = forms.ChoiceField(label="Aim", choices=AIMS, required=False)
    rest_to = forms.ChoiceField(label="Ends and faces to", choices=RESTS, required=False)
    rest = PlainDecimal(label="Worth", least=0, most=1000, required=False)
    turned = forms.BooleanField(label="Begin at the other end", required=False)
    opens = forms.BooleanField(label="Small faces may be butterflied", required=False)
    strip_lost = PlainDecimal(
        label="Middle strip lost, %", least=0, most=100, required=False, example="30"
    )
    plan = forms.ModelChoiceField(Plan.objects.none(), to_field_name="key", required=False)
    part = forms.SlugField(required=False, widget=forms.HiddenInput)
    test = forms.UUIDField(required=False, widget=forms.HiddenInput)
    made_for = forms.CharField(required=False, widget=forms.HiddenInput)
    """The length and the bones that the products' stretches were made for."""

    def __init__(
        self, *args: Any, piece: Piece, shape: Shape, usual_length: Decimal, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self.fields["length"].widget.attrs["placeholder"] = length_words(usual_length)
        self.fields["plan"].queryset = Plan.in_house_order(piece.plans.all())
        for name in self.MEASURED:
            self.fields[name].optional_word = "if measured"
        if shape.bones is None:
            del self.fields["bones"]
        if shape.across == (1,):
            del self.fields["strip_lost"]

    def asked(self, zones: tuple[Zone, ...] = ()) -> Asked:
        """Only after is_valid()."""
        data = self.cleaned_data
        return Asked(
            weight=Weight(data["weight"], Unit(data["unit"])),
            length=data["length"],
            width=data["width"],
            height=data["height"],
            tail=data["tail"],
            bones=data.get("bones"),
            near=data["near"] or Decimal(0),
            far=data["far"] or Decimal(0),
            kerf=data["kerf"] or Decimal(0),
            aim=Aim(data["aim"] or Aim.MONEY),
            rest=data["rest"],
            zones=zones,
        )


class ZoneRow(NumberedForm):
    """A stretch of gristle, a vein, a gland, a wound; empty rows are none."""

    zone_from = LengthField(label="From", required=False)
    zone_to = LengthField(label="To", required=False)
    zone_rule = forms.ChoiceField(label="There", choices=RULES, required=False)
    zone_lost = Percent(label="Notched, %", least=1, most=90, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.label_cells(
            zone_from="Gristle or a wound from",
            zone_to="Gristle or a wound to",
            zone_rule="What is done there",
            zone_lost="Percent that is notched out",
        )

    def clean(self) -> Any:
        data = super().clean()
        start, end = data.get("zone_from"), data.get("zone_to")
        if start is not None and end is None and "zone_to" not in self.errors:
            self.add_error("zone_to", "It is empty; where it ends is right.")
        if end is not None and (start or Decimal(0)) >= end:
            self.add_error("zone_to", "It is not behind where it begins; farther on is right.")
        return data

    @property
    def zone(self) -> Zone | None:
        """Only after is_valid()."""
        data = self.cleaned_data
        if data.get("zone_to") is None:
            return None
        rule = data["zone_rule"] or NO_CUT
        share = (data["zone_lost"] or NOTCHED) if rule == NOTCH else Decimal(0)
        return Zone("zone", data["zone_from"] or Decimal(0), data["zone_to"], rule, share)


class ProductRow(NumberedForm):
    """One product that may be cut."""

    use = forms.BooleanField(required=False)
    name = forms.CharField(max_length=60, widget=forms.HiddenInput)
    price = PlainDecimal(label="Price", above=0, most=10000, required=False)
    each = forms.BooleanField(label="a piece, whatever it weighs", required=False)
    outside = PlainDecimal(label="Outside its limits", least=0, most=10000, required=False)
    light = PlainDecimal(label="Weighs at least", above=0, most=20000, required=False)
    heavy = PlainDecimal(label="Weighs at most", above=0, most=20000, required=False)
    thin = LengthField(label="Thin", required=False)
    thick = LengthField(label="Thick", required=False)
    bones = forms.IntegerField(label="Bones", min_value=1, max_value=16, required=False)
    start = LengthField(label="From", required=False)
    end = LengthField(label="To", required=False)
    across = forms.ChoiceField(label="Across", choices=ACROSS, required=False)
    least = forms.IntegerField(label="At least", min_value=0, max_value=200, required=False)
    most = forms.IntegerField(label="At most", min_value=1, max_value=200, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        name = self["name"].value() or "the product"
        self.label_cells(
            use=f"Cut {name}",
            price=f"Price of {name}",
            each=f"{name} is sold at a price a piece",
            outside=f"A unit of {name} outside its limits still sells for",
            light=f"{name} weighs at least",
            heavy=f"{name} weighs at most",
            thin=f"{name} is at least so thick",
            thick=f"{name} is at most so thick",
            bones=f"Bones of {name}",
            start=f"{name} comes from here on",
            end=f"{name} comes from up to here",
            across=f"A slice of {name} is parted into",
            least=f"How many of {name} at least",
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
        self._clean_counts(data)
        return data

    def _clean_counts(self, data: Any) -> None:
        if data.get("price") is None and "price" not in self.errors:
            self.add_error("price", "It is empty; what a unit of it sells for is right.")
        least, most = data.get("least"), data.get("most")
        if least and most is not None and least > most:
            self.add_error("most", f"It is below the least; {least} or more is right.")
        start, end = data.get("start"), data.get("end")
        if start is not None and end is not None and start >= end:
            self.add_error("end", "It is not behind where it begins; farther on is right.")

    def wanted(self, *, opens: bool, strip_lost: Decimal) -> tuple[Slice, ...]:
        """Each way of cutting it; none where it is not ticked. Only after is_valid()."""
        data = self.cleaned_data
        if not data["use"]:
            return ()
        unit = portion_unit()
        light, heavy, bones = data["light"], data["heavy"], data["bones"]
        aim = None
        if light is not None:
            aim = Weight((light + heavy) / 2, unit)
        one = Slice(
            data["name"],
            lightest=None if light is None else Weight(light, unit),
            heaviest=None if light is None else Weight(heavy, unit),
            thinnest=None if bones else data["thin"],
            thickest=None if bones else data["thick"],
            price=None if data["each"] else UnitPrice(data["price"], house().unit),
            each=data["price"] if data["each"] else None,
            outside=self._outside(),
            aim=aim,
            least=data["least"] or 0,
            most=data["most"],
            start=data["start"],
            end=data["end"],
            bones=bones,
        )
        ways = [int(many) for many in (data["across"] or "1").split(",")]
        return kinds(one, ways, opens=opens and not bones, strip_lost=strip_lost)

    def _outside(self) -> UnitPrice | None:
        """What is by weight sells by the pound when it is a little too heavy as well, unless somebody says
        otherwise."""
        data = self.cleaned_data
        own = data["outside"]
        if own is None and not data["each"]:
            own = data["price"]
        return None if own is None else UnitPrice(own, house().unit)


@dataclass(frozen=True)
class Reading:
    """What was asked of one piece, as its page has it."""

    piece: Piece
    shape: Shape
    pooled: Pooled
    form: PieceForm
    rows: list[ProductRow]
    zones: list[ZoneRow]
    plans: list[Plan]
    plan: Plan | None

    @property
    def is_compared(self) -> bool:
        """Whether its plan says where on the piece its products are cut."""
        return self.plan is not None and self.plan.outputs.exclude(part="").exists()

    @property
    def ends(self) -> tuple[str, str]:
        """Where one begins, and the other end."""
        one, other = self.shape.ends
        return (other, one) if self.form["turned"].value() else (one, other)

    @cached_property
    def task(self) -> tuple[Asked, Task]:
        """What the core is asked. Raises BadInput with what is wrong."""
        faults = [] if self.form.is_valid() else faults_of(self.form)
        for row in self.rows:
            if not row.is_valid():
                faults += row.faults(row["name"].value() or "product")
        for row in self.zones:
            if not row.is_valid():
                faults += row.faults("Gristle or a wound")
        if faults:
            raise BadInput(" ".join(faults[:6]))
        data = self.form.cleaned_data
        products: tuple[Slice, ...] = ()
        for row in self.rows:
            lost = data.get("strip_lost") or Decimal(0)
            products += row.wanted(opens=data["opens"], strip_lost=lost)
        if not products:
            raise BadInput("Products: none is ticked; tick what may be cut from it.")
        zones = tuple(zone for row in self.zones if (zone := row.zone) is not None)
        asked = self.form.asked(zones)
        try:
            profile = asked.profile(self.pooled.shape, usual_weight(self.piece))
            task = asked.task(self.pooled.shape, profile, products)
            return asked, turned(task) if data["turned"] else task
        except BadValue as bad:
            raise BadInput(f"{bad}.") from bad


def read(data: Mapping[str, str], piece: Piece, prices: Prices | None = None) -> Reading:
    """What an address asks of a piece whose shape is known; what it does not say as a page begins:
    six queries. `prices`: instead of today's."""
    wanted = data.get("plan", "")
    part = data.get("part", "")
    if wanted and "part" not in data:
        part = _first_part(piece, wanted)
    plain = shape_of(piece.key, part)
    found = pooled(piece, plain, usual_weight(piece))
    plans = list(Plan.in_house_order(piece.plans.all()))
    plan = next((each for each in plans if each.key == wanted), None) or _first_plan(plans, plain)
    sent = {name: data[name] for name in data}
    first = first_values(piece, found.shape, plan)
    usual = usual_length(piece, found.shape, {**first, **sent})
    length = on_grid(_length(sent.get("length", "")) or usual)
    shape = with_bones(found.shape, sent.get("bones", ""))
    made_for = f"{length_words(length)}|{shape.bones or ''}"
    if not by_number(sent, "name"):
        rows = first_rows(plan, shape, length, timezone.localdate(), prices)
        first["rest"] = rest_worth(plan)
        sent = {**first, **_numbered(rows), **{name: text for name, text in sent.items() if text}}
    else:
        text, _, bones = sent.get("made_for", made_for).partition("|")
        before = _length(text)
        if before and f"{text}|{bones}" != made_for:
            old = with_bones(found.shape, bones)
            sent |= _moved(plan, sent, (old, before), (shape, length))
    sent["made_for"] = made_for
    return Reading(
        piece=piece,
        shape=plain,
        pooled=found,
        form=PieceForm(sent, piece=piece, shape=plain, usual_length=usual),
        rows=rows_of(ProductRow, sent, sorted(by_number(sent, "name"))),
        zones=rows_of(ZoneRow, sent, range(ZONES)),
        plans=plans,
        plan=plan,
    )


def _length(text: str) -> Decimal | None:
    """A length as it was typed, in mm; None for nothing, and for what its field will refuse."""
    try:
        found: Decimal | None = LengthField(required=False).clean(text)
    except forms.ValidationError:
        return None
    return found


def with_bones(shape: Shape, text: str) -> Shape:
    """The shape of a piece whose bones were counted."""
    if shape.bones is None or not (text.isascii() and text.isdecimal() and 1 < int(text[:3]) < 17):
        return shape
    return replace(shape, bones=int(text))


def _moved(
    plan: Plan | None,
    sent: Mapping[str, str],
    before: tuple[Shape, Decimal],
    now: tuple[Shape, Decimal],
) -> dict[str, str]:
    """Where products lie on a piece of another length, or of other bones, than their page began
    with. What somebody typed stays."""
    day, nothing = timezone.localdate(), Prices({})
    old, new = (first_rows(plan, *one, day, nothing) for one in (before, now))
    found = {}
    for number in by_number(sent, "name"):
        for then, row in zip(old, new, strict=False):
            if then["name"] != sent[f"name-{number}"]:
                continue
            for name in ("start", "end", "bones"):
                if sent.get(f"{name}-{number}", "") == str(then.get(name, "")):
                    found[f"{name}-{number}"] = str(row.get(name, ""))
    return found


def _first_plan(plans: list[Plan], shape: Shape) -> Plan | None:
    """The first plan that makes anything of this part; between bones a mixed one, where there is."""
    if any(zone.is_taken_apart for zone in shape.zones) and shape.bones:
        plans = [*(plan for plan in plans if plan.key == "mixed"), *plans]
    for plan in plans:
        if plan.outputs.filter(part=shape.key or WHOLE).exists():
            return plan
    return plans[0] if plans else None


def _first_part(piece: Piece, wanted: str) -> str:
    """The part that the first product of a plan is cut from, where the address names only the plan."""
    outputs = PlanOutput.objects.filter(plan__piece=piece, plan__key=wanted).exclude(part="")
    for part in outputs.order_by("position", "id").values_list("part", flat=True):
        if part_of(piece.key, part) is not None:
            return part
    return ""


def _numbered(rows: list[dict[str, Any]]) -> dict[str, str]:
    return {
        f"{name}-{number}": "on" if value is True else str(value)
        for number, row in enumerate(rows)
        for name, value in row.items()
        if value not in (False, "", None)
    }
