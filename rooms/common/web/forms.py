"""Form fields that read exact decimals and say plainly what is wrong."""

from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from django import forms
from django.forms.utils import flatatt
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from cutting.errors import BadValue
from cutting.quantities import HUNDRED, parse_decimal
from rooms.common.db.seen import chosen_of, last_change, row_seen, state_of
from rooms.common.errors import BadInput, Overtaken


def tidy(text: str) -> str:
    """What a hand typed, as a plain decimal would be written: ".55" is 0.55."""
    text = text.strip()
    return f"0{text}" if text.startswith(".") else text


def read_day(text: str, name: str, usual: date | None = None) -> date | None:
    """A day from a date field; `usual` for an empty one. BadInput names the field."""
    if not text.strip():
        return usual
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise BadInput(f"{name}: “{text}” is no day; write it like 2026-12-01.") from None


def read_key(text: str, name: str = "Key") -> UUID:
    """A key that the page sends itself. BadInput names the field."""
    try:
        return UUID(text)
    except ValueError:
        raise BadInput(f"{name}: the page is damaged; open it again.") from None


LONGEST_NUMBER = 17


def is_number(text: str) -> bool:
    """Whether it may be the number of a row."""
    return text.isascii() and text.isdecimal() and len(text) <= LONGEST_NUMBER


class LongSelect(forms.Select):
    """A select of hundreds of choices. Django renders three templates for each; here all are written
    at once, without groups."""

    def render(
        self, name: str, value: Any, attrs: dict[str, Any] | None = None, renderer: Any = None
    ) -> SafeString:
        widget = self.get_context(name, value, attrs)["widget"]
        options = format_html_join(
            "",
            '<option value="{}"{}>{}</option>',
            (
                (one["value"], flatatt(one["attrs"]), one["label"])
                for _, group, _ in widget["optgroups"]
                for one in group
            ),
        )
        return format_html(
            '<select name="{}"{}>{}</select>', name, flatatt(widget["attrs"]), options
        )


class SeenForm(forms.Form):
    """A form that edits one row: it carries what it saw of the row, and shows it anew where somebody else
    changed it since, with the changes of whoever fills it in kept."""

    data: Any

    seen = forms.CharField(widget=forms.HiddenInput, required=False)

    @property
    def typed(self) -> dict[str, Any]:
        """What was filled in, without what the page saw. Only after is_valid()."""
        return {name: value for name, value in self.cleaned_data.items() if name != "seen"}

    @classmethod
    def initial_of(cls, row: Any) -> dict[str, Any]:
        """What the form shows of a row: the columns that its fields are named by."""
        many = {field.name for field in row._meta.many_to_many}
        return {
            name: chosen_of(row, name) if name in many else getattr(row, name)
            for name in cls.base_fields
            if name in many or hasattr(row, name)
        }

    @classmethod
    def filled(cls, row: Any) -> dict[str, Any]:
        """The initial values of the form of a row."""
        return cls.initial_of(row) | {"seen": state_of(row)}

    def seen_before(self, row: Any) -> Any:
        """The row as the page of this form had it."""
        return row_seen(type(row), str(self.data.get(self.add_prefix("seen"), "")))

    def rebase(self, overtaken: Overtaken) -> None:
        """Fields that were not changed here take the row's values now; saving once more keeps the rest."""
        row = overtaken.row
        before = self.initial_of(self.seen_before(row))
        now, data = self.initial_of(row), self.data.copy()
        for name, field in self.fields.items():
            at = self.add_prefix(name)
            typed = field.widget.value_from_datadict(self.data, self.files, at)
            if name == "seen" or name not in now or field.has_changed(before.get(name), typed):
                continue
            value = field.prepare_value(now[name])
            data.pop(at, None)
            if isinstance(value, list | tuple | set):
                data.setlist(at, [str(one) for one in value])
            elif value is not False and value is not None:
                data[at] = "on" if value is True else value
        data[self.add_prefix("seen")] = overtaken.seen
        self.data = data


class ListForm(forms.Form):
    """A form that enters a row beside a list, or replaces the one of its name: it carries how far it knew
    the list's history."""

    data: Any
    of_list: Any = None
    """The model of the list."""

    seen = forms.IntegerField(widget=forms.HiddenInput, required=False, min_value=0)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["seen"].initial = lambda: last_change(self.of_list)

    def clean_seen(self) -> int:
        """A page that says nothing knew nothing."""
        return self.cleaned_data["seen"] or 0

    def rebase(self, overtaken: Overtaken) -> None:
        """Saving once more is meant: what is there now was told."""
        self.data = self.data.copy()
        self.data[self.add_prefix("seen")] = overtaken.seen


def faults_of(form: forms.BaseForm) -> str:
    """Every fault of a form on one line, each with its field."""
    return " ".join(
        f"{form.fields[name].label if name in form.fields else ''}: {' '.join(each)}"
        for name, each in form.errors.items()
    )


class PlainDecimal(forms.CharField):
    """A decimal as written. `least`: the smallest allowed, exclusive with `above`."""

    def __init__(
        self,
        *,
        above: Any = None,
        least: Any = None,
        most: Any = None,
        example: str = "6.17",
        **kwargs: Any,
    ) -> None:
        self.above, self.least, self.most, self.example = above, least, most, example
        widget = forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"})
        super().__init__(widget=widget, max_length=40, **kwargs)

    def to_python(self, value: Any) -> Decimal | None:
        text = tidy(super().to_python(value) or "")
        if text in self.empty_values:
            return None
        try:
            number = parse_decimal(text, self.label)
        except BadValue:
            raise forms.ValidationError(
                f"“{text}” is not a plain number; write it like {self.example}."
            ) from None
        for wrong, right in (
            (self.above is not None and number <= self.above, f"more than {self.above}"),
            (self.least is not None and number < self.least, f"{self.least} or more"),
            (self.most is not None and number > self.most, f"at most {self.most}"),
        ):
            if wrong:
                raise forms.ValidationError(f"{text} is not right here; {right} is right.")
        return number

    def run_validators(self, value: Any) -> None:
        """The text's own validators do not apply to a number."""

    def has_changed(self, initial: Any, data: Any) -> bool:
        """Also beside an initial value that is text: 8 and 8.0 are one number."""
        if isinstance(initial, str):
            try:
                initial = self.to_python(initial)
            except forms.ValidationError:
                return True
        return super().has_changed(initial, data)


class Percent(PlainDecimal):
    """Typed as a percentage, kept as a share of 1."""

    def to_python(self, value: Any) -> Any:
        text = (value or "").strip().removesuffix("%").strip()
        number = super().to_python(text)
        return None if number is None else number / HUNDRED

    def prepare_value(self, value: Any) -> Any:
        if isinstance(value, Decimal):
            text = f"{value * HUNDRED:f}"
            return text.rstrip("0").rstrip(".") if "." in text else text
        return value
