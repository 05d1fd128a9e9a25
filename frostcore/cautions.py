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
EMPTY = (
    "Plug out, and the big capacitor measured to be empty: it holds a lethal charge. Discharge it through"
    " some kΩ, not with a screwdriver; a charged one ends the meter too."
)
LIVE_PRIMARY = (
    "Live primary: an isolating transformer, one hand, the meter clipped on before the power; no scope earth"
    " on its minus. The residual-current device does not guard you behind the transformer. Ohms and diode"
    " test come first, with the plug out and the bus measured empty."
)
NOT_ISOLATED = (
    "This supply has no transformer: every pin of the board is mains, the display’s and the sensors’ too."
)
LIVE_RELAY = (
    "Ohms with the plug out. Volts at the coil and across the contact are read live: mains stand on the"
    " contact’s pins, a finger’s width from the coil’s. Insulated probes, one hand; where ohms answer, do not"
    " probe live."
)
LIVE_THERMOSTAT = (
    "Mains stand on the thermostat’s terminals: plug out before its cover comes off, and insulated hands on"
    " the screw alone once it is in again. Bend no capillary, heat no bulb with a flame."
)
CLIPPED_ON = (
    "Clip the capacitor on with the board unplugged and empty, the right way round, of the same volts or"
    " more; hands off while it works, and empty both again before it comes off."
)
ON_MAT = (
    "Live on the mat: an isolating transformer or a lamp in series, one hand, nothing loose on the bench. A"
    " supply without a transformer has the mains on every pin."
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
