"""Pictures of the two papers, made as one meets them: a scan laid on askew, and a phone's photograph.

``python -m tests.browser.paper_pictures`` draws them anew.
"""

import html
import io
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page

from frostcore.tests.papers import ENGLISH, GERMAN
from tests.browser.harness import ROOT, chromium

FOLDER = ROOT / "tests/pictures"
WIDE, HIGH = 1200, 1560
TITLES = {
    "english": ("NX-300 · SERVICE SHEET", "Display codes|Sensors (all alike)|Connectors|Parts"),
    "german": ("KG 77/2 · Serviceblatt", "Fehleranzeigen|Fühler (alle gleich)|Stecker|Ersatzteile"),
}
STYLE = """
body { margin: 0; padding: 46px 60px; width: 1080px; background: #fff; color: #111;
  font: 17px/1.25 "DejaVu Sans", sans-serif; }
h1 { font-size: 27px; margin: 0 0 10px; } h2 { font-size: 18px; margin: 16px 0 6px; }
table { border-collapse: collapse; } .by { display: flex; gap: 60px; }
td, th { border: 1.5px solid #222; padding: 3px 10px; text-align: left; font-weight: normal; }
th { font-weight: bold; }
"""


def page_of(name: str, paper: dict[str, object]) -> str:
    """The paper as a page: its tables as they are printed, two of them side by side."""
    title, heads = TITLES[name]
    codes, sensors, plugs, parts = (
        f"<section><h2>{html.escape(head)}</h2>{_table(str(paper[key]))}</section>"
        for head, key in zip(heads.split("|"), ("codes", "sensors", "plugs", "parts"), strict=True)
    )
    body = f"<h1>{html.escape(title)}</h1>{codes}{sensors}{plugs}{parts}"
    return f"<!doctype html><meta charset=utf-8><style>{STYLE}</style>{body}"


def _table(text: str) -> str:
    rows = [line.split("\t") for line in text.split("\n")]
    wide = max(len(row) for row in rows)
    lines = []
    for number, row in enumerate(rows):
        tag = "th" if number == 0 else "td"
        cells = [*row, *[""] * (wide - len(row))]
        lines.append("<tr>" + "".join(f"<{tag}>{html.escape(cell)}</{tag}>" for cell in cells) + "</tr>")
    return f"<table>{''.join(lines)}</table>"


def drawn(page: Page, name: str, paper: dict[str, object]) -> Image.Image:
    """The page as printed, in grey."""
    page.set_content(page_of(name, paper))
    shot = page.screenshot(full_page=True)
    return Image.open(io.BytesIO(shot)).convert("L")


def scanned(sheet: Image.Image, degrees: float, seed: int) -> Image.Image:
    """As a flat scanner gives it: laid on askew, a little grain."""
    turned = sheet.rotate(degrees, Image.Resampling.BICUBIC, expand=True, fillcolor=250)
    return _grained(np.asarray(turned, dtype=float), seed, grain=5.0)


def photographed(sheet: Image.Image, seed: int) -> Image.Image:
    """As a phone gives it: from aslant, darker towards a corner, with grain."""
    wide, high = sheet.size
    quad = (-30, -18, 14, high + 20, wide + 34, high + 44, wide - 6, -40)
    slanted = sheet.transform(sheet.size, Image.Transform.QUAD, quad, Image.Resampling.BICUBIC, fillcolor=242)
    grey = np.asarray(slanted, dtype=float)
    down, across = np.mgrid[0 : grey.shape[0], 0 : grey.shape[1]]
    shade = 1.0 - 0.32 * (across / grey.shape[1]) * (down / grey.shape[0])
    return _grained(grey * shade, seed, grain=7.0)


def _grained(grey: np.ndarray, seed: int, grain: float) -> Image.Image:
    noise = np.random.default_rng(seed).normal(0.0, grain, grey.shape)
    return Image.fromarray(np.clip(grey + noise, 0, 255).astype(np.uint8))


def main() -> None:
    """Draw both papers and keep them."""
    FOLDER.mkdir(exist_ok=True)
    with chromium() as browser:
        page = browser.new_context(
            viewport={"width": WIDE, "height": HIGH}, device_scale_factor=1.5
        ).new_page()
        english, german = drawn(page, "english", ENGLISH), drawn(page, "german", GERMAN)
    _keep(scanned(english, 1.3, 1), "english.jpg")
    _keep(photographed(german, 2), "german.jpg")


def _keep(picture: Image.Image, name: str) -> None:
    picture.save(Path(FOLDER) / name, quality=72)


if __name__ == "__main__":
    main()
