"""The usual cautions, one or two lines each, by the step where they matter.

Local codes and licensed practice come first.
"""

PRECEDENCE = "Local codes and licensed practice come first."

MAINS = "Mains at the board and at heaters: pull the plug, don't trust a switch."
BULK_CAPACITOR = (
    "The board's bulk capacitor holds a lethal charge after the plug is out: measure it, discharge it."
)
LIVE = (
    "Live: insulated probes, one hand, dry floor, a second person near. Never live where an unplugged test"
    " answers."
)
FLAMMABLE = (
    "Flammable refrigerant: no flame, no sparks, air the room; the sealed system is for licensed hands."
)
FINS = "Heaters burn, fan blades and fins cut, cabinets tip."
FOOD = "Food that was above safe temperature for too long is discarded."
WATER = "Where water is connected: close its supply before you pull the unit."
BYPASS = (
    "Never bypass a thermal fuse or an overload, never leave a jumper in; label every modification and keep"
    " earth continuous."
)


def for_way_in(*, valves: bool) -> tuple[str, ...]:
    """The cautions of taking a unit apart; ``valves`` when it has any."""
    return (FINS, WATER) if valves else (FINS,)


def for_power(power: str, *, flammable: bool) -> tuple[str, ...]:
    """The cautions that go with the power state ``live``, ``unplugged`` or ``unknown``."""
    lines = {"live": (LIVE,), "unplugged": (BULK_CAPACITOR,)}.get(power, (MAINS,))
    return (*lines, FLAMMABLE) if flammable else lines
