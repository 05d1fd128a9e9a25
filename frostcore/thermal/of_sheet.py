"""The plant of a unit sheet: the usual one of such a unit, with the sheet's own parts, set-points, watts."""

from dataclasses import replace

from frostcore.sheet.heat import LevelsStated, ThermalStated
from frostcore.sheet.model import Component, ComponentKind, Sheet
from frostcore.thermal.plant import Compartment, Condenser, Defrost, Evaporator, Loop, Thermal
from frostcore.thermal.usual import USUAL

K = ComponentKind
FANS = frozenset({K.FAN_AC, K.FAN_DC})


def kind_of(sheet: Sheet) -> str:
    """Which usual plant a unit is."""
    kinds = {part.kind for part in sheet.components}
    rooms = sheet.compartments
    if K.MODULE in kinds:
        return "thermoelectric"
    if len(rooms) < 2:
        return "wine_cooler" if any(room.compartment == "wine" for room in rooms) else "cold_plate"
    if K.THERMOSTAT in kinds:
        return "mechanical"
    faces = {part.place for part in sheet.components if part.kind in FANS and "evaporator" in part.place}
    return "dual_evaporator" if len(faces) > 1 else "single_evaporator"


def thermal_of(sheet: Sheet) -> Thermal:
    """A unit's plant. Places and parts it has under a usual name are the sheet's; a fan or a damper it does
    not have is not there; cut-in and cut-out lie about the sheet's set-points as they usually do."""
    plant = USUAL[kind_of(sheet)]()
    stated = sheet.thermal or ThermalStated()
    parts = {part.id: part for part in sheet.components}
    places = _places(sheet, plant)
    faces = tuple(_face(each, parts, places) for each in plant.evaporators)
    condenser = plant.condenser and _condenser(plant.condenser, parts)
    compressor = plant.compressor
    if compressor:
        own = next((part for part in sheet.components if part.kind is K.COMPRESSOR), None)
        compressor = replace(compressor, component=own.id if own else compressor.component)
    dampers = {face.damper for face in faces if face.damper}
    loops = tuple(
        _loop(sheet, each, places)
        for each in plant.loops
        if not each.drives.startswith("damper:") or each.drives.partition(":")[2] in dampers
    )
    return replace(
        plant,
        compartments=tuple(_room(each, places) for each in plant.compartments),
        evaporators=faces,
        condenser=condenser,
        compressor=compressor,
        defrost=_defrost(sheet, plant.defrost, timed=plant.kind == "mechanical"),
        loops=loops,
        base_watts=plant.base_watts if stated.board_watts is None else stated.board_watts,
        modules=tuple(
            replace(each, fan=each.fan if each.fan in parts else "")
            for each in plant.modules
            if each.component in parts
        ),
        bulbs=tuple(replace(each, place=places[each.place]) for each in plant.bulbs),
        joins=tuple((places[one], places[other], joined) for one, other, joined in plant.joins),
    )


def _places(sheet: Sheet, plant: Thermal) -> dict[str, str]:
    """The usual plant's compartments by the sheet's: by kind, else in order."""
    left = list(sheet.compartments)
    found = {}
    for each in plant.compartments:
        kind = "freezer" if each.place == "freezer" else "fridge" if each.place == "fridge" else ""
        mine = next((room for room in left if kind and room.compartment == kind), left[0] if left else None)
        if mine is not None:
            left.remove(mine)
        found[each.place] = mine.id if mine else each.place
    return found


def _room(room: Compartment, places: dict[str, str]) -> Compartment:
    return replace(room, place=places[room.place])


def _face(face: Evaporator, parts: dict[str, Component], places: dict[str, str]) -> Evaporator:
    heater = parts.get(face.heater)
    watts = heater.nominal.watts if heater and heater.nominal.watts else face.heater_watts
    return replace(
        face,
        serves={places[name]: conductance for name, conductance in face.serves.items()},
        fan=face.fan if face.fan in parts else "",
        damper=face.damper if face.damper in parts else "",
        damper_of=places.get(face.damper_of, ""),
        heater=face.heater if heater else "",
        heater_watts=watts,
    )


