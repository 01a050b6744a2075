"""Small sums at the block: skewers, strips, strings."""

from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from cutting.errors import BadValue
from cutting.layout.small import butterfly, circumference, skewers, slices_of, ties
from cutting.quantities import Unit, Weight
from rooms.common.web.forms import PlainDecimal
from rooms.common.web.refusals import status_of
from rooms.layout.forms import LengthField
from rooms.layout.queries.asking import is_metric
from rooms.layout.queries.first import length_words
from rooms.shop.queries.current import house
from rooms.staff.rights import Right, may


class Small(forms.Form):
    optional_word = "none"

    def meat(self) -> Weight:
        return Weight(self.cleaned_data["weight"], house().unit)


class SkewerForm(Small):
    weight = PlainDecimal(label="Meat", above=0, most=500)
    edge = LengthField(label="Edge of a cube")
    cubes = forms.IntegerField(label="Cubes on a skewer", min_value=1, max_value=20)

    def answer(self) -> list[tuple[str, str]]:
        data = self.cleaned_data
        found = skewers(self.meat(), data["edge"], data["cubes"])
        return [
            ("skewers", f"{found.many}"),
            ("a cube weighs", _portion(found.cube)),
            ("a skewer weighs", _portion(found.skewer)),
            ("left over", _portion(found.left)),
        ]


class TieForm(Small):
    weight = PlainDecimal(label="Joint weighs", above=0, most=500)
    length = LengthField(label="Length")
    width = LengthField(label="Width")
    height = LengthField(label="Height")
    apart = LengthField(label="Strings at most apart")

    def answer(self) -> list[tuple[str, str]]:
        data = self.cleaned_data
        around = circumference(data["width"], data["height"])
        found = ties(self.meat(), data["length"], around, apart=data["apart"])
        return [
            ("strings or bands", f"{found.many}"),
            ("apart", length_words(found.apart)),
            ("each string", length_words(found.string)),
            ("serves about", f"{found.servings}"),
        ]


class StripForm(Small):
    length = LengthField(label="Length of the piece")
    thick = LengthField(label="Thickness")

    def answer(self) -> list[tuple[str, str]]:
        many, left = slices_of(self.cleaned_data["length"], self.cleaned_data["thick"])
        return [("slices", f"{many}"), ("left over", length_words(left))]


class ButterflyForm(Small):
    face = LengthField(label="Face is wide")
    thick = LengthField(label="Thickness wanted")

    def answer(self) -> list[tuple[str, str]]:
        found = butterfly(self.cleaned_data["face"], self.cleaned_data["thick"])
        return [
            ("cut it", length_words(found.cut)),
            ("first cut, so deep", length_words(found.first)),
            ("opened it is wide", length_words(found.wide)),
        ]


KINDS: dict[str, tuple[str, type[Small], dict[str, str], dict[str, str]]] = {
    "kebab": (
        "Kebab",
        SkewerForm,
        {"weight": "2", "edge": "1", "cubes": "5"},
        {"weight": "1", "edge": "25", "cubes": "5"},
    ),
    "tie": (
        "Tying a joint",
        TieForm,
        {"weight": "4", "length": "9", "width": "4", "height": "4", "apart": "1"},
        {"weight": "2", "length": "230", "width": "100", "height": "100", "apart": "25"},
    ),
    "slice": (
        "Strips and slices",
        StripForm,
        {"length": "12", "thick": "1/4"},
        {"length": "300", "thick": "6"},
    ),
    "butterfly": (
        "Butterfly",
        ButterflyForm,
        {"face": "3 1/2", "thick": "3/4"},
        {"face": "90", "thick": "19"},
    ),
}


def _portion(grams: Any) -> str:
    if is_metric():
        return f"{grams:.0f} g"
    return f"{Weight(grams, Unit.G).to(Unit.OZ):.1f} oz"


@may(Right.LOOK)
@require_GET
def small(request: HttpRequest) -> HttpResponse:
    """All of them on one page; the one that was asked is answered anew."""
    asked = request.GET.get("of", "")
    groups, status = [], 200
    for key, (title, kind, inches, metric) in KINDS.items():
        form = kind(request.GET if key == asked else (metric if is_metric() else inches))
        answer: list[tuple[str, str]] = []
        if form.is_valid():
            try:
                answer = form.answer()
            except BadValue as bad:
                form.add_error(None, f"{bad}.")
        status = max(status, status_of(form))
        groups.append((key, title, form, answer))
    return render(request, "layout/small.html", {"groups": groups}, status=status)
