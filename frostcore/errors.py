"""The errors the core raises, each worded for the repairer who will read it."""

from collections.abc import Iterable


class FrostError(ValueError):
    """What was understood, what is wrong and what to do; safe to show as it is."""


class QuantityError(FrostError):
    """A typed quantity that cannot be read."""


class CurveError(FrostError):
    """A thermistor curve that cannot be built, or a value it cannot answer."""


class SheetError(FrostError):
    """A unit sheet that is not well formed; ``problems`` lists every place and what is wrong there."""

    def __init__(self, problems: Iterable[object]) -> None:
        self.problems = tuple(problems)
        super().__init__("; ".join(str(problem) for problem in problems))


class TapeError(FrostError):
    """An entry that does not fit the call's tape."""
