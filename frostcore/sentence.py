"""Names in sentences."""

from collections.abc import Sequence


def in_sentence(name: str) -> str:
    """A name as it stands within a sentence: small at its head, but for what is written in capitals."""
    return name[:1].lower() + name[1:] if name[1:2].islower() else name


def joined(names: Sequence[str]) -> str:
    """Several in a row: ``a, b and c``."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
