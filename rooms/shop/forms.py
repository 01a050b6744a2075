"""The pages of the settings: one form each. Fields have the names of the settings."""

import re
from decimal import Decimal
from typing import Any, cast

from django import forms

from cutting.cooler.temperature import millicelsius
from cutting.costing.schools import CostingSchool
from cutting.errors import BadValue
from cutting.quantities import Unit
from rooms.common.db.seen import row_seen
from rooms.common.errors import Overtaken
from rooms.common.plain_text import is_plain
from rooms.common.web.forms import Percent, PlainDecimal, SeenForm
from rooms.common.web.formsets import NumberedForm
from rooms.shop.models import DIRECTIONS, FAT_CHOICES, SALES_UNITS, Shop
from rooms.shop.queries.choices import currencies, zones
from rooms.shop.queries.endings import bands_of, words_of
from rooms.shop.queries.house import House, Plate
from wording.dates import WEEKDAYS, Clock, DayOrder
from wording.pencil import MEANINGS, SCHOOL_NAMES

ORDERS = [
    (DayOrder.DAY.value, "26 Nov 2026"),
    (DayOrder.MONTH.value, "Nov 26, 2026"),
    (DayOrder.YEAR.value, "2026-11-26"),
]
CLOCKS = [(Clock.H24.value, "17:05"), (Clock.H12.value, "5:05 pm")]
ANIMALS = [("beef", "beef"), ("pork", "pork"), ("lamb", "lamb")]
MOST_SCALES = 4


class EndingsField(forms.CharField):
    """Price endings, typed as words, kept as bands."""

    def __init__(self, **kwargs: Any) -> None:
        kwargs.setdefault("help_text", "From low to high, such as: 0.49 0.99 under 20; 0.99")
        super().__init__(max_length=200, **kwargs)

    def to_python(self, value: Any) -> Any:
        text = super().to_python(value)
        if text in self.empty_values:
            return text
        try:
            return bands_of(text)
        except BadValue as bad:
            raise forms.ValidationError(
                f"“{text}”: {bad.wrong}; write them like 0.49 0.99 under 20; 0.99."
            ) from None

    def run_validators(self, value: Any) -> None:
        """A text's own validators do not apply to bands."""

    def prepare_value(self, value: Any) -> Any:
        return value if isinstance(value, str) else words_of(value)


class Celsius(PlainDecimal):
    """Typed in °C, kept in thousandths."""

    def to_python(self, value: Any) -> Any:
        number = super().to_python(value)
        return None if number is None else millicelsius(number)

    def prepare_value(self, value: Any) -> Any:
        return f"{Decimal(value) / 1000:f}" if isinstance(value, int) else value


def radio(label: str, choices: Any, **more: Any) -> forms.ChoiceField:
    return forms.ChoiceField(label=label, choices=choices, widget=forms.RadioSelect, **more)


class Section(SeenForm):
    """One page of the settings."""

    title, lead = "", ""
    optional_word = "may be empty"

    @property
    def values(self) -> dict[str, Any]:
        """The settings as typed, in the types of `House`. Only after is_valid()."""
        return self.typed

    @classmethod
    def filled(cls, house: House) -> dict[str, Any]:
        """What a page begins with."""
        return {name: getattr(house, name) for name in cls.base_fields if name != "seen"}

    @classmethod
    def initial_of(cls, row: Shop) -> dict[str, Any]:
        """The settings of a row."""
        return cls.filled(House.of(row))

    def seen_before(self, row: Shop) -> Shop:
        """The settings as the page had them; those that ship where there were none."""
        seen = str(self.data.get("seen", ""))
        return cast(Shop, row_seen(Shop, seen)) if seen else Shop(**House().columns)

    def says(self, name: str, value: Any) -> str:
        """A value of one field in words."""
        field = self.fields[name]
        if isinstance(field, forms.MultipleChoiceField):
            words = dict(field.choices)
            return ", ".join(words[str(one)] for one in value) or "none"
        if isinstance(field, forms.ChoiceField):
            flat = dict(_flat(field.choices))
            return str(flat.get(str(value), value))
        if isinstance(field, Percent):
            return "none" if value is None else f"{field.prepare_value(value)} %"
        if isinstance(field, Celsius):
            return f"{field.prepare_value(value)} °C"
        return str(field.prepare_value(value)) or "none"


def _flat(choices: Any) -> Any:
    """Choices without their groups."""
    for value, words in choices:
        if isinstance(words, list | tuple):
            yield from words
        else:
            yield value, words


