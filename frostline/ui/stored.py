"""Files kept beside the database, each under the digest of its content."""

import os
import tempfile
from pathlib import Path

from django.conf import settings


def path_of(digest: str) -> Path:
    """Where the bytes of a digest stand."""
    return Path(settings.ATTACHMENTS) / digest[:2] / digest


def store(digest: str, content: bytes) -> None:
    """Write the bytes whole or not at all, readable by the program alone."""
    target = path_of(digest)
    if target.exists():
        return
    target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    handle, scratch = tempfile.mkstemp(dir=target.parent, prefix=".")
    with os.fdopen(handle, "wb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())
    Path(scratch).replace(target)
    folder = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(folder)  # its name too is on the disk before the entry that names it
    finally:
        os.close(folder)
