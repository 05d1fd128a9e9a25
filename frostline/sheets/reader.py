"""Print read from pictures of cells by Debian's tesseract, where the machine has it.

All cells of a table go to one process, each three times: as it is, a little blurred, and smaller. What the
three don't agree on is doubtful.
"""

import os
import shutil
import subprocess
import tempfile
from collections.abc import Sequence
from functools import cache
from pathlib import Path

import numpy as np
from PIL import Image, ImageFilter

from frostcore.paper.picture.cells import Cut
from frostcore.paper.picture.weigh import Glimpse

PROGRAM = "tesseract"
LANGUAGES = ("eng", "deu", "fra", "ita", "spa", "fin", "nld", "swe")
"""Languages papers come in, of those that the machine's tesseract knows."""

MOST_SECONDS = 120
ONE_LINE = "7"
"""Tesseract's name for a picture of a single line of print."""

Glimpses = dict[tuple[int, int], list[Glimpse]]


class NoReaderError(RuntimeError):
    """There is no tesseract on this machine, or it failed; in words."""


@cache
def languages() -> tuple[str, ...]:
    """The languages it reads here; none where there is no tesseract."""
    if shutil.which(PROGRAM) is None:
        return ()
    told = subprocess.run([PROGRAM, "--list-langs"], capture_output=True, text=True, check=False, timeout=20)
    known = set(told.stdout.split())
    return tuple(name for name in LANGUAGES if name in known)


def glimpses(table: Cut, rows: int | None = None) -> Glimpses:
    """What each printed cell of a table, or of its first ``rows``, was read as, three times.

    Raises NoReaderError.
    """
    places = [
        box
        for box, printed in zip(table.boxes, table.printed, strict=True)
        if printed and (rows is None or box.row < rows)
    ]
    crops = [Image.fromarray(table.crop(box)) for box in places]
    pictures = [*crops, *(_blurred(each) for each in crops), *(_smaller(each) for each in crops)]
    read = _read(pictures)
    found: Glimpses = {}
    for number, each in enumerate(read):
        box = places[number % len(places)]
        found.setdefault((box.row, box.column), []).append(each)
    return found


def _blurred(picture: Image.Image) -> Image.Image:
    return picture.filter(ImageFilter.GaussianBlur(1.2))


def _smaller(picture: Image.Image) -> Image.Image:
    size = (max(8, round(picture.width * 0.72)), max(8, round(picture.height * 0.72)))
    return picture.resize(size, Image.Resampling.LANCZOS)


def _read(pictures: Sequence[Image.Image]) -> list[Glimpse]:
    """The line of print in each picture."""
    if not pictures:
        return []
    if not languages():
        message = "This machine has no tesseract to read with (Debian’s package tesseract-ocr)."
        raise NoReaderError(message)
    with tempfile.TemporaryDirectory(prefix="frostline-read-") as folder:
        names = [f"{folder}/{number}.png" for number in range(len(pictures))]
        for name, picture in zip(names, pictures, strict=True):
            picture.save(name)
        listed = Path(folder) / "list.txt"
        listed.write_text("\n".join(names) + "\n", encoding="utf-8")
        command = [PROGRAM, str(listed), "stdout", "-l", "+".join(languages()), "--psm", ONE_LINE, "tsv"]
        try:
            told = subprocess.run(
                command,
                capture_output=True,
                text=True,
                check=False,
                timeout=MOST_SECONDS,
                env={**os.environ, "OMP_THREAD_LIMIT": "1"},
            )
        except subprocess.TimeoutExpired:
            message = f"The table was not read within {MOST_SECONDS} s."
            raise NoReaderError(message) from None
    if told.returncode:
        message = "Tesseract failed on this table. Type it; the picture stays beside."
        raise NoReaderError(message)
    return _lines(told.stdout, len(pictures))


def _lines(table: str, count: int) -> list[Glimpse]:
    """The words of tesseract's table by picture, each line as sure as its least sure word."""
    words: dict[int, list[tuple[str, float]]] = {}
    for line in table.splitlines()[1:]:
        parts = line.split("\t")
        if len(parts) > 11 and parts[0] == "5":
            words.setdefault(int(parts[1]) - 1, []).append((parts[11], float(parts[10])))
    return [
        Glimpse(
            " ".join(text for text, _ in words.get(number, [])),
            min((sure for _, sure in words.get(number, [])), default=0.0),
        )
        for number in range(count)
    ]


def grey_of(picture: Image.Image) -> np.ndarray:
    """A picture as the core reads it: rows by columns, 0 black to 255 white."""
    return np.asarray(picture.convert("L"), dtype=float)