class NameSection(Section):
    title, lead = (
        "Name, money and units",
        "What stands at the head of every page, and what it weighs in.",
    )

    name = forms.CharField(label="Name of the shop", max_length=60)
    own_short_name = forms.CharField(
        label="Short name",
        max_length=20,
        required=False,
        help_text="For the head of the page. Empty: the first words of the name.",
    )
    unit = radio("Weights and prices by the", SALES_UNITS)
    currency = forms.ChoiceField(
        label="Currency",
        choices=currencies,
        help_text="Prices have two decimals; currencies that have none or three are left out.",
    )
    names_first = radio("Names that stand first", Shop.NamesFirst.choices)

    def says(self, name: str, value: Any) -> str:
        if name == "own_short_name" and not value:
            return "the first words of the name"
        return super().says(name, value)

    def clean_name(self) -> Any:
        name = " ".join(self.cleaned_data["name"].split())
        if not is_plain(name):
            raise forms.ValidationError("Plain characters are right.")
        return name

    @classmethod
    def filled(cls, house: House) -> dict[str, Any]:
        """A shop that nobody has named yet has no name to begin with."""
        return super().filled(house) | ({"name": ""} if house.name == House.name else {})

    @property
    def values(self) -> dict[str, Any]:
        return {**self.typed, "unit": Unit(self.cleaned_data["unit"])}


class PlaceSection(Section):
    title, lead = (
        "Place and time",
        "What is today, how a day and the clock are written, when a tablet locks.",
    )

    time_zone = forms.ChoiceField(label="Time zone", choices=zones)
    day_order = radio("A day is written", ORDERS)
    clock = radio("The time is written", CLOCKS)
    lock_minutes = forms.IntegerField(
        label="Block locks after, minutes without a touch",
        min_value=2,
        max_value=240,
        initial=30,
        help_text="Then the PIN is asked for again. The office locks after 30 minutes.",
    )

    @property
    def values(self) -> dict[str, Any]:
        data = self.typed
        order, clock = DayOrder(data["day_order"]), Clock(data["clock"])
        return {**data, "day_order": order, "clock": clock}


class MoneySection(Section):
    title, lead = "Costs and prices", "What an hour costs, and how prices are made of it."

    labour_rate = PlainDecimal(
        label="Wage an hour with what goes with it", above=0, most=1000, example="24.00"
    )
    target_margin = Percent(label="Target margin, % of sales", least=0, most=95)
    floor_margin = Percent(
        label="Floor margin, % of sales",
        least=0,
        most=95,
        required=False,
        help_text="Below it a price is told. A product may have its own.",
    )
    school = radio(
        "Cost by",
        [(one.value, f"{SCHOOL_NAMES[one]}: {MEANINGS[one]}") for one in CostingSchool],
        help_text="The trade has four schools. Every sheet shows all; this one makes the prices.",
    )
    price_way = radio("Prices begin with", Shop.PriceWay.choices)
    endings = EndingsField(label="Price endings")
    ending_direction = radio("Rounded", DIRECTIONS)

    def clean(self) -> Any:
        data = super().clean()
        target, floor = data.get("target_margin"), data.get("floor_margin")
        if target is not None and floor is not None and floor > target:
            self.add_error("floor_margin", "The floor is above the target; at most the target.")
        return data

    @property
    def values(self) -> dict[str, Any]:
        data = self.typed
        school, endings = CostingSchool(data["school"]), tuple(data["endings"])
        return {**data, "school": school, "endings": endings}


class CoolerSection(Section):
    title, lead = "Cooler and deliveries", "When meat comes, what is asked of it, how cold it lies."

    delivery_days = forms.MultipleChoiceField(
        label="Deliveries come on",
        choices=[(str(number), name) for number, name in enumerate(WEEKDAYS)],
        widget=forms.CheckboxSelectMultiple,
        required=False,
    )
    origin_asked = forms.MultipleChoiceField(
        label="Country of origin is asked for",
        choices=ANIMALS,
        widget=forms.CheckboxSelectMultiple,
        required=False,
        help_text="In the United States for lamb (7 CFR 65).",
    )
    warmest = Celsius(
        label="Upper limit of the cooler, °C",
        least=-2,
        most=10,
        example="5",
        help_text="5 °C is 41 °F, FDA Food Code 3-501.16. A tighter one is the shop's choice.",
    )
    coldest = Celsius(
        label="Lower limit, °C",
        least=-5,
        most=5,
        example="1",
        help_text="Colder than about 1 °C meat freezes. Common practice, no published source.",
    )

    def clean(self) -> Any:
        data = super().clean()
        warmest, coldest = data.get("warmest"), data.get("coldest")
        if warmest is not None and coldest is not None and coldest >= warmest:
            self.add_error("coldest", "It is not below the upper limit; a lower one is right.")
        return data

    @property
    def values(self) -> dict[str, Any]:
        data = self.typed
        days = tuple(sorted(int(day) for day in data["delivery_days"]))
        return {**data, "delivery_days": days, "origin_asked": tuple(data["origin_asked"])}


