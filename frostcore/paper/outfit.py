"""A unit that has a part its kind has not, or lacks one: the base of a draft changed, wires, pins and
switches with it.

What is added is driven as such parts mostly are (a mains heater or valve by a relay, a mains fan by a triac,
a DC fan by a transistor from the fans' rail, a sensor against the board's pull-up), with usual values that
the paper's rows then replace. What is taken out leaves its neighbours joined.
"""

import copy
import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from frostcore.circuit.kept import circuits_of
from frostcore.errors import FrostError, SheetError
from frostcore.paper.rows import Document
from frostcore.sheet.load import load
from frostcore.sheet.words import folded


class OutfitError(FrostError):
    """A part that can't be added or taken out, in words."""


@dataclass(frozen=True)
class Addable:
    """A kind of part that can be added: its id, words, what it is rated at 230 V, and what drives it."""

    id: str
    words: str
    kind: str
    nominal: dict[str, float]
    driven: str
    minutes: int = 20


ADDABLE = (
    Addable("heater", "a heater on the mains", "heater", {"ohms": 529.0, "watts": 100.0}, "relay"),
    Addable("fan_ac", "a fan on the mains", "fan_ac", {"ohms": 310.0, "watts": 11.0}, "triac"),
    Addable("valve", "a valve’s coil on the mains", "valve", {"ohms": 2500.0}, "relay"),
    Addable("fan_dc", "a fan on the board’s DC", "fan_dc", {"watts": 3.0, "rpm": 2000.0}, "transistor"),
    Addable("cabinet_sensor", "a sensor in a compartment", "thermistor", {}, "cabinet", 15),
    Addable("coil_sensor", "a sensor at a coil", "thermistor", {}, "defrost_end", 20),
    Addable("room_sensor", "a sensor for the room", "thermistor", {}, "ambient", 10),
)
SPREAD = 0.6
"""How far a usual ohm value may be off."""

FAN_RAIL = 9.0, 24.0
"""Volts of a rail that fans run on."""


@dataclass(frozen=True)
class NewPart:
    """A part to be added: which of ``ADDABLE``, its name, where it is, and the modes it runs in."""

    what: str
    name: str
    place: str
    modes: tuple[str, ...] = ()


def added(document: Document, new: NewPart) -> Document:
    """A document with one part more. Raises OutfitError in words."""
    what = next((each for each in ADDABLE if each.id == new.what), None)
    if what is None or not new.name.strip() or len(new.name) > 60:
        raise OutfitError("Choose what it is and type what it is called, such as “Freezer fan”.")
    found = copy.deepcopy(document)
    if new.place not in {place["id"] for place in found.get("places", ())}:
        raise OutfitError("Choose where it is.")
    name = _identifier(new.name)
    if any(
        part["id"] == name or part["name"].casefold() == new.name.strip().casefold()
        for part in found["components"]
    ):
        raise OutfitError(f"There is a “{new.name}” already.")
    board = _board(found, what)
    part: dict[str, Any] = {"id": name, "kind": what.kind, "name": new.name.strip(), "place": new.place}
    part["fit_minutes"] = what.minutes
    found["components"].append(part)
    ends = ("plus", "minus") if what.kind == "fan_dc" else ("1", "2")
    signal, back = f"{name}_out", board["ground"]
    if what.kind == "thermistor":
        _sensor(found, board, what, name)
        signal = f"{name}_sense"
    else:
        source, back, volts = _source(found, board, what)
        part["nominal"] = {**what.nominal, "volts": volts} | (
            {"tolerance": SPREAD} if "ohms" in what.nominal else {}
        )
        board.setdefault("switches", []).append(
            {
                "id": f"drive_{name}",
                "kind": what.driven,
                "from_node": source,
                "to_node": signal,
                "signal": name,
                "name": f"{part['name'].lower()} {what.driven}",
            }
        )
        for mode in found["modes"]:
            if mode["id"] in new.modes:
                mode.setdefault("signals", []).append(name)
    _wired(found, board, part, (signal, back), ends)
    return _sound(found, f"{part['name']} can’t be added")


def _identifier(text: str) -> str:
    name = re.sub(r"[^a-z0-9]+", "_", folded(text)).strip("_")[:40]
    return name if name[:1].isalpha() else f"part_{name}"


def _board(document: Document, what: Addable) -> dict[str, Any]:
    """The board that drives it: the one on the mains, or with a rail for fans, or that reads sensors."""
    for board in document.get("boards", ()):
        found: dict[str, Any] = board
        if what.kind == "thermistor" and board.get("sensor_inputs"):
            return found
        if what.driven == "transistor" and _rail(board):
            return found
        if what.driven in {"relay", "triac"} and board.get("feed", {}).get("live"):
            return found
    raise OutfitError(f"This kind of unit has no board for {what.words}.")


