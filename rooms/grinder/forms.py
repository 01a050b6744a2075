"""What is typed at the grinder."""

import uuid
from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import Any

from django import forms

from cutting.grinding.blend import Rule
from cutting.grinding.names import BEEF_SAUSAGE, MOST_FAT_OF, PORK_SAUSAGE
from cutting.grinding.nutrition import NUTRIENTS
from cutting.grinding.seasoning import ALLERGENS, MOST_SHARE
from cutting.quantities import HUNDRED, Unit, Weight
from rooms.catalog.models import Primal, Species
from rooms.common.web.forms import ListForm, Percent, PlainDecimal, SeenForm
from rooms.cooler.models import Bag
from rooms.grinder.models import KINDS, GrinderRules, NutritionFacts, Packed, Seasoning, TrimTub
from rooms.grinder.queries.blending import CHANCES, Asked
from rooms.pricebook.models import Product
from rooms.shop.queries.current import house

NAMES = [
    (Rule.GROUND_BEEF.value, "ground beef"),
    (Rule.HAMBURGER.value, "hamburger"),
    (PORK_SAUSAGE, PORK_SAUSAGE),
    (BEEF_SAUSAGE, BEEF_SAUSAGE),
    (Rule.NONE.value, "the shop's own"),
]
ANIMAL_OF = {
    PORK_SAUSAGE: "pork",
    BEEF_SAUSAGE: "beef",
    **dict.fromkeys(("ground_beef", "hamburger"), "beef"),
}
"""A name is of one animal."""


class Keyed(forms.Form):
    """Its key makes a repeated request change nothing."""

    optional_word = "none"
    use_required_attribute = False

    key = forms.UUIDField(widget=forms.HiddenInput)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs["initial"] = {"key": uuid.uuid4(), **kwargs.get("initial", {})}
        super().__init__(*args, **kwargs)


class BlendForm(Keyed):
    """One batch; the tubs that are ticked are used up."""

    product = forms.ModelChoiceField(
        Product.objects.filter(cut__is_ground=True, is_sold=True), label="Product"
    )
    rule = forms.ChoiceField(label="Its name", choices=NAMES)
    weight = PlainDecimal(label="How much", above=0, most=2000, example="28", required=False)
    lean = PlainDecimal(label="Lean, %", least=0, most=100, example="85", required=False)
    primal = forms.ChoiceField(label="Only of one primal", required=False)
    chance = forms.ChoiceField(
        label="Over the label at most",
        required=False,
        choices=[("", "not bounded"), *CHANCES.items()],
    )
    seasoning = forms.ModelChoiceField(
        Seasoning.objects.filter(is_dropped=False), label="Seasoning", required=False
    )
    no_ends = forms.BooleanField(label="No ends of whole muscle", required=False)

    def __init__(
        self,
        *args: Any,
        primals: dict[str, str],
        products: list[tuple[Any, str]],
        seasonings: list[tuple[Any, str]],
        may_be_left: bool = False,
        **kwargs: Any,
    ) -> None:
        """`primals` and `products` to choose from; `may_be_left`: a further batch, which is none
        without a weight."""
        super().__init__(*args, **kwargs)
        self.may_be_left = may_be_left
        self.fields["primal"].choices = [("", "any"), *primals.items()]
        self.fields["product"].widget.choices = [("", "choose"), *products]
        self.fields["seasoning"].widget.choices = [("", "none"), *seasonings]
        self.fields["weight"].label = f"How much, {house().unit.value}"
        if not may_be_left:
            self.fields["weight"].help_text = "Left empty: what uses up the tubs ticked below."
            self.fields["lean"].help_text = "Both empty: just those tubs."

    @property
    def is_left(self) -> bool:
        return self.may_be_left and not str(self["weight"].value() or "").strip()

    def clean(self) -> Any:
        data = super().clean()
        product, name = data.get("product"), data.get("rule", "")
        if product is not None and ANIMAL_OF.get(name, product.cut.species) != product.cut.species:
            words = dict(NAMES)[name]
            self.add_error(
                "rule", f"{words} is {ANIMAL_OF[name]}; {product} is {product.cut.species}."
            )
        if data.get("weight") and data.get("lean") is None and "lean" not in self.errors:
            self.add_error("lean", "It is empty; how lean it is wanted is right.")
        return data

    def asked(self) -> Asked:
        """Only after is_valid()."""
        data = self.cleaned_data
        product: Product = data["product"]
        standard = data["rule"] in Rule.__members__.values()
        rule = Rule(data["rule"]) if standard else Rule.NONE
        name = {Rule.GROUND_BEEF: "ground beef", Rule.HAMBURGER: "hamburger"}.get(
            rule, product.name.lower() if standard else data["rule"]
        )
        if data["primal"]:
            name = f"ground {data['primal']}"
        return Asked(
            product,
            name,
            rule,
            product.cut.species,
            Weight(data["weight"], house().unit) if data["weight"] else None,
            None if data["lean"] is None else data["lean"] / HUNDRED,
            data["primal"],
            data["no_ends"],
            Decimal(data["chance"]) if data["chance"] else None,
            data["seasoning"],
        )