class HouseSection(Section):
    title, lead = (
        "House rules",
        "Where the trade has two ways. Guides show the other beside the house's.",
    )

    fat_level = radio("Fat left on steaks and roasts", FAT_CHOICES, required=False)
    steak_trim = radio("Steaks are trimmed", Shop.SteakTrim.choices)
    silver_skin = radio("Silver skin", Shop.SilverSkin.choices)
    leg_cap = radio("The thin cap of a pork leg is", Shop.LegCap.choices)
    boning = radio("A lamb shoulder is boned", Shop.Boning.choices)


class PlateForm(NumberedForm):
    """One scale as its plate says."""

    optional_word = "none"

    label = forms.CharField(label="Name", max_length=30, required=False)
    capacity = PlainDecimal(label="Most it weighs", above=0, most=3000, required=False)
    unit = forms.ChoiceField(label="Unit", choices=[("lb", "lb"), ("kg", "kg")], required=False)
    division = PlainDecimal(label="Division", above=0, most=10, required=False, example="0.01")

    def clean(self) -> Any:
        data = super().clean()
        if not data.get("label"):
            return data
        for name in ("capacity", "division"):
            if data.get(name) is None and name not in self.errors:
                self.add_error(name, "It is empty; what stands on the plate is right.")
        capacity, division = data.get("capacity"), data.get("division")
        if capacity and division and capacity / division > 100_000:
            self.add_error("division", f"{division} of {capacity} is too fine to be a scale's.")
        return data


class ScaleSection(Section):
    """The plates; its rows are forms of their own."""

    title, lead = (
        "Scales and probe",
        "As the plates say: what they weigh at most, and by which step.",
    )

    def __init__(self, data: Any = None, initial: Any = None, **more: Any) -> None:
        seen = (initial or {}).get("seen", "")
        super().__init__(data, initial={"seen": seen}, **more)
        plates: list[Plate] = list((initial or {}).get("scales", ()))
        self.names = [plate.name for plate in plates]
        self.rows = [
            PlateForm(
                data,
                prefix=str(number),
                initial=vars(plates[number]) if number < len(plates) else {},
            )
            for number in range(min(len(plates) + 1, MOST_SCALES))
        ]

    @classmethod
    def filled(cls, house: House) -> dict[str, Any]:
        return {"scales": house.scales}

    def rebase(self, overtaken: Overtaken) -> None:
        """Row by row: what was not changed here is as it is now."""
        before = House.of(self.seen_before(overtaken.row)).scales
        now = House.of(overtaken.row).scales
        super().rebase(overtaken)
        for number, row in enumerate(self.rows):
            was, is_now = (
                vars(all_of[number]) if number < len(all_of) else {} for all_of in (before, now)
            )
            for name in row.fields:
                at = row.add_prefix(name)
                if str(self.data.get(at, "")) == str(was.get(name, "")):
                    self.data[at] = is_now.get(name, "")
            row.data = self.data

    def clean(self) -> Any:
        data = super().clean()
        for row in self.rows:
            row.full_clean()
        if any(row.errors for row in self.rows):
            raise forms.ValidationError("A scale below is not right yet.")
        labels = [row.cleaned_data.get("label", "").strip() for row in self.rows]
        said = [label.casefold() for label in labels if label]
        if not labels[0]:
            raise forms.ValidationError("Name: the first scale has none; Block scale is usual.")
        if len(set(said)) < len(said):
            raise forms.ValidationError("Name: two scales have the same; each needs its own.")
        return data

    @property
    def values(self) -> dict[str, Any]:
        plates, taken = [], set(self.names)
        for number, row in enumerate(self.rows):
            data = row.cleaned_data
            if not data.get("label", "").strip():
                continue
            name = self.names[number] if number < len(self.names) else ""
            name = name or _key(data["label"], taken)
            taken.add(name)
            plates.append(
                Plate(
                    name,
                    data["label"].strip(),
                    f"{data['capacity']:f}",
                    data["unit"] or "lb",
                    f"{data['division']:f}",
                )
            )
        return {"scales": tuple(plates)}

    def says(self, name: str, value: Any) -> str:
        return "; ".join(
            f"{one.label}, {one.capacity} {one.unit} by {one.division}" for one in value
        )


def _key(label: str, taken: set[str]) -> str:
    """A short name for the environment to call the scale by."""
    key = re.sub(r"[^a-z0-9]+", "-", label.casefold()).strip("-").removesuffix("-scale") or "scale"
    tried, free = 1, key
    while free in taken:
        tried += 1
        free = f"{key}-{tried}"
    return free


SECTIONS: dict[str, type[Section]] = {
    "name": NameSection,
    "place": PlaceSection,
    "money": MoneySection,
    "cooler": CoolerSection,
    "scales": ScaleSection,
    "house": HouseSection,
}
"""The pages in the order of rooms.shop.queries.progress.SECTIONS."""


def names_of(section: type[Section]) -> list[str]:
    """The settings that a page holds."""
    if section is ScaleSection:
        return ["scales"]
    return [name for name in section.base_fields if name != "seen"]