def _rail(board: dict[str, Any]) -> dict[str, Any] | None:
    rails = [rail for rail in board.get("rails", ()) if FAN_RAIL[0] <= rail["volts"] <= FAN_RAIL[1]]
    return min(rails, key=lambda rail: rail["volts"], default=None)


def _source(document: Document, board: dict[str, Any], what: Addable) -> tuple[str, str, float]:
    """The node it is switched from, the one it returns to, and the volts between them."""
    if what.driven == "transistor":
        rail = _rail(board)
        assert rail is not None  # noqa: S101 -- the board was chosen by it
        return rail["node"], board["ground"], rail["volts"]
    return board["feed"]["live"], board["feed"]["neutral"], document["plate"]["mains_volts"]


def _sensor(document: Document, board: dict[str, Any], what: Addable, name: str) -> None:
    """The sensor, against the same pull-up and by the same curve as the board's others."""
    like = board["sensor_inputs"][0]
    known = {sensor["id"]: sensor for sensor in document["sensors"]}
    plug = _plug(name)
    first = known[like["sensor"]]
    sensor = {"id": name, "component": name, "role": what.driven, "curve": first["curve"]}
    sensor |= {"tolerance": first["tolerance"]} if "tolerance" in first else {}
    document["sensors"].append(sensor | {"pins": [f"{plug}.1", f"{plug}.2"]})
    board["sensor_inputs"].append(
        {
            "sensor": name,
            "reference_volts": like["reference_volts"],
            "pullup_ohms": like["pullup_ohms"],
            "pin": f"{plug}.1",
            "return_pin": f"{plug}.2",
        }
    )


def _plug(name: str) -> str:
    return "".join(word.capitalize() for word in name.split("_"))


def _wired(
    document: Document, board: dict[str, Any], part: dict[str, Any], nodes: Sequence[str], ends: Sequence[str]
) -> None:
    """A plug of its own at the board, and two wires."""
    plug, name = _plug(part["id"]), part["name"].lower()
    if any(connector["id"] == plug for connector in document["connectors"]):
        raise OutfitError(f"There is a plug “{plug}” already. Call the part otherwise.")
    owner = next(each for each in document["components"] if each["id"] == board["component"])
    labels = ("signal", "return") if part["kind"] == "thermistor" else ("feed", "return")
    document["connectors"].append(
        {
            "id": plug,
            "name": f"{part['name']}’s plug at the board",
            "place": owner["place"],
            "board": board["component"],
            "pins": [
                {"number": number, "node": node, "label": f"{name}’s {label}"}
                for number, (node, label) in enumerate(zip(nodes, labels, strict=True), 1)
            ],
        }
    )
    for number, end in enumerate(ends, 1):
        document["harness"].append({"points": [f"{plug}.{number}", f"{part['id']}.{end}"], "colours": [""]})


def _sound(document: Document, told: str) -> Document:
    """The document, where it is a sheet that can be judged. Raises OutfitError."""
    try:
        sheet = load(json.dumps(document)).sheet
    except SheetError as error:
        raise OutfitError(f"{told}: {error.problems[0]}") from None
    problem = circuits_of(sheet).problem
    if problem:
        raise OutfitError(f"{told}: {problem}")
    return document


def parts_to_leave(document: Document) -> list[tuple[str, str]]:
    """Parts a unit may be without (id, name): what hangs on wires of its own, and what stands in a row with
    others."""
    return [
        (part["id"], part["name"])
        for part in document.get("components", ())
        if part["kind"] in LEAVABLE and _ends(document, part)
    ]


LEAVABLE = {
    *("bimetal", "thermal_fuse", "heater", "fan_ac", "fan_dc", "valve", "thermistor", "damper"),
    *("door_switch", "lamp", "flap_motor", "auger_motor"),
}
IN_A_ROW = {"bimetal", "thermal_fuse"}
"""What others still run through when it is not there: its wires are joined."""


def _ends(document: Document, part: dict[str, Any]) -> list[dict[str, Any]]:
    """The wires that end at a part."""
    return [
        run
        for run in document.get("harness", ())
        if _at(run["points"][0], part) or _at(run["points"][-1], part)
    ]


def _at(point: str, part: dict[str, Any]) -> bool:
    return point.partition(".")[0] == str(part["id"])


def without(document: Document, identifier: str) -> Document:
    """A document without one part. Raises OutfitError in words."""
    found = copy.deepcopy(document)
    part = next((each for each in found["components"] if each["id"] == identifier), None)
    if part is None or (identifier, part["name"]) not in parts_to_leave(found):
        raise OutfitError("There is no such part to take out.")
    mended = _joined(found, part) if part["kind"] in IN_A_ROW else _cut(found, part)
    mended["components"] = [each for each in mended["components"] if each["id"] != identifier]
    for each in mended["components"]:
        _forget(each, "change_with", identifier)
    for mode in mended["modes"]:
        mode.get("positions", {}).pop(identifier, None)
    if "sources" in mended:
        _forget_sources(mended, identifier)
    return _sound(mended, f"{part['name']} can’t be taken out")


