"""The demo's six sheets, loaded once for all tests."""

from pathlib import Path

from frostcore.sheet.load import load

PATHS = sorted(Path(__file__).resolve().parents[2].glob("demo/sheets/*.json"))
SHEETS = tuple(load(path.read_text(encoding="utf-8")).sheet for path in PATHS)


def demo_sheet(title):
    """The sheet of a unit, such as Tarnbeck TB-34."""
    return next(sheet for sheet in SHEETS if sheet.title == title)
