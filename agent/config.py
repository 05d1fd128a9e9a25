"""What the agent is told: where the logger is, what to ask it, where the rows go."""

import re
import tomllib
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

FASTEST, SLOWEST = 0.05, 3600.0
"""Seconds between two rows."""

MOST_CHANNELS = 16


class ConfigError(ValueError):
    """What of a configuration is wrong and what to write."""


@dataclass(frozen=True)
class Channel:
    """A column of the run: its head there, and what the logger is asked for it."""

    head: str
    query: str


@dataclass(frozen=True)
class Config:
    """All of it. ``resource`` is a VISA address such as ``TCPIP0::192.0.2.7::5025::SOCKET``."""

    resource: str
    channels: tuple[Channel, ...]
    every: float
    feed: str
    token: str
    timeout: float = 2.0
    spool: str = "frostline-agent.jsonl"


def read_config(text: str) -> Config:
    """A configuration in TOML. ConfigError for what is wrong in it."""
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise ConfigError(f"This is no TOML: {error}.") from None
    every = _figure(data, "every_seconds", 60.0)
    if not FASTEST <= every <= SLOWEST:
        raise ConfigError(f"every_seconds: {every:g}; write {FASTEST:g} to {SLOWEST:g}.")
    resource = _words(data, "resource", "TCPIP0::192.0.2.7::5025::SOCKET")
    if not re.fullmatch(r"[A-Z]+\d*::[^\s]+", resource):
        raise ConfigError(f"resource: “{resource[:60]}”; write such as TCPIP0::192.0.2.7::5025::SOCKET.")
    feed = _words(data, "feed", "the address the run’s page shows")
    if urlsplit(feed).scheme not in {"http", "https"}:
        raise ConfigError(f"feed: “{feed[:80]}”; write the address the run’s page shows.")
    return Config(
        resource,
        _channels(data.get("channel")),
        every,
        feed,
        _words(data, "token", "the token the run’s page showed once"),
        _figure(data, "timeout_seconds", 2.0),
        str(data.get("spool", "frostline-agent.jsonl")),
    )


def _channels(given: Any) -> tuple[Channel, ...]:
    if not isinstance(given, list) or not given:
        raise ConfigError("channel: there is none; write a [[channel]] with head and query for each column.")
    if len(given) > MOST_CHANNELS:
        raise ConfigError(f"channel: {len(given)} are more than {MOST_CHANNELS}.")
    found = tuple(
        Channel(_words(each, "head", "the column’s head"), _words(each, "query", "MEAS:TEMP? (@101)"))
        for each in given
        if isinstance(each, dict)
    )
    heads = [each.head for each in found]
    if len(found) < len(given) or len(set(heads)) < len(heads):
        raise ConfigError("channel: each is a table [[channel]] with a head of its own and a query.")
    return found


def _words(data: dict[str, Any], name: str, such: str) -> str:
    value = data.get(name)
    if not isinstance(value, str) or not value.strip():
        raise ConfigError(f"{name}: is missing; write {such}.")
    return value.strip()


def _figure(data: dict[str, Any], name: str, usual: float) -> float:
    value = data.get(name, usual)
    if isinstance(value, bool) or not isinstance(value, int | float) or not value > 0:
        raise ConfigError(f"{name}: “{value}” is no number of seconds.")
    return float(value)
