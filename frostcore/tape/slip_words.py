"""A slip in words: its parts, as every picture of a tape has them."""

from dataclasses import dataclass


@dataclass(frozen=True)
class SlipWords:
    """A slip's parts: what it is about, the main figure or word, what was typed for it, and the rest.

    ``odd`` marks what a healthy unit does not show; ``raw`` is the text of what can't be read.
    """

    title: str
    figure: str
    typed: str = ""
    detail: str = ""
    points: str = ""
    odd: bool = False
    raw: str = ""
