"""Seam drawings as SVG. In Python because a drawing has hundreds of small parts."""

from typing import Any

from django import template
from django.urls import reverse
from django.utils.html import escape
from django.utils.http import urlencode
from django.utils.safestring import mark_safe

register = template.Library()


@register.simple_tag
def seam_shapes(view: Any) -> Any:
    """The shapes of a drawing, to be used by each width; a step's own ones are lit."""
    parts: list[str] = []
    add = parts.append
    for shape in view.drawing.shapes:
        lit = " lit" if shape.key in view.lit else ""
        add(
            f'<g class="{shape.look}{lit}"><title>{escape(shape.title)}</title>'
            if shape.title
            else f'<g class="{shape.look}{lit}">'
        )
        add(f'<path d="{shape.path}"/>')
        if shape.strokes:
            add(f'<path class="fibre" d="{shape.strokes}"/>')
        if shape.more:
            add(f'<path class="fibre more" d="{shape.more}"/>')
        add("</g>")
    return mark_safe("".join(parts))  # noqa: S308 (every text above is escaped)


@register.simple_tag
def animal_shapes(view: Any, drawn: Any, glass: Any) -> Any:
    """An animal's side; each part is a link to its pieces."""
    parts = [f'<g class="seam-art" transform="translate(0 {drawn.top}) scale({drawn.scale})">']
    chosen = view.chosen.primal.key if view.chosen else ""
    names = {primal.primal.key: primal.name for primal in view.primals}
    for shape in view.drawing.shapes:
        name = names.get(shape.key)
        if name is None:
            parts.append(f'<g class="{shape.look}"><path d="{shape.path}"/></g>')
            continue
        query = urlencode({"animal": view.species, "primal": shape.key})
        here = ' aria-current="true"' if shape.key == chosen else ""
        lit = " lit" if shape.key == chosen else ""
        hidden = ' tabindex="-1"' if glass == "narrow" else ""
        parts.append(
            f'<a href="{reverse("catalog:animals")}?{query}" aria-label="{escape(name)}"{here}'
            f'{hidden}><g class="{shape.look}{lit}"><path d="{shape.path}"/></g></a>'
        )
    parts.append("</g>")
    return mark_safe("".join(parts))  # noqa: S308 (every text above is escaped)


@register.simple_tag
def seam_names(drawn: Any) -> Any:
    """The names, letters, step numbers and ends of a drawing laid out for one width."""
    parts: list[str] = []
    add = parts.append
    for one in drawn.labels:
        x1, y1, x2, y2 = one.line
        lit = " lit" if one.is_lit else ""
        add(
            f'<path class="leader" d="M{x1} {y1}L{x2} {y2}"/><circle class="pin" cx="{x1}" '
            f'cy="{y1}" r="2.5"/><text class="outside{lit}" x="{one.x}" y="{one.y}" '
            f'text-anchor="middle">{escape(one.text)}</text>'
        )
    for plate in drawn.plates:
        lit = " lit" if plate.is_lit else ""
        add(
            f'<rect class="plate" x="{plate.left}" y="{plate.top}" width="{plate.width}" '
            f'height="{plate.height}" rx="3"/><text class="inside{lit}" x="{plate.x}" '
            f'y="{plate.y + drawn.size * 0.35:.1f}" text-anchor="middle">'
            f"{escape(plate.text)}</text>"
        )
    for kind, badges in (("letter", drawn.letters), ("number", drawn.numbers)):
        for badge in badges:
            lit = " lit" if badge.is_lit else ""
            add(
                f'<g class="{kind}{lit}"><circle cx="{badge.x}" cy="{badge.y}" '
                f'r="{drawn.radius:.1f}"/><text x="{badge.x}" '
                f'y="{badge.y + drawn.size * 0.35:.1f}" text-anchor="middle">'
                f"{escape(badge.text)}</text></g>"
            )
    for words in drawn.ends:
        add(
            f'<text class="end" x="{words.x}" y="{words.y}" text-anchor="{words.anchor}">'
            f"{escape(words.text)}</text>"
        )
    return mark_safe("".join(parts))  # noqa: S308 (every text above is escaped)
