"""The environment variables a server is set by, read and checked in one place.

Each that is wrong is told in one line that names it and says what to write.
"""

import os
import re
import secrets
import shutil
import zoneinfo
from collections.abc import Mapping
from dataclasses import dataclass
from ipaddress import IPv4Network, IPv6Network, ip_network
from pathlib import Path

from django.core.exceptions import ImproperlyConfigured

Network = IPv4Network | IPv6Network

LEAST_SECRET, LEAST_LETTERS = 50, 5
MOST_HSTS = 63_072_000
"""Two years, in seconds."""

HOST = re.compile(r"\.?[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?|\[[0-9a-fA-F:]+\]")


@dataclass(frozen=True)
class Environment:
    """What was read."""

    demo: bool
    data: Path
    secret: str
    hosts: tuple[str, ...]
    proxies: tuple[Network, ...]
    hsts_seconds: int
    time_zone: str
    currency: str
    degrees: str
    error_command: str


def read(given: Mapping[str, str], base: Path) -> Environment:
    """The environment of a server; raises ImproperlyConfigured for what can't be served so."""
    demo = given.get("FROSTLINE_DEMO") == "1"
    data = Path(given.get("FROSTLINE_DATA") or base / "var")
    try:
        data.mkdir(mode=0o700, parents=True, exist_ok=True)
    except OSError as error:
        raise _wrong("FROSTLINE_DATA", data, f"a folder that can be made ({error.strerror})") from None
    if not os.access(data, os.W_OK | os.X_OK):
        raise _wrong("FROSTLINE_DATA", data, "a folder that this user may write to")
    return Environment(
        demo=demo,
        data=data,
        secret=_secret(given.get("FROSTLINE_SECRET_KEY", "").strip(), data, demo=demo),
        hosts=("127.0.0.1", "localhost", "[::1]") if demo else _hosts(given),
        proxies=() if demo else _proxies(given),
        hsts_seconds=_hsts(given),
        time_zone=_time_zone(given),
        currency=_currency(given),
        degrees=_degrees(given),
        error_command=_error_command(given),
    )


def _wrong(name: str, value: object, wanted: str) -> ImproperlyConfigured:
    return ImproperlyConfigured(f"{name} is “{value}”; set it to {wanted}.")


def _secret(given: str, data: Path, *, demo: bool) -> str:
    """The secret key: as given, else the data's own, made once and readable by its owner alone."""
    if given:
        if len(given) < LEAST_SECRET or len(set(given)) < LEAST_LETTERS:
            raise ImproperlyConfigured(
                "FROSTLINE_SECRET_KEY is too short or too plain; set it to at least"
                f" {LEAST_SECRET} random characters, or leave it away: the data folder then keeps its own."
            )
        return given
    path = data / ("demo-secret-key" if demo else "secret-key")
    try:
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        return path.read_text(encoding="utf-8")
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        file.write(secrets.token_urlsafe(64))
        file.flush()
        os.fsync(file.fileno())
    return path.read_text(encoding="utf-8")


def _parts(given: Mapping[str, str], name: str) -> list[str]:
    return [part.strip() for part in given.get(name, "").split(",") if part.strip()]


def _hosts(given: Mapping[str, str]) -> tuple[str, ...]:
    name, wanted = (
        "FROSTLINE_ALLOWED_HOSTS",
        "the host names it serves, such as frostline.example, with commas",
    )
    hosts = _parts(given, name)
    if not hosts:
        raise ImproperlyConfigured(f"Set {name} to {wanted}. (To try Frostline here only, run bin/demo.)")
    for host in hosts:
        if not HOST.fullmatch(host):
            raise _wrong(name, host, f"{wanted}; no addresses with https://, no ports, no *")
    return tuple(hosts)


def _proxies(given: Mapping[str, str]) -> tuple[Network, ...]:
    name = "FROSTLINE_PROXIES"
    found = []
    for part in _parts(given, name):
        try:
            found.append(ip_network(part))
        except ValueError:
            wanted = "the addresses of the proxies in front of it, such as 127.0.0.1 or 10.0.0.0/28"
            raise _wrong(name, part, wanted) from None
    return tuple(found)


def _hsts(given: Mapping[str, str]) -> int:
    text = given.get("FROSTLINE_HSTS_SECONDS", "0").strip() or "0"
    if not re.fullmatch(r"\d{1,9}", text) or int(text) > MOST_HSTS:
        wanted = f"seconds from 0 (browsers are promised nothing) to {MOST_HSTS} (two years)"
        raise _wrong("FROSTLINE_HSTS_SECONDS", text, wanted)
    return int(text)


def _time_zone(given: Mapping[str, str]) -> str:
    name = given.get("FROSTLINE_TIME_ZONE", "").strip() or "UTC"
    try:
        zoneinfo.ZoneInfo(name)
    except (zoneinfo.ZoneInfoNotFoundError, ValueError, OSError):
        raise _wrong("FROSTLINE_TIME_ZONE", name, "a zone's name such as UTC or Etc/GMT-1") from None
    return name


def _currency(given: Mapping[str, str]) -> str:
    sign = given.get("FROSTLINE_CURRENCY", "").strip() or "€"
    if len(sign) > 3 or not sign.isprintable():
        raise _wrong("FROSTLINE_CURRENCY", sign[:20], "a sign of one to three characters")
    return sign


def _degrees(given: Mapping[str, str]) -> str:
    wanted = given.get("FROSTLINE_DEGREES", "").strip().removeprefix("°").upper() or "C"
    if wanted not in {"C", "F"}:
        raise _wrong("FROSTLINE_DEGREES", wanted[:20], "C or F")
    return wanted


def _error_command(given: Mapping[str, str]) -> str:
    command = given.get("FROSTLINE_ON_ERROR", "").strip()
    if command and shutil.which(command) is None:
        raise _wrong("FROSTLINE_ON_ERROR", command, "a program that may be run; it gets each report as JSON")
    return command
