"""Rows that come one by one from a logger on the network, as the file they would be."""

import csv
import io
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta, tzinfo

UNITS = {"plug": "W"}
"""A channel's unit by its place; all others are °C."""


def head_of(place: str) -> str:
    """A live column's head: its place and its unit."""
    return f"{place} {UNITS.get(place, '°C')}"


def csv_of(places: Sequence[str], rows: Iterable[Sequence[float | None]], zone: tzinfo) -> str:
    """A file of rows of (Unix seconds, a value a place), its clock that of a zone as it stood at the first
    row: a change of summer time is none of the unit's."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["time", *(head_of(place) for place in places)])
    first: datetime | None = None
    begun = 0.0
    for at, *values in rows:
        if at is None:
            continue
        if first is None:
            first, begun = datetime.fromtimestamp(at, zone).replace(tzinfo=None), at
        moment = first + timedelta(seconds=at - begun)
        writer.writerow(
            [moment.isoformat(" "), *("" if value is None else f"{value:.2f}" for value in values)]
        )
    return out.getvalue()