def blend_forms(
    many: int, data: Any = None, before: Mapping[str, str] | None = None
) -> list[BlendForm]:
    """Forms of so many batches from the same tubs: three queries. `before`: what was asked the last time,
    to begin with, by the names of the fields."""
    rows = Primal.objects.order_by("name").values_list("name", flat=True)
    primals = {name.lower(): name for name in rows}
    grinds = Product.objects.filter(cut__is_ground=True, is_sold=True)
    choices: dict[str, Any] = {
        "primals": primals,
        "products": [(one.pk, str(one)) for one in grinds],
        "seasonings": [(one.pk, str(one)) for one in Seasoning.objects.filter(is_dropped=False)],
    }
    return [
        BlendForm(
            data,
            prefix=(prefix := f"b{number}"),
            may_be_left=number > 0,
            initial=_of_form(before or {}, f"{prefix}-"),
            **choices,
        )
        for number in range(many)
    ]


def _of_form(before: Mapping[str, str], prefix: str) -> dict[str, str]:
    own = {
        name.removeprefix(prefix): value
        for name, value in before.items()
        if name.startswith(prefix)
    }
    return {name: value for name, value in own.items() if name in BlendForm.base_fields}


def asked_before(data: Mapping[str, Any], forms: Sequence[BlendForm]) -> dict[str, str]:
    """What was typed into the forms, without their keys, to be kept beside the blend."""
    return {
        name: str(data[name])
        for form in forms
        for field in form.fields
        if field != "key" and (name := form.add_prefix(field)) in data
    }


class TubForm(Keyed):
    name = forms.CharField(label="Name", max_length=40)
    species = forms.ChoiceField(label="Animal", choices=Species.choices)
    kind = forms.ChoiceField(label="What goes in", choices=KINDS)
    primal = forms.CharField(label="All of one primal", max_length=40, required=False)


class LeanForm(forms.Form):
    """How lean a tub is, by eye or by the tester."""

    use_required_attribute = False
    optional_word = "none"

    lean = PlainDecimal(label="Lean, %", least=0, most=100, example="80")
    how = forms.ChoiceField(
        label="By", choices=[("eye", "eye"), ("tester", "the tester")], required=False
    )


class WarmForm(forms.Form):
    """How warm the meat in a tub is."""

    use_required_attribute = False
    optional_word = "none"

    celsius = PlainDecimal(label="Meat, °C", least=-5, most=40, example="2.5")


