"""Forms of the catalog. Each turns what was typed into a changed document and back."""

import re
import textwrap
from decimal import Decimal
from typing import Any

from django import forms
from django.core import signing
from django.utils.functional import cached_property

from cutting.errors import BadValue
from cutting.shopper import Grade, Method
from drawings.families import Family
from rooms.catalog.actions.edit import digest
from rooms.catalog.models import (
    MACHINES,
    PILE_WORDS,
    ROLES,
    UNITS,
    Counter,
    Cut,
    Muscle,
    Pile,
    Plan,
    PlanKind,
    Primal,
    Species,
)
from rooms.catalog.queries.drawings import drawing_of, drawings
from rooms.catalog.queries.shapes import WHOLE, shapes
from rooms.common.errors import Difference, Overtaken
from rooms.common.web.forms import LongSelect, PlainDecimal, SeenForm
from wording.shopper import METHOD_WORDS

SALT = "catalog page"
LONGEST_TOLD = 80
LONG = forms.Textarea(attrs={"rows": 2})
KEEP = "keep"
NO_CUT = "not sold"


class Lines(forms.CharField):
    """One thing a line."""

    widget = forms.Textarea(attrs={"rows": 4})

    def has_changed(self, initial: Any, data: Any) -> bool:
        return (initial or []) != self.to_python(data)

    def to_python(self, value: Any) -> Any:
        return [
            line.strip() for line in (super().to_python(value) or "").splitlines() if line.strip()
        ]

    def prepare_value(self, value: Any) -> Any:
        return "\n".join(value) if isinstance(value, list) else value


class Commas(forms.CharField):
    """Several short things with commas between."""

    def has_changed(self, initial: Any, data: Any) -> bool:
        return (initial or []) != self.to_python(data)

    def to_python(self, value: Any) -> Any:
        return [
            word.strip() for word in (super().to_python(value) or "").split(",") if word.strip()
        ]

    def prepare_value(self, value: Any) -> Any:
        return ", ".join(value) if isinstance(value, list) else value


def optional(label: Any, most: int = 300, **kwargs: Any) -> Any:
    return forms.CharField(label=label, max_length=most, required=False, **kwargs)


Document = dict[str, Any]


def mark_of(whole: Document, part: Document) -> str:
    """What a page has seen, for its form to carry: the state of the whole document, and the part that the form
    edits."""
    return signing.dumps({"digest": digest(whole), "part": part}, salt=SALT, compress=True)


class CatalogForm(SeenForm):
    """A form of a part of a document. Its optional fields may stay empty."""

    optional_word = "may be empty"

    @classmethod
    def initial_of(cls, row: Document) -> dict[str, Any]:
        """Every field: what a document leaves out is empty."""
        return {name: row.get(name) for name in cls.base_fields if name != "seen"}

    @cached_property
    def _mark(self) -> Document:
        seen = self.data.get("seen", "")
        return dict(signing.loads(seen, salt=SALT)) if seen else {}

    @property
    def digest(self) -> str:
        """The state of the whole document that the page had; empty for a page that carries none."""
        return str(self._mark.get("digest", ""))

    def clean_seen(self) -> str:
        try:
            return str(self.data["seen"]) if self._mark else ""
        except signing.BadSignature:
            raise forms.ValidationError("The page is damaged; open it again.") from None

    def seen_before(self, row: Document) -> Document:
        return dict(self._mark.get("part", {}))

    def overtaken(self, whole: Document, part: Document) -> Overtaken:
        """What to tell where the document is another now; `part`: what this form edits, as it is now."""
        before = self.seen_before(part)
        names = sorted(name for name in {*before, *part} if before.get(name) != part.get(name))
        told = [Difference(_said(name), _value(before, name), _value(part, name)) for name in names]
        elsewhere = [] if told else [Difference("Elsewhere in it", "as before", "changed")]
        return Overtaken(part, told or elsewhere, mark_of(whole, part))


def _said(name: str) -> str:
    return name.replace("_", " ").capitalize()


def _value(document: Document, name: str) -> str:
    value = document.get(name, "")
    if isinstance(value, list) and all(isinstance(one, str) for one in value):
        value = ", ".join(value)
    if isinstance(value, list | dict):
        return f"{len(value)}, changed"
    return textwrap.shorten(str(value), LONGEST_TOLD, placeholder="…")