def _forget(data: dict[str, Any], key: str, name: str) -> None:
    left = [each for each in data.get(key, ()) if each != name]
    if key in data and not left:
        del data[key]
    elif key in data:
        data[key] = left


def _forget_sources(document: Document, name: str) -> None:
    document["sources"] = {
        at: source for at, source in document["sources"].items() if name not in at.split(".")
    }


def _joined(document: Document, part: dict[str, Any]) -> Document:
    """Its two wires as one; where it sits right on another part, the wire goes there."""
    mine = _ends(document, part)
    fixed = list(part.get("terminals", {}).values())
    if len(mine) == 2:
        first, second = (_towards(run["points"], part) for run in mine)
        points = [*first[:-1], *reversed(second[:-1])]
    elif len(mine) == 1 and len(fixed) == 1:
        points = [*_towards(mine[0]["points"], part)[:-1], fixed[0]]
    else:
        raise OutfitError(f"{part['name']} can’t be taken out: how its wires go on is not plain.")
    document["harness"] = [run for run in document["harness"] if run not in mine]
    document["harness"].append({"points": points, "colours": [""]})
    return document


def _towards(points: Sequence[str], part: dict[str, Any]) -> list[str]:
    """The points of a wire in the order that ends at a part."""
    return list(points) if _at(points[-1], part) else list(reversed(points))


def _cut(document: Document, part: dict[str, Any]) -> Document:
    """Its wires, the pins that were for them alone, and what on the board drove it or read it."""
    mine = _ends(document, part)
    kept = [run for run in document["harness"] if run not in mine]
    used = {point for run in kept for point in run["points"]}
    gone = {point for run in mine for point in run["points"]} - used
    nodes = set(_nodes_of(document, gone))
    document["harness"] = kept
    through = {point.partition(".")[0] for point in used}
    for connector in document["connectors"]:
        if "pins" in connector:
            pins = [pin for pin in connector["pins"] if f"{connector['id']}.{pin['number']}" not in gone]
            connector["pins"] = pins
    document["connectors"] = [
        each for each in document["connectors"] if (each["pins"] if "pins" in each else each["id"] in through)
    ]
    _unnamed(document, part, gone)
    sensors = {sensor["id"] for sensor in document.get("sensors", ()) if sensor["component"] == part["id"]}
    document["sensors"] = [sensor for sensor in document["sensors"] if sensor["id"] not in sensors]
    before = _signals(document)
    for board in document.get("boards", ()):
        _quieten(board, nodes, sensors)
    silent = before - _signals(document)
    for mode in document["modes"]:
        for signal in silent:
            _forget(mode, "signals", signal)
    return document


def _signals(document: Document) -> set[str]:
    """The signals that switches of boards answer to."""
    return {switch["signal"] for board in document.get("boards", ()) for switch in board.get("switches", ())}


def _unnamed(document: Document, part: dict[str, Any], gone: set[str]) -> None:
    """Steps, codes and stated readings without what is there no more."""
    plugs = {connector["id"] for connector in document["connectors"]}
    for place in document.get("places", ()):
        for step in place.get("steps", ()):
            if "plugs" in step:
                step["plugs"] = [plug for plug in step["plugs"] if plug in plugs]
    for code in document.get("codes", ()):
        if "implicates" in code:
            code["implicates"] = [each for each in code["implicates"] if each["component"] != part["id"]]
    if "stated_readings" in document:
        document["stated_readings"] = [
            each
            for each in document["stated_readings"]
            if not {each.get("red"), each.get("black")} & gone
            and not any(_at(str(each.get(end, "")), part) for end in ("red", "black"))
        ]


def _nodes_of(document: Document, points: set[str]) -> Iterator[str]:
    """The nodes of pins, but for those the board shares."""
    shared = {board["ground"] for board in document.get("boards", ())}
    shared |= {rail["node"] for board in document.get("boards", ()) for rail in board.get("rails", ())}
    for board in document.get("boards", ()):
        shared |= {node for node in board.get("feed", {}).values() if isinstance(node, str)}
    for connector in document["connectors"]:
        for pin in connector.get("pins", ()):
            if f"{connector['id']}.{pin['number']}" in points and pin["node"] not in shared:
                yield pin["node"]


def _quieten(board: dict[str, Any], nodes: set[str], sensors: set[str]) -> None:
    """A board without the switches and resistors of nodes that lead nowhere, and without sensors' inputs."""
    for key in ("switches", "resistors"):
        if key in board:
            board[key] = [
                each for each in board[key] if each["from_node"] not in nodes and each["to_node"] not in nodes
            ]
    if "sensor_inputs" in board:
        board["sensor_inputs"] = [each for each in board["sensor_inputs"] if each["sensor"] not in sensors]
