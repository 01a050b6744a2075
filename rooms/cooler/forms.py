"""Forms of the cooler."""

import uuid
from typing import Any

from django import forms
from django.utils import timezone

from cutting.cooler.ageing import Window
from cutting.cooler.quality import LEAST_MARBLING, MOST_MARBLING
from cutting.cooler.temperature import millicelsius
from cutting.errors import BadValue
from cutting.quantities import ZERO, Unit, Weight
from rooms.catalog.models import Piece
from rooms.common.tables.files import LARGEST_FILE
from rooms.common.web.forms import ListForm, PlainDecimal, SeenForm
from rooms.cooler.actions.bags import BagFacts
from rooms.cooler.actions.deliveries import Check, Header
from rooms.cooler.models import AgeWindow, Seal
from rooms.cooler.queries.codes import LIKELY, countries_by_letters
from rooms.cooler.queries.reading_in import Usual
from rooms.shop.queries.current import house
from wording.cooler import DAMAGED

UNITS = [("lb", "lb"), ("kg", "kg")]
DEGREES = [("C", "°C"), ("F", "°F")]
DATE = {"type": "date"}


class PieceField(forms.ModelChoiceField):
    def label_from_instance(self, piece: Any) -> Any:
        return f"{piece.shown_name} {piece.item_number}".strip()


class HeaderForm(forms.Form):
    key = forms.UUIDField(widget=forms.HiddenInput, initial=uuid.uuid4)
    supplier = forms.CharField(label="Supplier", max_length=100)
    establishment = forms.CharField(label="Establishment number", max_length=20, required=False)
    invoice = forms.CharField(label="Invoice number", max_length=40, required=False)

    def header(self) -> Header:
        return Header(**self.cleaned_data)


DAMAGE = [(kind.value, words) for kind, words in DAMAGED.items()]
CARRIED = "Only what the delivery carries."


class MarblingField(forms.IntegerField):
    """A score by eye."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(
            label=f"Marbling by eye, {LEAST_MARBLING} to {MOST_MARBLING}",
            min_value=LEAST_MARBLING,
            max_value=MOST_MARBLING,
            required=False,
            **kwargs,
        )


class QualityForm(forms.Form):
    """What is seen on one bag."""

    optional_word = "none"
    damage = forms.MultipleChoiceField(
        label="Damage seen", choices=DAMAGE, required=False, widget=forms.CheckboxSelectMultiple
    )
    marbling = MarblingField()
    claims = forms.CharField(label="Claims", max_length=100, required=False, help_text=CARRIED)


class CountryField(forms.ChoiceField):
    """A country by its two letters, those that meat comes from first."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(choices=self.offered, required=False, **kwargs)

    @staticmethod
    def offered() -> list[tuple[str, str]]:
        named = countries_by_letters()
        likely = [(letters, named[letters]) for letters in LIKELY]
        rest = [(letters, name) for letters, name in named.items() if letters not in LIKELY]
        return [("", "not on record"), *likely, *sorted(rest, key=lambda one: one[1])]


class BornRaised(forms.Form):
    """Where an animal was born, raised and slaughtered: 7 CFR 65."""

    born = CountryField(label="Born in")
    raised = CountryField(label="Raised in")
    slaughtered = CountryField(label="Slaughtered in")

    def clean(self) -> Any:
        data = super().clean()
        life = [data.get(name) for name in ("born", "raised", "slaughtered")]
        if any(life) and not all(life):
            raise forms.ValidationError(
                "Country of origin: born, raised and slaughtered in; all three or none of them is right."
            )
        return data


class BagForm(SeenForm, BornRaised):
    """What a bag came with, as its papers say."""

    optional_word = "none"
    lot = forms.CharField(label="Lot", max_length=60, required=False)
    packed_on = forms.DateField(label="Packed on", widget=forms.DateInput(attrs=DATE))
    use_by = forms.DateField(label="Use by", required=False, widget=forms.DateInput(attrs=DATE))
    grade = forms.CharField(label="Grade", max_length=30, required=False)
    country = forms.CharField(label="Country of origin", max_length=60, required=False)
    field_order = ("seen", "lot", "packed_on", "use_by", "grade", "country")

    def facts(self) -> BagFacts:
        return BagFacts(**self.typed)


