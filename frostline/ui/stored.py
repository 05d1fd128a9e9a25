"""Files kept beside the database, each under the digest of its content."""

import os
import tempfile
from pathlib import Path

from django.conf import settings
from django.http import FileResponse, Http404, HttpResponse

A_YEAR = 31_536_000


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


def served(digest: str, media_type: str) -> FileResponse:
    """A kept file to be shown; its address is its content, so it is asked for once."""
    if not path_of(digest).exists():
        raise Http404
    response = FileResponse(path_of(digest).open("rb"), content_type=media_type)
    for_good(response)
    return response


def for_good(response: HttpResponse | FileResponse) -> None:
    """Have a browser keep an answer that will never be another."""
    response["Cache-Control"] = f"private, max-age={A_YEAR}, immutable"
