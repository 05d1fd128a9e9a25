"""What the board believes: set-point, what it senses and what is true, side by side, and set against what
was found.

The board holds the *sensed* temperature at its set-point, so the cabinet settles at set-point minus the
sensor's error.
"""

from dataclasses import dataclass

from frostcore.quantity import Dimension, format_celsius, format_value

EXPLAINS_WITHIN_KELVIN = 3.0
"""A cabinet found this near the predicted temperature is explained by the sensor."""


@dataclass(frozen=True)
class Belief:
    """The three temperatures in degrees Celsius; ``found`` is the cabinet by thermometer, or None.

    ``explains`` is None without it.
    """

    set_point: float
    error_kelvin: float
    settles: float
    found: float | None
    explains: bool | None
    text: str


AS_SET_KELVIN = 0.05
"""An error below this is none."""


def believe(set_point: float, error_kelvin: float, found: float | None = None) -> Belief:
    """Predict where the cabinet settles under a sensor with this error (positive: it believes warmer),
    and compare."""
    settles = set_point - error_kelvin
    size = format_value(abs(error_kelvin), Dimension.TEMPERATURE_DIFFERENCE)
    text = (
        f"Set to {format_celsius(set_point)}, the board stops when it senses that; the cabinet is then at"
        f" {format_celsius(settles)}"
    )
    text += (
        f", {size} {'colder' if error_kelvin > 0 else 'warmer'} than set."
        if abs(error_kelvin) >= AS_SET_KELVIN
        else "."
    )
    explains = None
    if found is not None:
        explains = abs(found - settles) <= EXPLAINS_WITHIN_KELVIN
        # A unit that can't cool stays warm whatever its sensor says; one that overcools is made to by
        # something.
        text += f" The thermometer found {format_celsius(found)}: " + (
            "the sensor explains it."
            if explains
            else (
                "the sensor alone does not explain it; look further."
                if abs(found - set_point) > EXPLAINS_WITHIN_KELVIN
                else "the cabinet is at its setting all the same."
            )
        )
    return Belief(set_point, error_kelvin, settles, found, explains, text)
