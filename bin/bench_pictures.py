"""What is read from pictures of the two papers, as they are and worse: cells right, marked, wrong without
a mark.
"""

import resource
import shutil
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from PIL import Image, ImageFilter

from frostcore.paper.heads import NOT_KEPT, head_of
from frostcore.paper.picture.cells import WornError, cut
from frostcore.paper.picture.grid import tables_on
from frostcore.paper.picture.weigh import weighed
from frostcore.tests.papers import ENGLISH, GERMAN
from frostline.sheets.reader import glimpses, grey_of

FOLDER = Path(__file__).resolve().parent.parent / "tests/pictures"
SECTIONS = ("codes", "sensors", "plugs", "parts")
PLAIN = str.maketrans("−–—", "---", "¹")
GOAL_RIGHT, GOAL_UNMARKED = 0.96, 0


def _sized(share: float) -> Callable[[Image.Image], Image.Image]:
    def made(picture: Image.Image) -> Image.Image:
        size = (round(picture.width * share), round(picture.height * share))
        return picture.resize(size, Image.Resampling.LANCZOS)

    return made


def _leant(picture: Image.Image) -> Image.Image:
    return _sized(0.7)(picture).rotate(3, Image.Resampling.BICUBIC, expand=True, fillcolor=240)


def _grained(picture: Image.Image) -> Image.Image:
    grey = np.asarray(picture, dtype=float)
    noise = np.random.default_rng(5).normal(0.0, 25.0, grey.shape)
    return Image.fromarray(np.clip(grey + noise, 0, 255).astype(np.uint8))


def _pale(picture: Image.Image) -> Image.Image:
    return picture.point(lambda value: 150 + value // 5)


WORSE: dict[str, Callable[[Image.Image], Image.Image]] = {
    "as it is": lambda picture: picture,
    "half the points": _sized(0.5),
    "a third of them": _sized(1 / 3),
    "leaning 3° more": _leant,
    "grained": _grained,
    "out of focus": lambda picture: picture.filter(ImageFilter.GaussianBlur(2)),
    "pale": _pale,
}


def _counted(grey: np.ndarray, paper: dict[str, object]) -> Iterator[tuple[int, int, int, int]]:
    """By table: cells, right ones, marked ones, those wrong, taken over and unmarked; WornError."""
    for section, found in zip(SECTIONS, tables_on(grey), strict=False):
        table = weighed(section, glimpses(cut(grey, found.corners)))
        rows = [line.split("\t") for line in str(paper[section]).split("\n")]
        printed = {
            (r, c): text.translate(PLAIN) for r, row in enumerate(rows) for c, text in enumerate(row) if text
        }
        read = {(each.row, each.column): each for each in table.cells}
        unused = {c for c, head in enumerate(rows[0]) if head_of(section, head) in NOT_KEPT}
        wrong = [
            at
            for at, text in printed.items()
            if at not in read or read[at].text.casefold() != text.casefold()
        ]
        unmarked = [at for at in wrong if at[1] not in unused and not (at in read and read[at].doubt)]
        yield len(printed), len(printed) - len(wrong), len(table.doubtful), len(unmarked)


def pictures() -> int:
    """Print the table; 1 where a goal is not reached."""
    if shutil.which("tesseract") is None:
        print("tesseract is not installed (Debian: apt-get install tesseract-ocr tesseract-ocr-deu).")
        return 1
    print(f"{'picture':30} {'cells':>6} {'right':>7} {'marked':>7} {'wrong, unmarked':>16} {'s':>6}")
    reached = True
    for name, paper in (("english", ENGLISH), ("german", GERMAN)):
        with Image.open(FOLDER / f"{name}.jpg") as opened:
            picture = opened.convert("L")
        for label, worse in WORSE.items():
            began = _seconds()
            try:
                counts = list(_counted(grey_of(worse(picture)), paper))
            except WornError as error:
                print(f"{name + ', ' + label:30} refused: {error}")
                continue
            if not counts:
                print(f"{name + ', ' + label:30} no table found: its corners are dragged")
                continue
            cells, right, marked, unmarked = (sum(each) for each in zip(*counts, strict=True))
            seconds = _seconds() - began
            told = f"{name}, {label}"
            print(f"{told:30} {cells:6} {right / cells:7.1%} {marked:7} {unmarked:16} {seconds:6.1f}")
            if label == "as it is":
                reached &= right / cells >= GOAL_RIGHT and unmarked <= GOAL_UNMARKED
    print(
        f"\nSeconds of processor, tesseract's with them. Goal as it is: {GOAL_RIGHT:.0%} right, none wrong"
        f" and unmarked: {'reached' if reached else 'NOT REACHED'}."
    )
    return 0 if reached else 1


def _seconds() -> float:
    return time.process_time() + sum(resource.getrusage(resource.RUSAGE_CHILDREN)[:2])