class UsualForm(BornRaised):
    """What holds for every bag that is added, and the bags themselves."""

    optional_word = "none"

    piece = PieceField(
        Piece.objects.none(),
        label="Piece",
        required=False,
        empty_label="as the label or the file says",
    )
    packed_on = forms.DateField(
        label="Packed on", required=False, widget=forms.DateInput(attrs=DATE)
    )
    price = PlainDecimal(label="Price of one lb or kg", above=0, most=10000, required=False)
    unit = forms.ChoiceField(label="Unit", choices=UNITS)
    grade = forms.CharField(label="Grade", max_length=30, required=False)
    country = forms.CharField(label="Country of origin", max_length=60, required=False)
    pieces_inside = forms.IntegerField(
        label="Pieces in a bag", min_value=1, max_value=200, required=False
    )
    seal = forms.ChoiceField(label="Seal", choices=Seal.choices, required=False)
    was_frozen = forms.BooleanField(label="Heavy drip: it may have been frozen", required=False)
    damage = forms.MultipleChoiceField(
        label="Damage seen",
        choices=DAMAGE,
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )
    marbling = MarblingField()
    claims = forms.CharField(
        label="Claims: breed, feed, farm", max_length=100, required=False, help_text=CARRIED
    )
    lines = forms.CharField(
        label="Catch weights",
        required=False,
        widget=forms.Textarea(
            attrs={"rows": 6, "spellcheck": "false", "autocomplete": "off", "autofocus": True}
        ),
        help_text="One a line, pasted or typed: weight, lot, serial, packed on. Or labels as the"
        " scanner types them. A first line of names may say otherwise.",
    )
    file = forms.FileField(label="Or a file", required=False, help_text="CSV or XLSX.")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs.setdefault("initial", {"unit": house().unit})
        super().__init__(*args, **kwargs)
        self.fields["piece"].queryset = Piece.objects.order_by("-is_bought", "position", "name")

    def clean_packed_on(self) -> Any:
        packed = self.cleaned_data["packed_on"]
        if packed and packed > timezone.localdate():
            raise forms.ValidationError(f"{packed} is still to come; today or before is right.")
        return packed

    def clean_file(self) -> Any:
        file = self.cleaned_data["file"]
        if file and file.size > LARGEST_FILE:
            raise forms.ValidationError(f"{file.name} is larger than {LARGEST_FILE:,} bytes.")
        return file

    def usual(self) -> Usual:
        data = self.cleaned_data
        names = ("piece", "unit", "packed_on", "price", "country", "grade", "was_frozen", "claims")
        life = ("born", "raised", "slaughtered")
        return Usual(
            **{name: data[name] for name in names + life},
            damage=tuple(data["damage"]),
            marbling=data["marbling"],
            seal=data["seal"] or Seal.TIGHT,
            pieces_inside=data["pieces_inside"] or 1,
        )


class Degrees(forms.Form):
    """A temperature in °C or °F, as thousandths of a °C."""

    celsius = PlainDecimal(label="Temperature", least=-40, most=140, required=False, example="2.5")
    degrees = forms.ChoiceField(label="°C or °F", choices=DEGREES, required=False)

    def millicelsius(self) -> int | None:
        value = self.cleaned_data.get("celsius")
        if value is None:
            return None
        return millicelsius(value, is_fahrenheit=self.cleaned_data.get("degrees") == "F")


class CheckForm(Degrees):
    optional_word = "none"

    arrival_reason = forms.CharField(
        label="Above the limit: why it is taken", max_length=300, required=False
    )
    freight = PlainDecimal(label="Freight", least=0, most=100000, required=False, example="12.50")
    discount = PlainDecimal(label="Discount", least=0, most=100000, required=False, example="4.50")
    bags = forms.IntegerField(label="Invoice: bags", min_value=0, max_value=9999, required=False)
    weight = PlainDecimal(label="Invoice: weight", least=0, most=1000000, required=False)
    amount = PlainDecimal(
        label="Invoice: goods, without freight",
        least=0,
        most=10000000,
        required=False,
        example="812.40",
    )
    difference_reason = forms.CharField(
        label="Invoice differs: why", max_length=300, required=False
    )
    invoice_unit = forms.ChoiceField(choices=UNITS, required=False, widget=forms.HiddenInput)
    """What the page said the weight is in, whatever the settings say meanwhile."""

    def check(self) -> Check:
        data = self.cleaned_data
        return Check(
            freight=data["freight"] or ZERO,
            discount=data["discount"] or ZERO,
            arrival=self.millicelsius(),
            arrival_reason=data["arrival_reason"],
            bags=data["bags"],
            weight=data["weight"],
            unit=data["invoice_unit"],
            amount=data["amount"],
            difference_reason=data["difference_reason"],
        )


class PriceForm(forms.Form):
    amount = PlainDecimal(label="Price", above=0, most=10000, example="7.49")
    per = forms.ChoiceField(label="Unit", choices=UNITS)


class WeightForm(forms.Form):
    weight = PlainDecimal(label="Own weight", above=0, most=1000)
    unit = forms.ChoiceField(label="Unit", choices=UNITS)

    def weight_found(self) -> Weight:
        return Weight(self.cleaned_data["weight"], Unit(self.cleaned_data["unit"]))


class WindowForm(ListForm):
    of_list = AgeWindow

    least = forms.IntegerField(label="Least, days", min_value=0, max_value=365)
    best_from = forms.IntegerField(label="Best from", min_value=0, max_value=365)
    best_to = forms.IntegerField(label="Best to", min_value=0, max_value=365)
    end = forms.IntegerField(label="End", min_value=0, max_value=365)

    def clean(self) -> Any:
        data = super().clean()
        if len(data) == 5:
            try:
                data["window"] = Window(
                    **{name: data[name] for name in ("least", "best_from", "best_to", "end")}
                )
            except BadValue as bad:
                self.add_error(bad.field.replace(" ", "_"), f"{bad.wrong}; {bad.right}.")
        return data


class ManualForm(Degrees):
    """A reading taken by hand."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for field in self.fields.values():
            field.required = True
