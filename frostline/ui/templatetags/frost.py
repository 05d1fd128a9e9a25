"""Template tags every page has: verdict marks, the line, quantities."""

import uuid
from collections.abc import Iterable
from datetime import datetime
from typing import Any

from django.forms import BoundField
from django.template import Library
from django.utils import timezone

from frostcore.curves.kinds import KIND_NAMES, ErrorKind
from frostcore.display.decode import blink_words
from frostcore.line import BAND_HEIGHT, verdict_height
from frostcore.quantity import Dimension, format_value
from frostcore.sheet.model import Sheet
from frostcore.sheet.points import plugs_said, point_name
from frostcore.verdict import Band, Verdict

register = Library()

GAUGE_WIDTH, GAUGE_HALF, GAUGE_MIDDLE = 320, 44, 56


@register.inclusion_tag("ui/mark.html")
def mark(verdict: str, size: str = "mark") -> dict[str, Any]:
    """A verdict mark: where the reading stands against the line.

    The shape tells; the colour repeats it.
    """
    return {"verdict": Verdict(verdict), "size": size}


@register.inclusion_tag("ui/gauge.html")
def gauge(verdict: Verdict, value: float | None, band: Band, dimension: str = "resistance") -> dict[str, Any]:
    """A reading on its line: the band, the value it should have, the bead where it stands."""
    height = verdict_height(verdict, value, band)
    return {
        "verdict": verdict,
        "bead_y": None if height is None else round(GAUGE_MIDDLE - height * GAUGE_HALF, 1),
        "band_top": round(GAUGE_MIDDLE - BAND_HEIGHT * GAUGE_HALF, 1),
        "band_height": round(2 * BAND_HEIGHT * GAUGE_HALF, 1),
        "middle": GAUGE_MIDDLE,
        "high_y": GAUGE_MIDDLE - 22,
        "low_y": GAUGE_MIDDLE + 34,
        "width": GAUGE_WIDTH,
        "low": format_value(band.low, Dimension(dimension)),
        "nominal": format_value(band.nominal, Dimension(dimension)),
        "high": format_value(band.high, Dimension(dimension)),
    }


@register.filter
def point(name: str, sheet: Sheet) -> str:
    """A point as the repairer calls it."""
    return point_name(sheet, name)


@register.filter
def plugs(names: Iterable[str], sheet: Sheet) -> str:
    """Plugs as the repairer calls them, in a sentence."""
    return plugs_said(sheet, names)


@register.filter
def quantity(value: float, dimension: str) -> str:
    """An SI value for people."""
    return format_value(value, Dimension(dimension))


@register.filter
def kelvin(value: float) -> str:
    """A temperature difference with its sign."""
    shown = format_value(value, Dimension.TEMPERATURE_DIFFERENCE)
    return shown if value < 0 else f"+{shown}"


@register.filter
def blinks(group: str) -> str:
    """A group of blinks in words."""
    return blink_words(group)


@register.filter
def at(mapping: dict[str, Any], key: str) -> Any:
    """What a mapping holds under a name."""
    return mapping.get(key)


@register.filter
def percent(share: float) -> int:
    """A share as whole per cents."""
    return round(100 * share)


@register.filter
def kind_name(kind: str) -> str:
    """A kind of sensor error in the trade's words."""
    return KIND_NAMES[ErrorKind(kind)]


@register.filter
def ago(moment: datetime) -> str:
    """How long ago, in one word or two."""
    minutes = int((timezone.now() - moment).total_seconds() // 60)
    if minutes < 1:
        return "now"
    if minutes < 60:
        return f"{minutes} min ago"
    if minutes < 24 * 60:
        return f"{minutes // 60} h ago"
    days = minutes // (24 * 60)
    return "yesterday" if days == 1 else f"{days} days ago"


@register.inclusion_tag("ui/field.html")
def field(bound: BoundField, layout: str = "") -> dict[str, Any]:
    """A form field with its label, help, live understanding, and errors tied to it."""
    described = [f"{bound.id_for_label}-error"] if bound.errors else []
    understood = hasattr(bound.field, "understood_url")
    if bound.help_text:
        described.append(f"{bound.id_for_label}-help")
    attributes: dict[str, str | bool] = {"aria-invalid": "true"} if bound.errors else {}
    if understood:
        described.append(f"{bound.id_for_label}-understood")
        attributes |= {
            "hx-get": str(bound.field.understood_url),
            "hx-trigger": "input changed delay:80ms",
            "hx-target": f"#{bound.id_for_label}-understood",
            "hx-select": "unset",
            "hx-swap": "innerHTML",
            "hx-push-url": "false",
            "hx-include": "this",
            "hx-sync": "this:replace",
        }
    if described:
        attributes["aria-describedby"] = " ".join(described)
    return {
        "bound": bound,
        "tick": bound.widget_type == "checkbox",
        "widget": bound.as_widget(attrs=attributes),
        "understood": understood,
        "layout": layout,
        "group": bound.field.widget.use_fieldset,
        "keys": getattr(bound.field, "keys", ()),
    }


@register.simple_tag
def new_id() -> str:
    """An id for an entry that a form will make: sent twice, it is recorded once."""
    return str(uuid.uuid4())