class BagForm(Keyed):
    """A bag that was bought with a stated lean."""

    bag = forms.ModelChoiceField(Bag.objects.none(), label="Bag")
    lean = PlainDecimal(label="Stated lean, %", least=0, most=100, example="90")

    def __init__(self, *args: Any, tub: TrimTub, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        bags = Bag.objects.free().filter(piece__species=tub.species)
        self.fields["bag"].queryset = bags.select_related("piece")


class CaseForm(Keyed):
    """Pieces pulled from the case, with the lot of their tray where it is known."""

    weight = PlainDecimal(label="Weight", above=0, most=2000, example="2.40")
    unit = forms.ChoiceField(label="Unit", choices=[(u.value, u.value) for u in (Unit.LB, Unit.KG)])
    lot = forms.CharField(label="Lot, batch or test on its label", max_length=60, required=False)
    is_sent_back = forms.BooleanField(label="It was sent back", required=False)
    day = forms.DateField(label="Cut on", widget=forms.DateInput(attrs={"type": "date"}))

    def __init__(self, *args: Any, takes_sent_back: bool = True, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if not takes_sent_back:
            self.fields["is_sent_back"].widget = forms.HiddenInput()


class BeginForm(Keyed):
    number = forms.IntegerField(widget=forms.HiddenInput, min_value=0)
    celsius = PlainDecimal(label="Meat, °C", least=-5, most=40, example="2.5")


class FinishForm(forms.Form):
    use_required_attribute = False

    seen = forms.IntegerField(widget=forms.HiddenInput, required=False, min_value=0)
    got = PlainDecimal(label="Came out", least=0, most=5000, example="27.6")
    machine = PlainDecimal(label="Left in the grinder", least=0, most=100, example="0.3")
    celsius = PlainDecimal(label="Meat, °C", least=-5, most=60, example="4.0")


class PackForm(Keyed):
    trays = forms.IntegerField(label="Trays", min_value=1, max_value=5000)
    weight = PlainDecimal(label="Weight of them", above=0, most=5000, example="12.4")

    shape = forms.ChoiceField(label="As", choices=Packed.Shape.choices, required=False)
    pieces = forms.IntegerField(
        label="Patties or links in all of them", min_value=1, max_value=100_000, required=False
    )


class FatForm(Keyed):
    fat = PlainDecimal(label="Fat by the tester, %", least=0, most=100, example="15.4")


LONGEST_POINT, MOST_POINTS = 120, 20


class Lines(forms.CharField):
    """Lines of text, one a line."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(widget=forms.Textarea(attrs={"rows": 6}), max_length=3000, **kwargs)

    def prepare_value(self, value: Any) -> Any:
        return "\n".join(value) if isinstance(value, list) else value

    def clean(self, value: Any) -> list[str]:
        lines = [" ".join(line.split()) for line in (super().clean(value) or "").splitlines()]
        lines = [line for line in lines if line]
        for line in lines:
            if len(line) > LONGEST_POINT:
                raise forms.ValidationError(
                    f"“{line[:30]}…” is long; at most {LONGEST_POINT} characters are right."
                )
        if not 1 <= len(lines) <= MOST_POINTS or len(set(lines)) < len(lines):
            raise forms.ValidationError(f"1 to {MOST_POINTS} lines, each once, are right.")
        return lines


class Ounces(forms.CharField):
    """Weights of patties, with commas."""

    def prepare_value(self, value: Any) -> Any:
        return ", ".join(value) if isinstance(value, list) else value

    def clean(self, value: Any) -> list[str]:
        reads = PlainDecimal(label="Patties", above=0, most=32)
        words = [one.strip() for one in (super().clean(value) or "").split(",") if one.strip()]
        if not 1 <= len(words) <= 6:
            raise forms.ValidationError("1 to 6 weights with commas between them are right.")
        return [f"{reads.clean(one):f}" for one in words]


WARMEST = Decimal("4.4")
"""°C: 40 °F. A shop may only be colder."""
MOST_FAT_FIELDS = {f"fat_{at}": name for at, name in enumerate(MOST_FAT_OF)}


class RulesForm(SeenForm):
    """The grinder's house rules. What the law says may only be made tighter."""

    optional_word = "as the law says"
    use_required_attribute = False

    keeps_days = forms.IntegerField(
        label="Days that trim keeps before it is ground", min_value=1, max_value=7
    )
    warmest = PlainDecimal(
        label="Warmest meat that is ground, °C", least=-2, most=WARMEST, example="4.4"
    )
    allowance = Percent(label="A label allows over its fat, points", least=0, most=5)
    near = Percent(
        label="A blend may be leaner than asked by, points", above=0, most=3, example="1"
    )
    from_case = forms.ChoiceField(
        label="Pieces of the case go into a tub",
        choices=GrinderRules.FromCase.choices,
        widget=forms.RadioSelect,
    )
    takes_sent_back = forms.BooleanField(label="Also what was sent back", required=False)
    nutrition = forms.ChoiceField(
        label="Nutrition of ground meat",
        choices=GrinderRules.Nutrition.choices,
        widget=forms.RadioSelect,
    )
    patties = Ounces(label="Usual patties, oz", max_length=60)
    in_box = forms.IntegerField(label="Patties in a box", min_value=1, max_value=500)
    cleaning = Lines(label="Cleaned and sanitized: what is confirmed")
    setting_up = Lines(label="Set up: what is confirmed")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for key, name in MOST_FAT_FIELDS.items():
            most, source = MOST_FAT_OF[name]
            self.fields[key] = Percent(
                label=f"Most fat of {name}, %", least=0, most=most * HUNDRED, required=False
            )
            self.fields[key].help_text = f"{source}: {most * HUNDRED:.0f} %; from memory."
        self.order_fields(["seen", "keeps_days", "warmest", "allowance", "near", *MOST_FAT_FIELDS])

    @classmethod
    def initial_of(cls, row: Any) -> dict[str, Any]:
        """What the form shows of the rules as they stand."""
        names = [name for name in cls.base_fields if name != "seen"]
        found = {name: getattr(row, name) for name in names}
        found["warmest"] = Decimal(f"{Decimal(row.warmest) / 1000:.1f}")
        own = {key: row.most_fat.get(name) for key, name in MOST_FAT_FIELDS.items()}
        return found | {key: Decimal(share) for key, share in own.items() if share}

    @property
    def values(self) -> dict[str, Any]:
        """Columns of the rules. Only after is_valid()."""
        data = {name: self.cleaned_data[name] for name in self.base_fields if name != "seen"}
        data["warmest"] = int(data["warmest"] * 1000)
        data["most_fat"] = {
            name: f"{self.cleaned_data[key]:f}"
            for key, name in MOST_FAT_FIELDS.items()
            if self.cleaned_data[key] is not None
        }
        return data


class SeasoningForm(ListForm, Keyed):
    """One of the house list."""

    of_list = Seasoning

    optional_word = "none"

    name = forms.CharField(label="Name", max_length=60)
    share = Percent(label="Of the meat, %", above=0, most=MOST_SHARE * HUNDRED, example="2.1")
    ingredients = forms.CharField(label="Ingredients, the most first", max_length=400)
    allergens = forms.MultipleChoiceField(
        label="Contains",
        choices=[(one, one) for one in ALLERGENS],
        widget=forms.CheckboxSelectMultiple,
        required=False,
    )
    cost = PlainDecimal(label="Costs", least=0, most=500, example="6.50", required=False)
    per = forms.ChoiceField(label="a", choices=[(u.value, u.value) for u in (Unit.LB, Unit.KG)])


class FactsForm(ListForm, Keyed):
    """Nutrition facts of a product at a fat."""

    of_list = NutritionFacts

    product = forms.ModelChoiceField(Product.objects.filter(is_sold=True), label="Product")
    fat = Percent(label="Fat, %", least=0, most=100, example="15")
    serving = PlainDecimal(label="Serving, g", above=0, most=500, example="112")
    source = forms.CharField(label="Where they are from", max_length=200)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for key, (name, unit) in NUTRIENTS.items():
            self.fields[key] = PlainDecimal(label=f"{name}, {unit}", least=0, most=2000)

    @property
    def amounts(self) -> dict[str, str]:
        """Only after is_valid()."""
        return {key: f"{self.cleaned_data[key]:f}" for key in NUTRIENTS}