def _condenser(condenser: Condenser, parts: dict[str, Component]) -> Condenser:
    return condenser if condenser.fan in parts else replace(condenser, fan="")


def _loop(sheet: Sheet, loop: Loop, places: dict[str, str]) -> Loop:
    node, _, name = loop.senses.partition(":")
    if node == "bulb":
        return _by_thermostat(sheet, loop)
    if node != "sensor":
        return loop
    place = places[name]
    if stated := _stated(sheet, place):
        return replace(
            loop,
            senses=f"sensor:{place}",
            cut_in=stated.cut_in_celsius,
            cut_out=stated.cut_out_celsius,
        )
    about = (loop.cut_in + loop.cut_out) / 2
    settings = [
        sensor.set_point_celsius
        for sensor in sheet.sensors
        if sensor.set_point_celsius is not None and place in felt(sheet, sheet.component(sensor.component))
    ]
    by = settings[0] - about if settings else 0.0
    return replace(loop, senses=f"sensor:{place}", cut_in=loop.cut_in + by, cut_out=loop.cut_out + by)


def _by_thermostat(sheet: Sheet, loop: Loop) -> Loop:
    """A bulb's loop with the levels the sheet states, else with what it says its thermostat opens and closes
    at."""
    stated = _stated(sheet, "")
    if stated:
        return replace(loop, cut_in=stated.cut_in_celsius, cut_out=stated.cut_out_celsius)
    rating = next((part.nominal for part in sheet.components if part.kind is K.THERMOSTAT), None)
    if rating is None or rating.opens_celsius is None:
        return loop
    closes = rating.resets_celsius
    if closes is None:
        closes = rating.opens_celsius + loop.cut_in - loop.cut_out
    return replace(loop, cut_out=rating.opens_celsius, cut_in=closes)


def _stated(sheet: Sheet, place: str) -> LevelsStated | None:
    """The levels a sheet states of a compartment's air, or of its thermostat's bulb."""
    levels = sheet.thermal.levels if sheet.thermal else ()
    return next((each for each in levels if each.place == place), None)


def _defrost(sheet: Sheet, defrost: Defrost, *, timed: bool) -> Defrost:
    """A defrost as the sheet states it. Where a timer defrosts, the bimetal beside the heater ends it, at
    what the sheet says it opens at."""
    opens = next((part.nominal.opens_celsius for part in sheet.components if part.kind is K.BIMETAL), None)
    found = replace(defrost, ends=opens) if timed and opens is not None else defrost
    stated = sheet.thermal and sheet.thermal.defrost
    if not stated or found.kind == "none":
        return found
    return replace(
        found,
        kind="run_hours" if stated.counts == "running" else "timer",
        hours=stated.hours,
        ends=found.ends if stated.ends_celsius is None else stated.ends_celsius,
        most=found.most if stated.most_minutes is None else stated.most_minutes,
        drips=found.drips if stated.drips_minutes is None else stated.drips_minutes,
    )


def stated_of(sheet: Sheet) -> tuple[str, ...]:
    """What of a unit's plant its sheet states, in words; all else is usual of such a unit."""
    found = []
    ratings = [part.nominal for part in sheet.components if part.kind is K.THERMOSTAT]
    if any(_stated(sheet, room.id) for room in sheet.compartments) or _stated(sheet, ""):
        found.append("the levels its control keeps")
    elif any(sensor.set_point_celsius is not None for sensor in sheet.sensors):
        found.append("its set-points")
    elif any(rating.opens_celsius is not None for rating in ratings):
        found.append("its thermostat’s levels")
    if sheet.thermal and sheet.thermal.defrost:
        found.append("its defrost")
    if any(part.kind is K.HEATER and part.nominal.watts for part in sheet.components):
        found.append("its heater’s watts")
    return tuple(found)


def felt(sheet: Sheet, part: Component) -> tuple[str, ...]:
    """The compartments a sensor speaks for: the sheet's word, else the one it lies in or the only one."""
    if part.serves:
        return part.serves
    rooms = [room.id for room in sheet.compartments]
    place = part.place
    while place:
        if place in rooms:
            return (place,)
        place = sheet.place(place).inside
    return tuple(rooms) if len(rooms) == 1 else ()
