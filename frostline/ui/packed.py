"""Zip files that come from anywhere, opened in memory: one list of what reading a damaged one fails with."""

import io
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from frostcore.errors import FrostError

HEAD = b"PK\x03\x04"
"""How such a file begins."""

UNREADABLE = (
    zipfile.BadZipFile,
    zlib.error,
    ValueError,
    RuntimeError,  # encrypted, or packed in a way nobody here unpacks
    OSError,
    EOFError,
)


class DamagedError(FrostError):
    """A file that is no zip, or a damaged one."""


@contextmanager
def opened(data: bytes) -> Iterator[zipfile.ZipFile]:
    """The zip; DamagedError for whatever goes wrong while it is read, but for errors in words."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            yield packed
    except FrostError:
        raise
    except UNREADABLE:
        raise DamagedError("The file is damaged.") from None
