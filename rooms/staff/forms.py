"""Forms of the office: log-in, the first manager, people."""

import re
from typing import Any

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password

from rooms.common.plain_text import is_plain
from rooms.common.web.forms import SeenForm
from rooms.staff import lockout
from rooms.staff.models import Person

RUNS = "01234567890 09876543210"


def pin_fault(pin: str) -> str:
    """Why this is no PIN, or nothing."""
    if not re.fullmatch(r"[0-9]{4,8}", pin):
        return "4 to 8 digits are right."
    if len(set(pin)) == 1 or pin in RUNS:
        return "the same digit or digits in a row are too easy; choose others."
    return ""


class OfficeForm(AuthenticationForm):
    error_messages = {
        "invalid_login": "User name or password: they do not belong together; try again.",
        "inactive": "This person no longer works here; a manager can change that.",
    }

    def clean(self) -> Any:
        username = self.cleaned_data.get("username", "")
        if lockout.is_flooded(self.request, username):
            self.request.axes_locked_out = True
            raise forms.ValidationError(
                "Too many wrong tries from browsers that nobody knows. Wait a quarter of an hour, or sign in"
                " on a tablet or on a browser that you used before.",
                code="flooded",
            )
        return super().clean()

    def get_invalid_login_error(self) -> Any:
        if getattr(self.request, "axes_locked_out", False):
            return forms.ValidationError(lockout.words(self.request), code="locked")
        return super().get_invalid_login_error()


class FirstForm(forms.Form):
    """The shop's first manager."""

    name = forms.CharField(label="Name", max_length=60, help_text="As the others call you.")
    username = forms.RegexField(
        r"^[A-Za-z0-9.@_-]+$",
        label="User name",
        max_length=60,
        error_messages={"invalid": "Letters, digits and . @ _ - are right."},
    )
    password = forms.CharField(
        label="Password",
        strip=False,
        widget=forms.PasswordInput,
        help_text="At least ten characters. Nobody can read it again.",
    )
    again = forms.CharField(label="Password again", strip=False, widget=forms.PasswordInput)

    def clean(self) -> Any:
        data = super().clean()
        if data.get("password") and data.get("again") not in (None, data["password"]):
            self.add_error("again", "The two passwords differ; type the same one twice.")
        if data.get("password"):
            try:
                validate_password(data["password"], Person(username=data.get("username", "")))
            except forms.ValidationError as bad:
                self.add_error("password", bad)
        return data


class PersonForm(SeenForm, forms.ModelForm):
    """Somebody who works here."""

    new_pin = forms.CharField(
        label="New PIN",
        required=False,
        max_length=8,
        help_text="4 to 8 digits, for the block.",
        widget=forms.TextInput(attrs={"inputmode": "numeric", "autocomplete": "off"}),
    )
    new_password = forms.CharField(
        label="New password",
        required=False,
        strip=False,
        help_text="For the office.",
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
    )

    class Meta:
        model = Person
        fields = ("first_name", "username", "role", "is_under_18", "is_active")
        labels = {
            "first_name": "Name",
            "username": "User name",
            "is_active": "Works here",
            "is_under_18": "Under 18: saw, slicer and grinder steps warn",
        }
        help_texts = {"username": "For the office log-in; a PIN needs none.", "is_active": ""}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["first_name"].required = True
        self.fields["username"].required = False

    def clean(self) -> Any:
        data = super().clean()
        if data.get("new_password") and not data.get("username") and "username" not in self.errors:
            self.add_error(
                "username", "It is empty; the office log-in asks for it with the password."
            )
        return data

    def clean_first_name(self) -> Any:
        name = " ".join(self.cleaned_data["first_name"].split())
        if not is_plain(name):
            raise forms.ValidationError("Plain characters are right.")
        return name

    def clean_new_pin(self) -> Any:
        pin = self.cleaned_data["new_pin"]
        if pin and (fault := pin_fault(pin)):
            raise forms.ValidationError(f"This is no good PIN: {fault}")
        return pin

    def clean_new_password(self) -> Any:
        password = self.cleaned_data["new_password"]
        if password:
            validate_password(password, self.instance)
        return password
