"""The form of the wanted list."""

from typing import Any

from django import forms

from cutting.quantities import ZERO
from rooms.common.forms import PlainDecimal
from rooms.pricebook.models import Product
from rooms.today.models import WEEKDAYS


class WantedForm(forms.Form):
    optional_word = "0 takes it off"

    product = forms.ModelChoiceField(Product.objects.filter(is_sold=True), label="Product")
    weekdays = forms.TypedMultipleChoiceField(
        label="Days", choices=WEEKDAYS, coerce=int, widget=forms.CheckboxSelectMultiple
    )
    least = PlainDecimal(label="Least", least=0, most=10000, required=False, example="6")
    most = PlainDecimal(label="Most", least=0, most=10000, required=False, example="12")

    def clean(self) -> Any:
        data = super().clean()
        least, most = data.get("least") or ZERO, data.get("most") or ZERO
        if most < least:
            self.add_error("most", f"{most} is less than the least; {least} or more is right.")
        data["least"], data["most"] = least, most
        return data
