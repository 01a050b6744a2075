"""Rows of the same fields, each under its number: price-0, price-1, or by the row's own id."""

from collections.abc import Iterable, Mapping
from typing import Any, TypeVar

from django import forms
from django.forms.formsets import BaseFormSet, ManagementForm
from django.utils.functional import cached_property

Row = TypeVar("Row", bound="NumberedForm")


class NumberedForm(forms.Form):
    """One row. Its number comes last in a field's name, as addresses and kept plans have it."""

    use_required_attribute = False

    def add_prefix(self, field_name: str) -> str:
        return f"{field_name.replace('_', '-')}-{self.prefix}"

    def label_cells(self, **labels: str) -> None:
        """Fields in a table have no label beside them, so each says what it is."""
        for name, label in labels.items():
            self.fields[name].widget.attrs["aria-label"] = label

    def faults(self, name: str) -> list[str]:
        """What is wrong in the row, in words; `name` says which row it is."""
        return [
            f"{name}, {self.fields[field].label}: {' '.join(errors)}"
            for field, errors in self.errors.items()
        ]


class NumberedFormSet(BaseFormSet):
    """As many rows as there are numbers; nothing is sent but the fields themselves."""

    def __init__(self, *args: Any, numbers: Iterable[int], **kwargs: Any) -> None:
        self.numbers = list(numbers)
        super().__init__(*args, **kwargs)

    def total_form_count(self) -> int:
        return len(self.numbers)

    def initial_form_count(self) -> int:
        return 0

    def add_prefix(self, index: int) -> str:
        return str(self.numbers[index])

    @cached_property
    def management_form(self) -> ManagementForm:
        counts = {"rows-TOTAL_FORMS": len(self.numbers), "rows-INITIAL_FORMS": 0}
        form = ManagementForm(counts, prefix="rows")
        form.full_clean()
        return form


def rows_of(
    form: type[Row], data: Mapping[str, Any], numbers: Iterable[int], **more: Any
) -> list[Row]:
    """The rows of a page as it was sent. `more` goes to each form."""
    made = forms.formset_factory(form, formset=NumberedFormSet)
    return list(made(data, numbers=numbers, form_kwargs=more).forms)


def faults_of(form: forms.Form) -> list[str]:
    """What is wrong in a form outside of rows, in words."""
    return [
        f"{form.fields[field].label}: {' '.join(errors)}" for field, errors in form.errors.items()
    ]


def by_number(data: Mapping[str, str], name: str) -> dict[int, str]:
    """One field of every row as it was sent, by its number: `price-7=4.99` is 7: "4.99"."""
    found = {}
    for key, value in data.items():
        before, _, number = key.rpartition("-")
        if before == name and number.isascii() and number.isdecimal():
            found[int(number)] = value
    return found
