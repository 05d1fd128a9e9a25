"""A log's rows as they were read, packed beside the files they are of: what a page reads instead of a file.

They can be made anew at any time, and are where the reading has changed (:data:`FORMAT`).
"""

import io
import json
import os
import zipfile
from dataclasses import asdict
from datetime import datetime
from pathlib import Path

import numpy as np
from django.conf import settings

from frostcore.thermal.log import Column, Log, Said

FORMAT = 1
"""Grows with whatever changes what is read of a file."""

NONE = np.iinfo(np.int32).min
FINEST = 100.0
"""Values are kept in hundredths of a degree and of a watt."""


def _path(digest: str) -> Path:
    return Path(settings.ATTACHMENTS).with_name("rows") / digest[:2] / f"{digest}.{FORMAT}"


def packed(log: Log) -> bytes:
    """A log in a few bytes a row."""
    with np.errstate(invalid="ignore"):
        whole = np.where(np.isnan(log.values), NONE, np.rint(log.values * FINEST)).astype(np.int32)
    about = {
        "begins": log.begins.isoformat(),
        "columns": [asdict(column) | {"where": ""} for column in log.columns],
        "said": [asdict(each) for each in log.said],
    }
    out = io.BytesIO()
    np.savez_compressed(
        out,
        about=np.frombuffer(json.dumps(about).encode(), np.uint8),
        seconds=np.diff(log.seconds, prepend=0.0),
        values=np.diff(whole, axis=1, prepend=np.int32(0)),
    )
    return out.getvalue()


def unpacked(content: bytes) -> Log:
    """The log again. ValueError for what is none."""
    try:
        with np.load(io.BytesIO(content), allow_pickle=False) as found:
            about = json.loads(found["about"].tobytes())
            seconds, whole = np.cumsum(found["seconds"]), np.cumsum(found["values"], axis=1, dtype=np.int32)
    except (KeyError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise ValueError(str(error)) from None
    values = np.where(whole == NONE, np.nan, whole / FINEST)
    columns = tuple(Column(**each) for each in about["columns"])
    said = tuple(Said(**each) for each in about["said"])
    return Log(datetime.fromisoformat(about["begins"]), seconds, columns, values, said)


def kept(digest: str) -> Log | None:
    """A file's rows, where they are kept and can be read."""
    try:
        return unpacked(_path(digest).read_bytes())
    except (OSError, ValueError):
        return None


def keep(digest: str, log: Log) -> Log:
    """Keep a file's rows, whole or not at all; the log as it is kept."""
    content = packed(log)
    path = _path(digest)
    path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    scratch = path.with_name(f".{path.name}.{os.getpid()}")
    scratch.write_bytes(content)
    scratch.replace(path)
    return unpacked(content)
