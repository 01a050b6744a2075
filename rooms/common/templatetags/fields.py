"""One field by itself, laid out by the same template as the fields of a form."""

from collections.abc import Iterable
from typing import Any

from django import forms, template
from django.utils.safestring import SafeString

register = template.Library()
WIDGETS: dict[str, tuple[type[forms.Widget], dict[str, Any]]] = {
    "text": (forms.TextInput, {"autocomplete": "off"}),
    "decimal": (forms.TextInput, {"autocomplete": "off", "inputmode": "decimal"}),
    "search": (forms.TextInput, {"autocomplete": "off", "type": "search"}),
    "day": (forms.DateInput, {"type": "date"}),
    "file": (forms.FileInput, {}),
    "long": (forms.Textarea, {"rows": 2}),
    "choice": (forms.Select, {}),
}


@register.simple_tag
def entry(
    label: str,
    name: str,
    value: object = "",
    *,
    kind: str = "text",
    of: str = "",
    choices: Iterable[Any] = (),
    optional: str = "",
    help: str = "",
    is_wrong: bool = False,
    **attributes: Any,
) -> SafeString:
    """A field that no form of its own stands behind.

    `kind`: one of WIDGETS. `of`: its id, else its name. `choices`: pairs, or words that are their
    own value. `optional`: what is said beside the label. Other words become attributes (hx_get
    is hx-get); nothing is said of an empty one.
    """
    widget, usual = WIDGETS[kind]
    attrs = {
        word.replace("_", "-"): what for word, what in attributes.items() if what not in ("", None)
    }
    attrs["id"] = of or name
    if is_wrong:
        attrs["class"] = "is-wrong"
    made = widget(attrs={**usual, **attrs})
    if isinstance(made, forms.Select):
        made.choices = [
            pair if isinstance(pair, (tuple, list)) else (pair, pair) for pair in choices
        ]
    form = forms.Form(initial={name: value}, auto_id="%s", use_required_attribute=False)
    form.optional_word = optional or "none"
    form.fields[name] = forms.Field(label=label, required=not optional, help_text=help, widget=made)
    return form[name].as_field_group()