class NamesForm(CatalogForm):
    """What pieces and cuts have in common."""

    name = forms.CharField(label="US name", max_length=100)
    other_name = optional("Commonwealth name", 100)
    house_name = optional("House name", 100, help_text="Shown first everywhere when it is there.")
    synonyms = Commas(label="Also found by", required=False, help_text="Commas between.")
    species = forms.ChoiceField(label="Animal", choices=Species.choices)
    item_number = optional("Item number", 20, help_text="USDA IMPS, such as 184 or 116A.")


class PieceForm(NamesForm):
    primal = forms.ChoiceField(label="Primal")
    usual_weight = PlainDecimal(label="Usual weight", above=0, most=10000, required=False)
    usual_unit = forms.ChoiceField(label="Unit", choices=UNITS)
    place = optional("Where it sits", widget=forms.Textarea(attrs={"rows": 2}))
    landmarks = Lines(
        label="Landmarks: which end is which", required=False, help_text="One a line."
    )
    tools = Commas(label="Tools", required=False)
    looks = optional("How the finished cuts look", widget=forms.Textarea(attrs={"rows": 2}))
    cautions = Lines(label="Cautions", required=False, help_text="One a line.")
    least_age_days = forms.IntegerField(
        label="Least age, days", min_value=0, max_value=120, required=False
    )
    drawing = forms.ChoiceField(label="Drawing")
    parts = Lines(
        label="Muscles of a simple drawing, from the top",
        required=False,
        help_text="For the simple shapes only. One a line: name, muscle, direction of the grain in"
        " degrees. Such as: cap, spinalis, 20",
    )
    left_end = optional("Left end", 60)
    right_end = optional("Right end", 60)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["primal"].choices = Primal.objects.values_list("key", "name")
        self.fields["drawing"].choices = [
            (KEEP, "as it is"),
            *((f"shape:{family.value}", f"simple: {family.value}") for family in Family),
            *((f"own:{key}", f"drawn: {key.replace('-', ' ')}") for key in drawings()),
        ]

    @classmethod
    def initial_of(cls, row: Document) -> dict[str, Any]:
        """Initial values from a piece's document."""
        usual = row.get("usual_weight", {})
        return super().initial_of(row) | {
            "usual_weight": usual.get("value", ""),
            "usual_unit": usual.get("unit", "lb"),
            "drawing": KEEP,
        }

    def change(self, piece: dict[str, Any]) -> dict[str, Any]:
        """The piece's document with what was typed. Only after is_valid()."""
        data = self.cleaned_data
        changed = {**piece}
        for name in (
            "name",
            "other_name",
            "house_name",
            "synonyms",
            "species",
            "item_number",
            "primal",
            "place",
            "landmarks",
            "tools",
            "looks",
            "cautions",
            "least_age_days",
        ):
            _put(changed, name, data[name])
        if data["usual_weight"] is not None:
            value = f"{data['usual_weight']:f}"
            changed["usual_weight"] = {"value": value, "unit": data["usual_unit"]}
        else:
            changed.pop("usual_weight", None)
        kind, _, which = data["drawing"].partition(":")
        if kind in ("own", "shape"):
            changed["drawing"] = which if kind == "own" else simple_drawing(which, data)
            changed["steps"] = _lit_in(changed["drawing"], piece["steps"])
        return changed


