"""Filters that only put figures into words; every figure was made by `cutting`."""

import uuid
from decimal import Decimal
from html import escape
from typing import Any

from django import template
from django.templatetags.static import static
from django.utils.html import format_html, format_html_join
from django.utils.safestring import mark_safe

from cutting.quantities import round_half_up
from cutting.sheet import time_spent
from rooms.common.web.modules import imported_by
from wording import pencil

register = template.Library()
MISSING = (None, "")


@register.filter
def money(value: Any) -> Any:
    """14.288 → 14.29; nothing for a missing value."""
    return "" if value in MISSING else pencil.money(value)


@register.filter
def weight(value: Any, unit: Any) -> Any:
    """A worked-out weight in its unit: 2.43."""
    return "" if value in MISSING else pencil.pounds(value, unit)


@register.filter
def percent(share: Any) -> Any:
    """0.423 → 42.3 %"""
    return "" if share in MISSING else pencil.percent(share)


@register.filter
def percent_figure(share: Any) -> Any:
    """0.423 → 42.3, for columns with the sign in the header."""
    return "" if share in MISSING else pencil.percent(share).removesuffix(" %")


@register.filter
def of_hundred(value: Any) -> Any:
    """42.31 → 42.3 %, for figures that already are of 100."""
    return "" if value in MISSING else pencil.percent(value / Decimal(100))


@register.filter
def factor(value: Any) -> Any:
    return "" if value in MISSING else pencil.factor(value)


@register.filter
def ounces(value: Any) -> Any:
    """To one decimal: portions."""
    return "" if value in MISSING else f"{round_half_up(value, 1)}"


@register.filter
def plain(value: Any) -> Any:
    """A decimal for an input field or an attribute: no separators."""
    return "" if value in MISSING else f"{value:f}"


@register.simple_tag(takes_context=True)
def script(context: Any, name: str) -> Any:
    """A vendored script, with the nonce that lets it run on this page."""
    nonce = context["request"].csp_nonce
    return format_html('<script src="{}" nonce="{}" defer></script>', static(name), nonce)


@register.simple_tag(takes_context=True)
def script_first(context: Any, name: str) -> Any:
    """A script of ours that runs where it stands, before anything below it is drawn."""
    nonce = context["request"].csp_nonce
    return format_html('<script src="{}" nonce="{}"></script>', static(name), nonce)


@register.simple_tag(takes_context=True)
def module(context: Any, name: str) -> Any:
    """A script of ours with all it imports. Runs after the page is read and after `script`."""
    nonce = context["request"].csp_nonce
    needed = [(static(each), nonce) for each in imported_by(name)]
    return format_html_join(
        "", '<link rel="modulepreload" href="{}" nonce="{}">', needed
    ) + format_html('<script type="module" src="{}" nonce="{}"></script>', static(name), nonce)


@register.simple_tag
def bar(rail: Any) -> Any:
    """One bar of a rail with its lettering, as SVG. In Python because it is drawn so often."""
    parts: list[str] = []
    add = parts.append
    for box in rail.boxes:
        add(
            f"<g><title>{escape(box.name)} {escape(box.lines[-1])}</title>"
            f'<rect x="{box.x}" y="{rail.y}" width="{box.width}" height="{rail.bar}" '
            f'fill="url(#look-{box.look})" class="box of-{box.look}"/>'
        )
        if box.inside:
            if box.is_plated:
                add(
                    f'<rect x="{box.plate_x}" y="{rail.plate_y}" width="{box.plate}" '
                    f'height="{rail.plate_height}" rx="3" class="plate"/>'
                )
            tone = " on-solid" if box.is_solid else ""
            for y, line, kind in zip(
                (rail.name_y, rail.value_y), box.lines, ("name", "value"), strict=False
            ):
                add(f'<text x="{box.text_x}" y="{y}" class="{kind}{tone}">{escape(line)}</text>')
        add("</g>")
    for line in rail.lines:
        add(
            f'<polyline points="{line.points}" class="leader"/><text x="{line.x}" y="{line.y}" '
            f'text-anchor="{line.anchor}">{escape(line.text)}</text>'
        )
    for entry in rail.key:
        add(
            f'<rect x="{entry.x}" y="{entry.swatch_y}" width="14" height="14" '
            f'fill="url(#look-{entry.look})" class="key"/>'
            f'<text x="{entry.text_x}" y="{entry.y}">{escape(entry.text)}</text>'
        )
    return mark_safe("".join(parts))  # noqa: S308 (every text above is escaped)


@register.simple_tag
def ticks(drawn: Any) -> Any:
    """The scale under a pound rail, as SVG."""
    return mark_safe(  # noqa: S308 (every text is escaped)
        "".join(
            f'<line x1="{tick.x}" x2="{tick.x}" y1="{drawn.tick_y}" y2="{drawn.tick_end}" '
            f'class="tick"/><text x="{tick.x}" y="{tick.y}" text-anchor="{tick.anchor}" '
            f'class="tick-text">{escape(tick.text)}</text>'
            for tick in drawn.ticks
        )
    )


@register.simple_tag
def strip_marks(strip: Any) -> Any:
    """The band, the target and the portions of a strip, as SVG."""
    foot = strip.height
    dots = "".join(
        f'<circle cx="{dot.x}" cy="{dot.y}" r="8" class="{"good" if dot.within else "off"}">'
        f"<title>{escape(dot.text)}</title></circle>"
        for dot in strip.dots
    )
    return mark_safe(  # noqa: S308 (every text is escaped)
        f'<g transform="translate(0 20)">'
        f'<rect x="{strip.band_x}" width="{strip.band_width}" height="{foot}" class="band"/>'
        f'<line x2="{strip.width}" y1="{foot}" y2="{foot}" class="base"/>'
        f'<line x1="{strip.target_x}" x2="{strip.target_x}" y1="-3" y2="{foot}" class="aim"/>'
        f"{dots}</g>"
        f'<text x="{strip.low_x}" y="34" text-anchor="end">{escape(strip.low_text)}</text>'
        f'<text x="{strip.high_x}" y="34">{escape(strip.high_text)}</text>'
    )


@register.simple_tag
def new_key() -> Any:
    """A key of its own for a form, so that sending it twice records once."""
    return uuid.uuid4()


@register.filter
def signed(value: Any) -> Any:
    """A figure that is already rounded, with a true minus sign."""
    return "" if value in MISSING else pencil.signed(value)


@register.filter
def of_hundred_figure(value: Any) -> Any:
    return of_hundred(value).removesuffix(" %")


@register.filter
def minutes(length: Any) -> Any:
    """A length of time in whole minutes, half up."""
    return time_spent.minutes(length)


@register.filter
def portion(value: Any, unit: Any) -> Any:
    """A portion's figure with its unit: ounces to two decimals, grams whole."""
    if value in MISSING:
        return ""
    return f"{round_half_up(value, 0 if unit == 'g' else 2)} {unit}"
