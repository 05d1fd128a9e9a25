"""The kinds of unit that ship with Frostline, for tests."""

from pathlib import Path

from frostcore.sheet.load import load

PATHS = sorted((Path(__file__).parents[2] / "archetypes").glob("*.json"))


def kind(identifier):
    """One of them."""
    path = next(path for path in PATHS if path.stem == identifier)
    return load(path.read_text(encoding="utf-8")).sheet


KINDS = [load(path.read_text(encoding="utf-8")).sheet for path in PATHS]