def _lit_in(drawing: str | dict[str, Any], steps: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The steps with what they light, as far as the new drawing shows it."""
    try:
        keys = drawing_of("new", drawing).keys
    except BadValue:
        return steps  # the fault in the drawing itself is told
    return [{**step, "touches": [k for k in step["touches"] if k in keys]} for step in steps]


def simple_drawing(family: str, data: dict[str, Any]) -> dict[str, Any]:
    """A drawing of even bands, one for each line "name, muscle, grain"."""
    lines = data["parts"] or ["muscle, mixed-lean, 0"]
    parts = []
    slots = ("strip", "tenderloin", "tail")
    for i, line in enumerate(lines):
        name, muscle, grain = [*(word.strip() for word in line.split(",")), "", ""][:3]
        gap = 0.03 if i else 0
        part = {
            "key": f"part-{i + 1}",
            "label": name,
            "muscle": muscle,
            "grain": grain or "0",
            "tone": i % 4 + 1,
        }
        if family == Family.LOIN:
            part["slot"] = slots[min(i, 2)]
        else:
            part["box"] = f"0 1 {i / len(lines) + gap:.3f} {(i + 1) / len(lines):.3f}"
        parts.append(part)
    ends = {side: data[f"{side}_end"] for side in ("left", "right") if data[f"{side}_end"]}
    return {
        "family": family,
        "view": "From the side, schematic",
        "parts": parts,
        "ends": ends,
        **({"bones": 8} if family == Family.RACK else {}),
    }


def _put(document: dict[str, Any], name: str, value: Any) -> None:
    """Write a value, or leave the name out when it is empty."""
    if value in ("", None, [], {}, False):
        document.pop(name, None)
    else:
        document[name] = value


class StepForm(CatalogForm):
    title = forms.CharField(label="Step", max_length=80)
    find = forms.CharField(label="Find", max_length=300, widget=forms.Textarea(attrs={"rows": 2}))
    do = forms.CharField(label="Do", max_length=300, widget=forms.Textarea(attrs={"rows": 2}))
    right = forms.CharField(
        label="Right when", max_length=300, widget=forms.Textarea(attrs={"rows": 2})
    )
    mistake = forms.CharField(
        label="Usual mistake and what it costs",
        max_length=300,
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    why = optional("Why", 200, widget=LONG, help_text="The reason, in one sentence.")
    piles = forms.MultipleChoiceField(
        label="Piles", choices=list(PILE_WORDS.items()), widget=forms.CheckboxSelectMultiple
    )
    touches = forms.MultipleChoiceField(
        label="Lights in the drawing", required=False, widget=forms.CheckboxSelectMultiple
    )
    plans = forms.MultipleChoiceField(
        label="Only for these plans",
        required=False,
        widget=forms.CheckboxSelectMultiple,
        help_text="None ticked: for all.",
    )
    caution = optional("Caution")
    check = optional("To tick and record", 80, help_text="Such as: Gland out.")
    machine = forms.ChoiceField(
        label="Power machine",
        choices=[("", "none"), *MACHINES],
        required=False,
        help_text="Nobody under 18 runs it, sets it up or cleans it.",
    )

    def __init__(self, piece: dict[str, Any], drawing: Any, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        parts = drawing.parts if drawing else ()
        self.fields["touches"].choices = [
            (part.key, part.label or part.key.replace("-", " ")) for part in parts
        ]
        self.fields["plans"].choices = [(plan["key"], plan["name"]) for plan in piece["plans"]]

    def change(self, step: dict[str, Any]) -> dict[str, Any]:
        """The step's document with what was typed. Only after is_valid()."""
        changed = {**step}
        for name, value in self.typed.items():
            _put(changed, name, value)
        changed.setdefault("touches", [])
        return changed


class PlanForm(CatalogForm):
    name = forms.CharField(label="Plan", max_length=100)
    school = forms.ChoiceField(label="Kind", choices=PlanKind.choices)
    note = optional("What it gives and takes", 400, widget=forms.Textarea(attrs={"rows": 2}))
    minutes_per_lb = PlainDecimal(
        label="Minutes a pound, assumed", above=0, most=60, required=False, example="1.5"
    )
    sawn = forms.BooleanField(label="Uses the saw", required=False)


class Numbers(forms.CharField):
    """One number, or a least and a most: "6", "2 to 3"; kept as text."""

    def __init__(self, *, example: str, **kwargs: Any) -> None:
        widget = forms.TextInput(attrs={"size": 6, "autocomplete": "off"})
        self.example = example
        super().__init__(max_length=10, required=False, widget=widget, **kwargs)

    def to_python(self, value: Any) -> Any:
        text = " ".join((super().to_python(value) or "").split()).replace("–", " to ")
        found = NUMBERS.fullmatch(text)
        if text and (not found or int(found[1]) > int(found[2] or found[1]) or int(found[1]) < 1):
            raise forms.ValidationError(f"“{text}” is not right; {self.example} is right.")
        return text


NUMBERS = re.compile(r"([0-9]{1,2})(?: to ([0-9]{1,2}))?", re.ASCII)


class OutputForm(forms.Form):
    """One pile of a plan; a row without a name is left out. `key` is its identity: a new name
    leaves it the same output."""

    key = forms.SlugField(required=False, max_length=60, widget=forms.HiddenInput)
    name = optional("Output", 60)
    pile = forms.ChoiceField(label="Pile", choices=Pile.choices)
    cut = forms.ChoiceField(label="Cut", required=False, widget=LongSelect)
    share = PlainDecimal(label="Usual %", least=0, most=100, required=False, example="12.5")
    target = PlainDecimal(label="Target", above=0, most=10000, required=False, example="8")
    unit = forms.ChoiceField(label="Unit", choices=UNITS, required=False, initial="oz")
    thickness = optional("Thickness", 20)
    place = forms.ChoiceField(label="Cut from", required=False)
    bones = Numbers(label="Bones", example="2 to 4")
    count = Numbers(label="From one piece", example="2 to 3")
    goes_on = forms.ChoiceField(label="Cut on by", required=False, widget=LongSelect)
    made_by = forms.MultipleChoiceField(label="Made by step", required=False)
    role = forms.ChoiceField(
        label="Role", choices=[("", "the pile's usual"), *ROLES], required=False
    )
    counted = forms.BooleanField(label="Counted", required=False)
    in_case = forms.BooleanField(label="Trim that is sold", required=False)

    def __init__(
        self,
        *args: Any,
        cuts: Any = (),
        steps: Any = (),
        places: Any = (),
        plans: Any = (),
        **kwargs: Any,
    ) -> None:
        super().__init__(*args, **kwargs)
        own = self.initial.get("place", "")
        known = own in {place for place, _ in places}
        self.fields["place"].choices = [*places, *([] if known else [(own, own)])]
        self.fields["cut"].choices = cuts
        on = self.initial.get("goes_on", "")
        known = on in {plan for plan, _ in plans}
        self.fields["goes_on"].choices = [*plans, *([] if known else [(on, on)])]
        self.fields["made_by"].choices = steps
        self.fields["made_by"].widget.attrs["size"] = 3
        row = (self.prefix or "").rpartition("-")[2]
        for field in self.fields.values():  # in a table a label stands once, for the eye
            number = f", row {int(row) + 1}" if row.isdecimal() else ""
            field.widget.attrs["aria-label"] = f"{field.label}{number}"

    def first_line(self) -> list[forms.BoundField]:
        """What an output is; `second_line`: where it is cut and what becomes of it."""
        return self.visible_fields()[:7]

    def second_line(self) -> list[forms.BoundField]:
        return self.visible_fields()[7:]

    def document(self) -> dict[str, Any]:
        data = self.cleaned_data
        found = {"name": data["name"].strip(), "pile": data["pile"]}
        _put(found, "key", data["key"])
        _put(found, "cut", data["cut"])
        _put(found, "role", data["role"])
        _put(found, "thickness", data["thickness"])
        part, _, zone = data["place"].partition("/")
        _put(found, "part", part)
        _put(found, "zone", zone)
        _put(found, "bones", data["bones"])
        _put(found, "count", data["count"])
        _put(found, "goes_on", data["goes_on"])
        _put(found, "made_by", data["made_by"])
        _put(found, "counted", data["counted"])
        _put(found, "in_case", data["in_case"])
        if data["share"] is not None:
            found["share"] = f"{(data['share'] / 100).normalize():f}"
        if data["target"] is not None:
            found["target"] = {"value": f"{data['target']:f}", "unit": data["unit"] or "oz"}
        return found


class Outputs(forms.BaseFormSet):
    def documents(self) -> list[dict[str, Any]]:
        return [form.document() for form in self.forms if form.cleaned_data.get("name", "").strip()]

    def is_changed(self) -> bool:
        """Whether a row differs from what it began with; one without a name is none."""
        rows = [form for form in self.forms if form.initial or form["name"].value()]
        return any(form.has_changed() for form in rows)


OutputFormSet = forms.formset_factory(OutputForm, formset=Outputs, extra=3, max_num=40)


def output_initial(output: dict[str, Any]) -> dict[str, Any]:
    """A form's values from an output's document."""
    target = output.get("target", {})
    share = output.get("share")
    place = "/".join(name for name in (output.get("part"), output.get("zone")) if name)
    return {
        **output,
        "place": place,
        "target": target.get("value", ""),
        "unit": target.get("unit", "oz"),
        "share": f"{(Decimal(share) * 100).normalize():f}" if share else "",
    }


def place_choices(piece: str) -> list[tuple[str, str]]:
    """Parts and stretches of a piece's shape; nothing but “not laid out” for a piece without one."""
    found = [("", "not laid out")]
    for shape in shapes().get(piece, ()):
        key, name = shape.key or WHOLE, shape.name or "the piece"
        found.append((key, name))
        found += [(f"{key}/{zone.key}", f"{name}: {zone.name}") for zone in shape.zones]
    return found


def plan_choices(piece: str, species: str) -> list[tuple[str, str]]:
    """Plans of other pieces of an animal, that may cut a whole piece on: one query."""
    rows = Plan.objects.filter(piece__species=species, piece__is_dropped=False)
    rows = rows.exclude(piece__key=piece).select_related("piece")
    return [
        ("", "ends here"),
        *((plan.address, f"{plan.piece.shown_name}: {plan.name}") for plan in rows),
    ]


def cut_choices() -> list[tuple[str, str]]:
    rows = Cut.objects.order_by("species", "name")
    return [("", NO_CUT), *((cut.key, f"{cut.shown_name} ({cut.species})") for cut in rows)]


KEPT_GRADES = ("fair", "good", "best")


def grade_field(method: str) -> str:
    return f"grade_{method}"


class CutForm(NamesForm):
    muscle = forms.ChoiceField(label="Muscle", help_text="The identity of the cut.")
    cooking = optional("How to cook it", 120)
    done = optional("Done when, in its own words", 100, help_text="Such as: a fork turns in it.")
    why = optional("Why", 200, widget=LONG, help_text="The reason, in one sentence.")
    serves = PlainDecimal(label="A pound serves", above=0, most=20, required=False, example="2.5")
    story = optional("Story, two lines a seller can say", 200, widget=LONG)
    mistaken_for = optional("Mistaken for, and how it differs", 200, widget=LONG)
    counter = forms.ChoiceField(label="Sold at", choices=Counter.choices)
    tray = optional("Tray", 20)
    least_age_days = forms.IntegerField(
        label="Least age, days", min_value=0, max_value=120, required=False
    )
    is_cut_across = forms.BooleanField(label="Sliced across the grain", required=False)
    is_cubed = forms.BooleanField(label="Cubed", required=False)
    is_tenderized = forms.BooleanField(label="Mechanically tenderized", required=False)
    is_ground = forms.BooleanField(label="Ground", required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for method in Method:
            self.fields[grade_field(method)] = forms.ChoiceField(
                label=f"Grade: {METHOD_WORDS[method]}",
                choices=[("", Grade.NOT_SUITED.words), *((g, g) for g in KEPT_GRADES)],
                required=False,
            )
        self.fields["muscle"].choices = [
            (muscle.key, f"{muscle.name} ({muscle.latin})" if muscle.latin else muscle.name)
            for muscle in Muscle.objects.all()
        ]

    @classmethod
    def initial_of(cls, row: Document) -> dict[str, Any]:
        """With a field for each way of cooking."""
        kept = row.get("grades", {})
        grades = {grade_field(method): kept.get(method.value, "") for method in Method}
        return super().initial_of({"counter": "self", **row}) | grades

    def change(self, cut: dict[str, Any]) -> dict[str, Any]:
        """The cut's document with what was typed. Only after is_valid()."""
        changed = {**cut}
        for name, value in self.kept().items():
            if name == "counter" and value == "self":
                changed.pop("counter", None)
            else:
                _put(changed, name, value)
        return changed

    def kept(self) -> dict[str, Any]:
        """What was typed as a document has it: the grades in one, decimals as text."""
        data = self.typed
        grades = {method.value: data.pop(grade_field(method)) for method in Method}
        serves = data["serves"]
        return {
            **data,
            "grades": {method: grade for method, grade in grades.items() if grade},
            "serves": "" if serves is None else f"{serves:f}",
        }


LARGEST_FILE = 8 * 1024 * 1024


class FileForm(forms.Form):
    file = forms.FileField(label="Catalog file", help_text="JSON or CSV as exported here.")

    def clean_file(self) -> Any:
        file = self.cleaned_data["file"]
        if file.size > LARGEST_FILE:
            raise forms.ValidationError(
                f"{file.name} has {file.size:,} bytes; at most {LARGEST_FILE:,} are right."
            )
        return file
