"""What a trace's picture is made of: points, boxes, wires, the path within boards and components.

Geometry only.
"""

from dataclasses import dataclass

HIT, MARK = 44.0, 30.0
"""The side of the area that answers to a tap, and of a verdict mark."""


@dataclass(frozen=True)
class Port:
    """A point on the picture: its row's middle, its label, the short text printed by it, and whether the
    path passes it."""

    point: str
    x: float
    y: float
    width: float
    label: str
    note: str
    lit: bool
    on_wire: bool = False
    """Whether it is a splice's, drawn upon its wire."""

    @property
    def value_x(self) -> float:
        """Where a reading printed by the point ends."""
        return self.x + self.width - 30

    @property
    def hit_y(self) -> float:
        """The top of the area that answers to a tap."""
        return self.y - HIT / 2

    @property
    def mark_x(self) -> float:
        """The left edge of a verdict mark set on the line at the point."""
        return self.x - MARK - 4

    @property
    def mark_y(self) -> float:
        """The top edge of a verdict mark set on the line at the point."""
        return self.y - MARK / 2


@dataclass(frozen=True)
class Box:
    """A connector, plug, component or splice with its points.

    ``kind`` is one of those words; ``id`` what the sheet calls it.
    """

    id: str
    kind: str
    name: str
    x: float
    y: float
    width: float
    height: float
    ports: tuple[Port, ...]
    lit: bool


@dataclass(frozen=True)
class Wire:
    """A stretch of harness: its path, its colour and where the colour's name ends."""

    id: str
    path: str
    colour: str
    lit: bool
    text_x: float
    text_y: float


@dataclass(frozen=True)
class Inside:
    """Part of the path within a board: its line, what stands on it (text and middle), the node under each
    point that can be touched, and each stage on it: its branch, where it stands, its name."""

    path: str
    texts: tuple[tuple[float, float, str], ...]
    spots: tuple[Port, ...]
    stages: tuple[tuple[str, float, float, str], ...] = ()


@dataclass(frozen=True)
class Bridge:
    """The path through a component, from terminal to terminal."""

    path: str
    name: str
    x: float
    y: float


@dataclass(frozen=True)
class TracePicture:
    """All of the picture."""

    width: float
    height: float
    boxes: tuple[Box, ...]
    wires: tuple[Wire, ...]
    insides: tuple[Inside, ...]
    bridges: tuple[Bridge, ...]
    slab: tuple[float, float, float, float]
    slab_name: str
    summary: str

    @property
    def slab_text_y(self) -> float:
        """The base line of the boards' name, along the slab's foot."""
        return self.slab[1] + self.slab[3] - 8
