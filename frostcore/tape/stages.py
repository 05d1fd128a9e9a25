"""The stages of a call, in the order of work."""

from enum import StrEnum


class Stage(StrEnum):
    """Stages of a call, in the order of work."""

    CALL = "call"
    LOOK = "look"
    DECODE = "decode"
    OPEN = "open"
    PROBE = "probe"
    TRACE = "trace"
    CLOSE = "close"
    HANDOVER = "handover"

    @property
    def label(self) -> str:
        """The stage in words."""
        return LABELS[self]


LABELS = {
    Stage.CALL: "Take the call",
    Stage.LOOK: "First look",
    Stage.DECODE: "Decode",
    Stage.OPEN: "Way in",
    Stage.PROBE: "Sensors",
    Stage.TRACE: "Trace",
    Stage.CLOSE: "Decide & close",
    Stage.HANDOVER: "Hand over",
}
