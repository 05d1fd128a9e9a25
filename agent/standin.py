"""A stand-in for a networked logger: it answers SCPI over TCP on this machine with the columns of a CSV, as
fast as is asked, and fails as real ones do when it is told to.

``MEAS? (@N)`` answers the N-th column's figure now; ``*IDN?``, ``SYST:ERR?`` as usual. ``FAIL SLOW`` answers
the next question late, ``FAIL DROP`` closes at it, ``FAIL SPLIT`` sends its answer in two, ``FAIL OPEN``
answers 9.9E37, ``FAIL MUTE`` nothing.
"""

import argparse
import csv
import re
import socketserver
import sys
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path

NAME = "Norwick Instruments,NX-8 stand-in,0,1.0"
OVERLOAD = "+9.9E37"
LATE = 3.0
FAILS = frozenset({"SLOW", "DROP", "SPLIT", "OPEN", "MUTE"})
LONGEST = 7 * 24 * 3600.0


@dataclass
class Figures:
    """Columns of figures that pass while time does: ``every`` seconds a row, ``speed`` times as fast."""

    rows: list[list[str]]
    every: float = 60.0
    speed: float = 1.0
    begun: float = field(default_factory=time.monotonic)

    def now(self, column: int) -> str:
        """A column's figure now, from 1 on; the last row stays."""
        at = int((time.monotonic() - self.begun) * self.speed / self.every)
        row = self.rows[min(at, len(self.rows) - 1)]
        return row[column] if 0 < column < len(row) else ""


class _Handler(socketserver.StreamRequestHandler):
    server: "StandIn"

    def handle(self) -> None:
        while line := self.rfile.readline(1000):
            answer = self.server.answer(line.decode("ascii", "replace").strip())
            fails, self.server.fails = (self.server.fails, "") if answer else ("", self.server.fails)
            if fails == "DROP":
                return
            if fails == "SLOW":
                time.sleep(LATE)
            if not answer or fails == "MUTE":
                continue
            out = f"{OVERLOAD if fails == 'OPEN' else answer}\r\n".encode()
            half = len(out) // 2 if fails == "SPLIT" else len(out)
            self.wfile.write(out[:half])
            if half < len(out):
                time.sleep(0.05)
                self.wfile.write(out[half:])


class StandIn(socketserver.ThreadingTCPServer):
    """The logger, on loopback only."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, figures: Figures, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Handler)
        self.figures, self.fails, self.error = figures, "", "+0,No error"

    @property
    def port(self) -> int:
        """Where it listens."""
        return int(self.server_address[1])

    @property
    def resource(self) -> str:
        """Its VISA address."""
        return f"TCPIP0::127.0.0.1::{self.port}::SOCKET"

    def answer(self, asked: str) -> str:
        """What is answered; nothing to what is no question or not known."""
        if asked == "*IDN?":
            return NAME
        if asked == "SYST:ERR?":
            told, self.error = self.error, "+0,No error"
            return told
        if found := re.fullmatch(r"FAIL (\w+)", asked):
            if found[1] in FAILS:
                self.fails = found[1]
                return ""
        elif found := re.fullmatch(r"MEAS\?\s*\(@(\d+)\)", asked):
            return self.figures.now(int(found[1])) or OVERLOAD
        self.error = '-113,"Undefined header"'
        return ""


def figures_of(text: str, speed: float = 1.0) -> Figures:
    """A CSV's rows, its first column the clock."""
    rows = [row for row in csv.reader(text.splitlines()) if row]
    body = [row for row in rows[1:] if len(row) > 1]
    if not body:
        raise ValueError("the CSV has no rows: a head and rows of a clock and figures")
    return Figures(body, speed=speed)


def main(arguments: list[str] | None = None) -> int:
    """Serve a CSV until its time is over."""
    parser = argparse.ArgumentParser(prog="standin", description="a stand-in for a networked logger")
    parser.add_argument("log", help="a CSV: a clock, then columns; such as “frostcore thermal” prints")
    parser.add_argument("--port", type=int, default=5025)
    parser.add_argument("--speed", type=float, default=1.0, help="so many times as fast as its rows")
    parser.add_argument("--lifetime", type=float, default=3600.0, help="seconds until it ends by itself")
    options = parser.parse_args(arguments)
    try:
        figures = figures_of(Path(options.log).read_text(encoding="utf-8"), options.speed)
        server = StandIn(figures, options.port)
    except (OSError, ValueError) as error:
        print(f"standin: {error}", file=sys.stderr)
        return 2
    with server:
        threading.Timer(min(options.lifetime, LONGEST), server.shutdown).start()
        print(f"standin: listens at {server.resource}", flush=True)
        server.serve_forever()
    return 0


if __name__ == "__main__":
    sys.exit(main())
