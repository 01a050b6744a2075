"""What is typed at the grinder."""

import uuid
from decimal import Decimal
from typing import Any

from django import forms

from cutting.grinding.blend import Rule
from cutting.quantities import HUNDRED, Unit, Weight
from rooms.catalog.models import Primal, Species
from rooms.common.forms import PlainDecimal
from rooms.cooler.models import Bag
from rooms.grinder.models import KINDS, TrimTub
from rooms.grinder.queries.blending import CHANCES, Asked
from rooms.pricebook.models import Product
from rooms.shop.rules.current import house

NAMES = [
    (Rule.GROUND_BEEF.value, "ground beef"),
    (Rule.HAMBURGER.value, "hamburger"),
    (Rule.NONE.value, "the shop's own"),
]


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
    weight = PlainDecimal(label="How much", above=0, most=2000, example="28")
    lean = PlainDecimal(label="Lean, %", least=0, most=100, example="85")
    primal = forms.ChoiceField(label="Only of one primal", required=False)
    chance = forms.ChoiceField(
        label="Over the label at most",
        required=False,
        choices=[("", "not bounded"), *CHANCES.items()],
    )
    no_ends = forms.BooleanField(label="No ends of whole muscle", required=False)

    def __init__(
        self,
        *args: Any,
        primals: dict[str, str],
        products: list[tuple[Any, str]],
        may_be_left: bool = False,
        **kwargs: Any,
    ) -> None:
        """`primals` and `products` to choose from; `may_be_left`: a further batch, which is none
        without a weight."""
        super().__init__(*args, **kwargs)
        self.may_be_left = may_be_left
        self.fields["primal"].choices = [("", "any"), *primals.items()]
        self.fields["product"].widget.choices = [("", "choose"), *products]
        self.fields["weight"].label = f"How much, {house().unit.value}"

    @property
    def is_left(self) -> bool:
        return self.may_be_left and not str(self["weight"].value() or "").strip()

    def asked(self) -> Asked:
        """Only after is_valid()."""
        data = self.cleaned_data
        product: Product = data["product"]
        rule = Rule(data["rule"])
        name = {Rule.GROUND_BEEF: "ground beef", Rule.HAMBURGER: "hamburger"}.get(
            rule, product.name.lower()
        )
        if data["primal"]:
            name = f"ground {data['primal']}"
        return Asked(
            product,
            name,
            rule,
            product.cut.species,
            Weight(data["weight"], house().unit),
            data["lean"] / HUNDRED,
            data["primal"],
            data["no_ends"],
            Decimal(data["chance"]) if data["chance"] else None,
        )


def blend_forms(many: int, data: Any = None) -> list[BlendForm]:
    """Forms of so many batches from the same tubs: two queries."""
    rows = Primal.objects.order_by("name").values_list("name", flat=True)
    primals = {name.lower(): name for name in rows}
    grinds = Product.objects.filter(cut__is_ground=True, is_sold=True)
    products = [(one.pk, str(one)) for one in grinds]
    return [
        BlendForm(data, prefix=f"b{i}", may_be_left=i > 0, primals=primals, products=products)
        for i in range(many)
    ]


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


class BagForm(Keyed):
    """A bag that was bought with a stated lean."""

    bag = forms.ModelChoiceField(Bag.objects.none(), label="Bag")
    lean = PlainDecimal(label="Stated lean, %", least=0, most=100, example="90")

    def __init__(self, *args: Any, tub: TrimTub, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        bags = Bag.objects.in_cooler().filter(piece__species=tub.species)
        self.fields["bag"].queryset = bags.select_related("piece")


class CaseForm(Keyed):
    """Pieces pulled from the case, with the lot of their tray where it is known."""

    weight = PlainDecimal(label="Weight", above=0, most=2000, example="2.40")
    unit = forms.ChoiceField(label="Unit", choices=[(u.value, u.value) for u in (Unit.LB, Unit.KG)])
    lot = forms.CharField(label="Lot", max_length=60, required=False)
    day = forms.DateField(label="Cut on", widget=forms.DateInput(attrs={"type": "date"}))


class BeginForm(Keyed):
    number = forms.IntegerField(widget=forms.HiddenInput, min_value=0)
    celsius = PlainDecimal(label="Meat, °C", least=-5, most=40, example="2.5")


class FinishForm(forms.Form):
    use_required_attribute = False

    got = PlainDecimal(label="Came out", least=0, most=5000, example="27.6")
    machine = PlainDecimal(label="Left in the grinder", least=0, most=100, example="0.3")
    celsius = PlainDecimal(label="Meat, °C", least=-5, most=60, example="4.0")


class PackForm(Keyed):
    trays = forms.IntegerField(label="Trays", min_value=1, max_value=5000)
    weight = PlainDecimal(label="Weight of them", above=0, most=5000, example="12.4")


class FatForm(Keyed):
    fat = PlainDecimal(label="Fat by the tester, %", least=0, most=100, example="15.4")
