"""What is learned of one unit, put on the sheet it is worked with: pins and wire colours, values, parts,
codes, curves, readings that its paper states.

Each function gives a new sheet and leaves the old as it is; what it puts there is marked with where it comes
from.
"""

import re
from dataclasses import replace

from frostcore.curves.verdict import DEFAULT_TOLERANCE
from frostcore.sheet.code_rules import rule_named
from frostcore.sheet.model import BetaDocument, Code, Sheet, Shown, StatedReading
from frostcore.sheet.origin import Mark, Source

PIN_PARTS = re.compile(r"(?P<plug>.*[A-Za-z0-9])\s*[-./:]\s*(?P<pin>[A-Za-z]?\d{1,3}[A-Za-z]?)")
"""A pin as printed: its plug, a mark between, its number: CN2-5, J2.3, X2/1, CON-A:4."""


def from_source(sheet: Sheet, places: dict[str, Source]) -> dict[str, Source]:
    """The sheet's sources with some more."""
    return {**(sheet.sources or {}), **places}


def with_pin(sheet: Sheet, point: str, printed: str, colour: str) -> Sheet:
    """What is printed at a pin, and its wire's colour; empty where nothing was read.

    The plug it is on is named with it, where the pin's print says it.
    """
    marks = dict(sheet.marks or {})
    old = sheet.mark(point)
    marks[point] = Mark(printed or old.printed, colour or old.colour)
    pin, split = sheet.pin(point), PIN_PARTS.fullmatch(printed)
    if pin and split:
        marks[pin[0].id] = replace(sheet.mark(pin[0].id), printed=split["plug"])
    return replace(sheet, marks=marks)


NOMINALS = ("ohms", "watts", "volts", "amperes")
"""Rated values that are learned of a part, by their names on the sheet."""

LEARNED_TOLERANCE = {Source.PRINTED: 0.1, Source.MEASURED: 0.05}


def with_value(sheet: Sheet, component: str, name: str, value: float, source: Source) -> Sheet:
    """A part's rated value, as printed or as measured on a sound one.

    A mains load's ohms follow from its watts and the other way round, where the other is only usual.
    """
    part, places = sheet.component(component), {f"components.{component}.nominal.{name}": source}
    rated = replace(part.nominal, **{name: value})
    volts = rated.volts or sheet.plate.mains_volts
    if part.kind == "heater" and name in {"ohms", "watts"}:
        other = "watts" if name == "ohms" else "ohms"
        there = f"components.{component}.nominal.{other}"
        if sheet.source_of(there) in {Source.ARCHETYPE, Source.DERIVED, Source.UNKNOWN}:
            rated = replace(rated, **{other: float(f"{volts**2 / value:.4g}")})
            places[there] = Source.DERIVED
    if f"components.{component}.nominal.ohms" in places and rated.tolerance is not None:
        rated = replace(rated, tolerance=LEARNED_TOLERANCE[source])
    components = tuple(replace(each, nominal=rated) if each is part else each for each in sheet.components)
    return replace(sheet, components=components, sources=from_source(sheet, places))


def with_part(sheet: Sheet, component: str, part_number: str, price: float | None) -> Sheet:
    """A part's number and price."""
    part = sheet.component(component)
    known = replace(
        part,
        part_number=part_number or part.part_number,
        price=part.price if price is None else price,
    )
    components = tuple(known if each is part else each for each in sheet.components)
    return replace(sheet, components=components)


def with_code(sheet: Sheet, shown: str, meaning: str, rule: str, of: str) -> Sheet:
    """A code of digits: what it shows, what its paper says, and the rule it stands for; one shown alike is
    replaced."""
    identifier = re.sub(r"[^A-Za-z0-9_-]", "", shown) or f"code{len(sheet.codes) + 1}"
    code = Code(identifier, Shown("digits", shown), meaning, rule_named(rule).condition(sheet, of), ())
    codes = (*(each for each in sheet.codes if each.id != identifier), code)
    places = {f"codes.{identifier}": Source.PRINTED}
    return replace(sheet, codes=codes, sources=from_source(sheet, places))


def with_curve(sheet: Sheet, sensor: str, ohms: float, beta_kelvin: float) -> Sheet:
    """A sensor's curve by its ohms at 25 °C, and Beta; every sensor that had the same usual one has it."""
    old, name = sheet.sensor(sensor).curve, "as_read"
    curves = {key: curve for key, curve in sheet.curves.items() if key != old}
    curves[name] = BetaDocument("beta", ohms, beta_kelvin, from_celsius=-45.0, to_celsius=60.0)
    sensors = tuple(
        replace(each, curve=name, tolerance=DEFAULT_TOLERANCE) if each.curve == old else each
        for each in sheet.sensors
    )
    places = {f"curves.{name}": Source.PRINTED}
    return replace(sheet, curves=curves, sensors=sensors, sources=from_source(sheet, places))


def with_stated(sheet: Sheet, stated: StatedReading) -> Sheet:
    """A reading its paper states; one of the same points and setup is replaced."""

    def about(one: StatedReading) -> tuple[object, ...]:
        return {one.red, one.black}, one.meter, one.mode, set(one.pulled)

    kept = tuple(each for each in sheet.stated_readings if about(each) != about(stated))
    return replace(sheet, stated_readings=(*kept, stated))


def named_after(sheet: Sheet, identifier: str, maker: str, model: str) -> Sheet:
    """The sheet of one unit, from that of its kind with what has been learned."""
    plate = replace(sheet.plate, maker=maker, model=model)
    places = {"plate": Source.PRINTED, "id": Source.PRINTED}
    return replace(sheet, id=identifier, plate=plate, sources=from_source(sheet, places), about="")
