"""Pictures from anywhere, made anew: turned upright, of a bounded size, without what a camera wrote into them
(where, when, with what)."""

import io
from dataclasses import dataclass

from django.core.files.uploadedfile import UploadedFile
from PIL import Image, ImageOps

from frostcore.errors import FrostError

LARGEST_BYTES, MOST_POINTS, LONGEST = 30_000_000, 80_000_000, 3200
"""Of a picture as it comes: its bytes and its points; of one that is kept: its longer side."""

FORMATS = ("JPEG", "PNG", "WEBP", "TIFF", "BMP", "GIF")
JPEG = "image/jpeg"


class PictureError(FrostError):
    """A file that can't be kept as a picture, in words."""


@dataclass(frozen=True)
class Clean:
    """A picture as it is kept: a JPEG file."""

    content: bytes
    width: int
    height: int


def upload_of(upload: UploadedFile) -> bytes:
    """A file as it was sent; PictureError, before it is read, for one larger than any picture."""
    _bounded(upload.size or 0, f"“{upload.name}”")
    return bytes(upload.read())


def _bounded(size: int, name: str) -> None:
    if size > LARGEST_BYTES:
        most = LARGEST_BYTES // 1_000_000
        raise PictureError(f"{name} has {size / 1e6:.0f} MB; a picture has at most {most}.")


def clean(data: bytes, name: str = "The file") -> Clean:
    """A picture made anew from a file; PictureError for what is none, or too large."""
    _bounded(len(data), name)
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
            fits = opened.width * opened.height <= MOST_POINTS
            made = of(ImageOps.exif_transpose(opened)) if fits else None
    except Exception as error:  # noqa: BLE001 - a hostile file makes the library fail in any way
        told = (
            f"{name} is no picture that can be read ({type(error).__name__}). JPEG, PNG, WebP and TIFF can."
        )
        raise PictureError(told) from None
    if made is None:
        raise PictureError(f"{name} has more than {MOST_POINTS // 1_000_000} million points.")
    return made


def of(picture: Image.Image) -> Clean:
    """An opened picture as it is kept: grey where it has no colour, nothing see-through."""
    if picture.mode in {"RGBA", "LA", "PA", "P"}:
        whole = picture.convert("RGBA")
        picture = Image.alpha_composite(Image.new("RGBA", whole.size, "white"), whole)
    picture = picture.convert("L" if picture.mode in {"1", "L", "I;16", "I", "F"} else "RGB")
    picture.thumbnail((LONGEST, LONGEST), Image.Resampling.LANCZOS)
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=86, optimize=True)
    return Clean(out.getvalue(), picture.width, picture.height)


def turned(data: bytes, quarters: int) -> Clean:
    """A kept picture turned by quarters, clockwise."""
    ways = {1: Image.Transpose.ROTATE_270, 2: Image.Transpose.ROTATE_180, 3: Image.Transpose.ROTATE_90}
    with Image.open(io.BytesIO(data), formats=("JPEG",)) as opened:
        way = ways.get(quarters % 4)
        return of(opened if way is None else opened.transpose(way))
