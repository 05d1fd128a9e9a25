"""Nonsense at every way in: the door's commands, forms, addresses, uploads, sheets.

Each try is drawn from one seed. What answers with a traceback, a 500, nothing at all, or with more than two
seconds of processor (five at the door) is counted and told once a kind.
"""

import contextlib
import copy
import io
import json
import random
import re
import sys
import tempfile
import threading
import time
import traceback
import uuid
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from http.client import HTTPException
from pathlib import Path
from typing import Any
from urllib.parse import quote

from attack_papers import Papers, send
from attack_remedy import remedy
from attack_server import LEAD_PASSWORD, ROOT, Answer, Client, Server

sys.path.insert(0, str(ROOT))
SLOW_SECONDS, WHOLE_SECONDS = 2.0, 5.0
"""Of the answering thread’s processor time: an answer of the server’s; and a command’s, which may work a
whole sheet out from nothing."""

ROUNDS, THEIR_SECONDS = 1_000_000, 0.11
"""So many rounds of a plain loop take this long where the two above were set: a machine half as fast, or one
that is shared, is given twice as long."""


def pace() -> float:
    """How many times as long as there a second of work takes here and now; one at least."""
    start, total = time.thread_time(), 0
    for number in range(ROUNDS):
        total += number * number % 7
    return max(1.0, (time.thread_time() - start) / THEIR_SECONDS)


SHEETS = sorted((ROOT / "demo/sheets").glob("*.json"))

ODD = (
    "", " ", "0", "-1", "1e999", "-1e999", "nan", "inf", "OL", "short", "1,000", "1.5k", "4k7", "10M",
    "25C", "77F", "9" * 400, "1" + "0" * 5000, "0." + "0" * 300 + "1", "1e-400", "٣٤", "½", "Ω", "−5",
    "5%", "-5%", "1e308", "247", "a" * 300, "\x00", "a\nb", "\r\n.control\nshell id\n.endc", "\u202e",
    "\ud800", "😀" * 50, "../../etc/passwd", "<script>alert(1)</script>", "{{ 7*7 }}",
    "'; DROP TABLE calls_slip; --", '"', "\\", "%00", "null", "true", "[]", "{}", "E5",
    "[adefg][acdfg]", "[adefg] / [acdfg]", "3-1", "sl s", "0,0.5,1,3,3.5", "CN2.5", "CN2.6", "earth",
    "normal", "off_cold", "defrost", "defrost_heater", "thermal_fuse:open", "fridge", "ntc_5k",
    "tarnbeck-tb-34", "2026-11-26", "2026-11-26T10:00:00Z", "99999-99-99", "ohm", "vac", "vdc", "live",
    "unplugged", "pulled", "30s=25k2", "5k@25C", "100 1,000 5k", "0 15.3\n25 5.0",
    "°C\tkΩ\n-4\t44\n14\t25\n32\t17", "on", "-", "?", "AND OR NOT NEAR(", "*", '"a b',
)  # fmt: skip

LONG = (
    ",".join(str(round(step * 0.37, 2)) for step in range(3000)), "[adefg]" * 2000, "5k " * 2000,
    "3-" * 500, "sl " * 1000, "100 " * 3000, "\n".join(f"{step} {9000 - step}" for step in range(3000)),
    "E5" * 1000, "(" * 3000, "\n".join(f"{step * 37 % 1000} {step * 91 % 777}" for step in range(390)),
    "5k@25C" * 500, "1," * 3000,
)  # fmt: skip
"""Odd by its length alone."""

VALUES = (
    None, True, False, 0, -1, 1, 0.5, 1e999, -1e999, 1e308, 1e-308, 10**30, 10**4000, "", " ", "x",
    "\x00", "a\nb", "\ud800", "\u202e", "../x", "a/b", "a.b", "é", "x" * 5000, [], {}, [[]], {"": ""},
    {"id": "x"}, [1, 2], "open", "earth", "p5", "12", "fridge", "CN2", "CN2.5",
)  # fmt: skip
KEYS = ("", " ", "x", "\x00", "a\nb", "\ud800", "../x", "a/b", "é", "x" * 100, "id", "name", "12")


@dataclass
class Tries:
    """What is drawn, and what came of it."""

    chance: random.Random
    found: Counter[str] = field(default_factory=Counter)
    kinds: Counter[str] = field(default_factory=Counter)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def odd(self) -> str:
        """An odd text, at times a piece of one or two together."""
        text, draw = self.chance.choice(ODD), self.chance.random()
        if draw > 0.97:
            return self.chance.choice(LONG)
        if draw < 0.15:
            return text + self.chance.choice(ODD)
        return text[: self.chance.randrange(1, 9)] if draw < 0.25 else text

    def bad(self, what: str, told: str) -> None:
        """Count something that must not be; say it the first time."""
        with self.lock:
            self.found[what] += 1
            self.kinds[f"{what}: {told}"] += 1
            if self.kinds[f"{what}: {told}"] == 1:
                print(f"  {what}: {told}", flush=True)

    def good(self, what: str) -> None:
        """Count a try that was answered as it should be."""
        with self.lock:
            self.found[what] += 1


def fuzz(server: Server, count: int, seed: int) -> Counter[str]:
    """So many tries: half at the door, the rest at the server."""
    door, web = Tries(random.Random(seed)), count // 2  # noqa: S311 - no secret
    at_the_door(door, count - web)
    print(f"  the door: {dict(door.found)}", flush=True)
    server.workers = 2
    server.start()
    found = door.found
    clients = [(Client(server.port), Client(server.port)) for _ in range(4)]
    for technician, lead in clients:
        technician.enter()
        lead.sign_in("lead", LEAD_PASSWORD)
    revision = server.tarnbeck()
    rounds = [
        Round(Tries(random.Random(f"{seed} {number}")), *pair, pair[0].new_call(revision, "Fuzz"))  # noqa: S311
        for number, pair in enumerate(clients)
    ]
    threads = [threading.Thread(target=each.go, args=(web // len(rounds),)) for each in rounds]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    for each in rounds:
        found += each.tries.found
    gaps = "SELECT call_id FROM calls_slip GROUP BY call_id HAVING max(position) != count(*)"
    found["half"] += len(server.rows(gaps))
    found["half"] += len(
        server.rows("SELECT id FROM calls_call WHERE id NOT IN (SELECT call_id FROM calls_slip)")
    )
    server.kill()
    said = server.log.read_text(encoding="utf-8", errors="replace")
    for line, times in Counter(
        re.findall(r"^[A-Za-z_.]+(?:Error|Exception|DoesNotExist)\b.*", said, re.MULTILINE)
    ).items():
        print(f"  logged {times} times: {line[:200]}")
    if any(name.startswith("answered 5") for name in found):
        kept = Path(tempfile.gettempdir()) / "frostline-attack.log"
        kept.write_text(said, encoding="utf-8")
        print(f"  the server's log is kept in {kept}")
    return found


# The door, in this process.


def at_the_door(tries: Tries, count: int) -> None:
    """Commands of the door with nonsense for arguments."""
    from frostcore.door import main  # noqa: PLC0415 - only here

    with tempfile.TemporaryDirectory() as folder:
        files = Files(tries, Path(folder))
        for _ in range(count):
            arguments = command(tries, files)
            start, told = time.thread_time(), io.StringIO()
            try:
                with contextlib.redirect_stdout(told), contextlib.redirect_stderr(io.StringIO()):
                    code = main(arguments)
            except SystemExit as end:
                code = end.code if isinstance(end.code, int) else 1
            except BaseException as error:  # noqa: BLE001 - what this looks for
                place = traceback.extract_tb(error.__traceback__)[-1]
                where = f"{Path(place.filename).name}:{place.lineno}"
                tries.bad(
                    "traceback",
                    f"{where} {type(error).__name__} {str(error)[:80]}: {' '.join(arguments)[:200]!r}",
                )
                continue
            if (took := time.thread_time() - start) > WHOLE_SECONDS and took > WHOLE_SECONDS * pace():
                tries.bad("too slow", f"{took:.1f} s of processor, {' '.join(arguments)[:200]}")
            elif code == 0:
                strict(tries, arguments, told.getvalue())
            else:
                tries.good("refused with a sentence")


def strict(tries: Tries, arguments: list[str], told: str) -> None:
    """What the door answers is JSON that says numbers, or a deck of known words."""
    if arguments[0] == "netlist":
        if re.search(r"^\s*(shell|\.include|\.lib)", told, re.MULTILINE | re.IGNORECASE):
            tries.bad("a deck with a command", " ".join(arguments)[:100])
    else:
        json.loads(told)
    tries.good("taken")


class Files:
    """Sheets and curves for the door: good ones, and ones made worse."""

    def __init__(self, tries: Tries, folder: Path) -> None:
        self.tries, self.folder = tries, folder

    def sheet(self) -> str:
        """A sheet's file."""
        if self.tries.chance.random() < 0.4:
            return str(self.tries.chance.choice(SHEETS))
        path = self.folder / "sheet.json"
        path.write_bytes(worse_sheet(self.tries).encode("utf-8", "surrogatepass"))
        return str(path)

    def curve(self) -> str:
        """A curve's file."""
        if self.tries.chance.random() < 0.5:
            return str(ROOT / "demo/curves/ntc-5k.csv")
        path = self.folder / "curve.csv"
        rows = [f"{self.tries.odd()},{self.tries.odd()}" for _ in range(self.tries.chance.randrange(6))]
        path.write_bytes("\n".join(["celsius,ohms", *rows]).encode("utf-8", "surrogatepass"))
        return str(path)


OPTIONS: dict[str, tuple[str, ...]] = {
    "sensor": ("--curve", "--point", "--point", "--tolerance", "--doubt", "--meter"),
    "settle": ("--reading", "--reading", "--reading", "--reading", "--tolerance"),
    "identify": ("--point", "--point", "--sheet", "--most"),
    "divider": (
        "--reference",
        "--pullup",
        "--volts",
        "--ohms",
        "--celsius",
        "--curve",
        "--at",
        "--tolerance",
    ),
    "decode": ("--sheet", "--shown", "--frames", "--taps"),
    "check-sheet": (),
    "schema": (),
    "pot": ("--nominal", "--ends", "--stop", "--sweep", "--tolerance"),
    "thermostat": ("--kind", "--opens", "--differential", "--at", "--reads", "--unit", "--doubt"),
    "expect": ("--sheet", "--mode", "--red", "--black", "--range", "--pull", "--fault"),
    "netlist": ("--sheet", "--mode", "--red", "--black", "--range", "--pull", "--fault"),
    "trace": ("--sheet", "--mode", "--function", "--at", "--pull", "--fault"),
    "modes": ("--sheet",),
    "faults": ("--sheet",),
    "load heater": ("--mains", "--ohms", "--watts"),
    "load windings": ("--phases", "--ab", "--bc", "--ac", "--earth"),
    "load tacho": ("--hertz", "--pulses", "--rpm"),
    "load plug": ("--sheet", "--mode", "--watts", "--amps"),
    "capacitor": ("--farads", "--volts", "--esr", "--hertz", "--measured", "--at", "--warm", "--can"),
    "bus": ("--mains", "--farads", "--watts", "--esr", "--series", "--lamp", "--reads", "--ripple"),
    "twin": ("--readings",),
    "ladder": ("--sheet", "--board", "--kind", "--mains", "--at", "--at", "--fault"),
    "substitute": ("--part", "--stock"),
    "thermal": ("--sheet", "--fault", "--days", "--room", "--every", "--setting", "--begins"),
    "run": ("--sheet", "--log", "--column", "--room", "--settings"),
    "calibrate": ("--target", "--turn", "--turn", "--slope", "--doubt", "--cut-in", "--of"),
}
LIKELY = {
    "--point": ("5k@25C", "OL@0C", "24k@0C"), "--mode": ("normal", "defrost", "off_cold"),
    "--red": ("CN2.5", "CN7.1"), "--black": ("CN2.6", "earth"), "--range": ("ohm", "vac", "vdc"),
    "--kind": ("bimetal",), "--phases": ("1", "3"), "--function": ("defrost", "evaporator_fan"),
    "--fault": ("thermal_fuse:open",), "--at": ("21C", "CN7.1=231V"),
    "--reading": ("30s=25k2", "60s=27k6", "120s=30k2", "300s=31k9"), "--reads": ("OL", "0"),
    "--unit": ("°C",), "--mains": ("230V",), "--ohms": ("41", "247"), "--volts": ("2.5V",),
    "--pullup": ("10k",), "--pull": ("CN2",), "--opens": ("55",), "--differential": ("30",),
    "--nominal": ("10k",), "--ends": ("9k8",), "--shown": ("E5",), "--sweep": ("100;2k5;5k;7k4;9k7",),
    "--farads": ("470u", "22u"), "--esr": ("0.5", "40"), "--watts": ("3W",), "--warm": ("0.1@60C",),
    "--readings": (str(ROOT / "demo/bench/twin.csv"),), "--part": (str(ROOT / "demo/bench/c7.json"),),
    "--stock": (str(ROOT / "demo/bench/drawer.csv"), str(ROOT / "demo/bench/twin.csv")),
    "--taps": ("0,0.5,1,3,3.5,4",), "--frames": ("[adefg][acfg]",),
}  # fmt: skip


def command(tries: Tries, files: Files) -> list[str]:
    """A command with its options, likely or odd."""
    name = tries.chance.choice(list(OPTIONS))
    arguments = name.split()
    if name == "check-sheet":
        arguments.append(files.sheet())
    for option in OPTIONS[name]:
        if tries.chance.random() < 0.12:
            continue
        if option == "--sheet":
            value = files.sheet()
        elif option == "--curve":
            value = files.curve()
        elif option in LIKELY and tries.chance.random() < 0.7:
            value = tries.chance.choice(LIKELY[option])
        else:
            value = tries.odd()
        arguments += [option, value]
    if tries.chance.random() < 0.05:
        arguments.insert(tries.chance.randrange(len(arguments) + 1), tries.odd())
    return [argument.replace("\x00", "\\0") for argument in arguments]


# Sheets.


def worse_sheet(tries: Tries) -> str:
    """A demo sheet with a few values changed, or text that is hardly one."""
    chance = tries.chance
    if chance.random() < 0.05:
        return chance.choice(
            ("", "[" * 100_000, '{"a":' * 5000, "null", "1", '"x"', "{", "\ufeff{}", "[1e999]", "1" * 5000)
        )
    data = json.loads(chance.choice(SHEETS).read_text(encoding="utf-8"))
    for _ in range(chance.choice((1, 1, 1, 2, 5))):
        worsen(data, chance)
    if chance.random() < 0.7:
        data["id"] = f"fuzz-{chance.randrange(20)}"
    return json.dumps(data, ensure_ascii=chance.random() < 0.5)


def worsen(data: Any, chance: random.Random) -> None:
    """Change one value somewhere."""
    place, key = data, chance.choice(list(data))
    for _ in range(chance.randrange(7)):
        inner = place[key]
        if not isinstance(inner, dict | list) or not inner or chance.random() < 0.15:
            break
        place, key = inner, chance.choice(list(inner) if isinstance(inner, dict) else range(len(inner)))
    draw = chance.random()
    if draw < 0.15:
        del place[key]
    elif draw < 0.25 and isinstance(place, list):
        place += [copy.deepcopy(place[key]) for _ in range(chance.choice((1, 3, 450)))]
    elif draw < 0.3 and isinstance(place, dict):
        place[chance.choice(KEYS)] = copy.deepcopy(place[key])
    elif draw < 0.5 and isinstance(place[key], int | float) and abs(place[key]) < 1e300:
        place[key] = place[key] * chance.choice((0, -1, 1e-6, 1e6, 1000, 0.001, 2))
    else:
        place[key] = copy.deepcopy(chance.choice(VALUES))


# The server.

STAGES = ("now", "call", "look", "decode", "open", "probe", "trace", "decide", "close", "handover")
KINDS = (
    "noted", "reading", "observed", "code_seen", "plate_read", "power_set", "mode_set", "plug_moved",
    "step_done", "temperature_taken", "part_fitted", "outcome", "withdrawn", "checked", "call_taken",
    "sheet_taken", "attached", "pins_learned", "value_learned", "part_learned", "code_learned",
    "curve_learned", "stated_learned", "programmed", "awaited", "mended", "rewired", "quoted", "x",
)  # fmt: skip
FIELDS = (
    "text", "look", "answer", "sensor", "value", "celsius", "temperature", "red", "black", "meter",
    "mode", "pulled", "function", "kept", "keep", "set_power", "shown", "frames", "taps", "code",
    "model", "serial", "mains_volts", "refrigerant", "state", "mode", "connector", "place", "step",
    "counted", "component", "part", "outcome", "why", "made_at", "charge_grams", "doubt", "accuracy",
    "hz", "fault", "amperes", "setting", "was", "until", "unit", "how", "price", "recheck_days",
)  # fmt: skip
QUERIES = (
    "sensor",
    "function",
    "mode",
    "red",
    "black",
    "faults",
    "place",
    "readings",
    "tape",
    "meter",
    "pulled",
    "fault",
    "q",
    "page",
    "open",
    "kind",
    "at",
)
CHECKS = (
    "code", "sensor", "heater", "windings", "speed", "plug", "pot", "thermostat", "bus", "capacitor", "relay",
    "substitute", "twin", "x",
)  # fmt: skip


@dataclass
class Round:
    """One client's tries: a technician, a lead, a call."""

    tries: Tries
    technician: Client
    lead: Client
    call: str

    @cached_property
    def papers(self) -> Papers:
        """Tries at papers and files."""
        return Papers(self.tries, self.technician, self.lead, self.call)

    def go(self, count: int) -> None:
        """So many tries."""
        acts: tuple[tuple[int, Callable[[], tuple[str, Answer]]], ...] = (
            (40, self.form),
            (25, self.address),
            (10, self.check),
            (6, self.bench),
            (10, self.sheet),
            (8, self.odd_address),
            (5, self.new_call),
            (6, lambda: remedy(self)),
            (2, self.people),
            (20, self.papers.go),
        )
        for _ in range(count):
            act = self.tries.chance.choices([act for _, act in acts], [weight for weight, _ in acts])[0]
            try:
                what, answer = act()
            except (OSError, HTTPException) as error:
                self.tries.bad("no answer", f"{act.__name__} {type(error).__name__}")
                continue
            if answer.status >= 500:
                self.tries.bad(f"answered {answer.status}", re.sub(r"[0-9a-f-]{36}", "…", what)[:300])
            elif self.slow(answer.processor_seconds):
                self.tries.bad("too slow", f"{answer.processor_seconds:.1f} s of processor, {what[:200]}")
            else:
                self.tries.good("taken" if answer.status < 400 else "refused with a sentence")

    @staticmethod
    def slow(seconds: float) -> bool:
        """Whether an answer took too long; one that says nothing of it did."""
        return not seconds <= SLOW_SECONDS and not seconds <= SLOW_SECONDS * pace()

    def fields(self, names: tuple[str, ...]) -> list[tuple[str, str]]:
        """A few fields, likely or odd."""
        chance = self.tries.chance
        return [(name, self.tries.odd()) for name in names if chance.random() < 0.4]

    def form(self) -> tuple[str, Answer]:
        """Something posted at a stage of a call."""
        chance = self.tries.chance
        stage = chance.choice(STAGES)
        slip = str(uuid.UUID(int=chance.getrandbits(128))) if chance.random() < 0.9 else self.tries.odd()
        data = [("kind", chance.choice(KINDS)), ("slip_id", slip), *self.fields(FIELDS)]
        address = f"/calls/{self.call}/{stage}/"
        return f"POST {address} {data}", self.technician.ask("POST", address, data)

    def address(self) -> tuple[str, Answer]:
        """A page that is there, with a query of nonsense."""
        chance = self.tries.chance
        call = f"/calls/{self.call}"
        pages = [f"{call}/{stage}/" for stage in STAGES] + [
            f"{call}/candidates/", f"{call}/settle/fridge/", f"{call}/curve/fridge.svg",
            f"{call}/trace.cir", f"{call}/trace.svg", f"{call}/report/", f"{call}/tape.json",
            f"{call}/customer/", "/", "/calls/", "/search/", "/check/candidates/", "/check/curve.csv",
            "/sheets/", "/ui/understood/resistance/", "/ui/understood/temperature/",
            f"/check/{chance.choice(CHECKS)}/", "/bench/", "/bench/ladder/", f"/bench/call/{self.call}/",
        ]  # fmt: skip
        query = "&".join(
            f"{name}={quote(self.tries.odd(), errors='surrogatepass')}"
            for name in QUERIES
            if chance.random() < 0.3
        )
        page = chance.choice(pages)
        return f"GET {page}?{query}", self.technician.ask("GET", f"{page}?{query}"[:6000])

    def check(self) -> tuple[str, Answer]:
        """A quick check with nonsense, at times filed into a call."""
        name = self.tries.chance.choice(CHECKS)
        names = (
            "ohms", "ohms1", "celsius1", "ohms2", "celsius2", "curve", "table", "sheet", "mode",
            "watts", "amps", "mains", "ab", "bc", "ac", "earth", "phases", "hertz", "pulses", "rpm",
            "nominal", "ends", "stop1", "sweep", "tolerance", "kind", "opens", "differential", "unit",
            "at", "reads", "shown", "doubt", "meter", "farads", "volts", "esr", "series", "start", "ripple",
            "lamp", "measured", "look", "warm", "warm_at", "coil", "pull", "drop", "celsius", "readings",
            "esr_ohms", "pitch_mm", "room_height_mm", "role", "time_class", "measured_volts",
        )  # fmt: skip
        query = "&".join(f"{key}={quote(value, errors='surrogatepass')}" for key, value in self.fields(names))
        if self.tries.chance.random() < 0.3:
            data = [
                ("query", query),
                ("call", self.tries.chance.choice((self.call, self.tries.odd()))),
                ("slip_id", str(uuid.uuid4())),
            ]
            return f"POST /check/{name}/file/ {data}", self.technician.ask(
                "POST", f"/check/{name}/file/", data
            )
        return f"GET /check/{name}/?{query}", self.technician.ask("GET", f"/check/{name}/?{query}"[:7000])

    def bench(self) -> tuple[str, Answer]:
        """A board on the mat with nonsense: by its address, on a call, kept as a good one."""
        chance = self.tries.chance
        names = (
            "kind",
            "mains",
            "esr",
            "at",
            "at",
            "probe",
            "value",
            "see",
            "good",
            "sheet",
            "board",
            "name",
            "done",
        )
        given = dict(self.fields(names))
        if chance.random() < 0.7:
            given |= {"kind": chance.choice(("dropper", "linear")), "mains": "229 V"}
        if chance.random() < 0.6:
            given |= {"probe": chance.choice(("vdc:bp-bm", "said", "esr:bp-bm", "look:C1"))}
        data = list(given.items())
        if chance.random() < 0.4:
            query = "&".join(f"{key}={quote(value, errors='surrogatepass')}" for key, value in data)
            return f"GET /bench/ladder/?{query}", self.technician.ask("GET", f"/bench/ladder/?{query}"[:7000])
        address = chance.choice(("/bench/good/", f"/bench/call/{self.call}/"))
        data += [("act", chance.choice(("out", "read", "mend", "back", ""))), ("slip_id", str(uuid.uuid4()))]
        return f"POST {address} {data}", self.technician.ask("POST", address, data)

    def sheet(self) -> tuple[str, Answer]:
        """A sheet published, by its text or as a file; what is published is looked at."""
        text = worse_sheet(self.tries)
        if self.tries.chance.random() < 0.3:
            answer = send(self.lead, "/sheets/publish/", "file", text.encode("utf-8", "surrogatepass"))
        else:
            answer = self.lead.ask("POST", "/sheets/publish/", [("document", text)])
        if answer.status != 302:
            return f"publish {text[:80]!r}", answer
        looked = self.lead.ask("GET", answer.location)
        revision = re.search(r"/r(\d+)\.json", looked.body)
        if looked.status == 200 and revision:
            self.work(answer.location, text)
        return f"GET {answer.location}", looked

    def work(self, address: str, text: str) -> None:
        """Pages of a call on a sheet that was published, and those that list all sheets."""
        page = self.technician.ask("GET", "/calls/new/").body
        options = re.findall(r'<option value="(\d+)"', page)
        if not options:
            self.tries.bad("no unit to choose", address)
            return
        data = [
            ("slip_id", str(uuid.uuid4())),
            ("revision", self.tries.chance.choice(options)),
            ("customer", "Fuzz"),
            ("complaint", "x"),
        ]
        answer = self.technician.ask("POST", "/calls/new/", data)
        if answer.status == 302:
            call = answer.location.split("/")[2]
            for stage in self.tries.chance.sample(STAGES, 3):
                looked = self.technician.ask("GET", f"/calls/{call}/{stage}/")
                if looked.status >= 500:
                    self.tries.bad("a published sheet breaks a page", f"{stage} {text[:0]}")
        for page in ("/sheets/", "/search/?q=E5", "/check/code/?shown=E5"):
            if self.technician.ask("GET", page).status >= 500:
                self.tries.bad("a published sheet breaks every unit's pages", page)

    def odd_address(self) -> tuple[str, Answer]:
        """An address that is hardly one."""
        chance = self.tries.chance
        parts = [
            "calls",
            "sheets",
            "check",
            "people",
            "ui",
            self.call,
            "tarnbeck-tb-34",
            "r1",
            "r99999999999999999999",
            "r1.json",
            "curve",
            "x",
        ]
        made = "/".join(
            quote(self.tries.odd(), safe="", errors="surrogatepass")
            if chance.random() < 0.3
            else chance.choice(parts)
            for _ in range(chance.randrange(1, 5))
        )
        address = f"/{made}"[:4000] + chance.choice(("", "/"))
        return f"GET {address}", self.technician.ask("GET", address)

    def new_call(self) -> tuple[str, Answer]:
        """A call taken, a customer corrected, a slip corrected, the colours."""
        chance = self.tries.chance
        odd = self.tries.odd
        acts = (
            (
                "/calls/new/",
                [("slip_id", odd()), ("revision", odd()), ("customer", odd()), ("complaint", odd())],
            ),
            (f"/calls/{self.call}/customer/", [("customer", odd()), ("address", odd()), ("phone", odd())]),
            (f"/calls/{self.call}/correct/{uuid.uuid4()}/", [("kind", odd()), ("text", odd())]),
            ("/ui/choose/", [("theme", chance.choice(("dark", odd()))), ("back", odd())]),
            (f"/calls/{self.call}/customer/erase/", []),
        )
        address, data = chance.choice(acts)
        return f"POST {address} {data}", self.technician.ask("POST", address, data)

    def people(self) -> tuple[str, Answer]:
        """A person added with nonsense, by a lead; signing in with it, by a stranger."""
        odd = self.tries.odd
        if self.tries.chance.random() < 0.5:
            stranger = Client(self.lead.port)
            stranger.ask("GET", "/people/sign-in/")
            return "sign in", stranger.ask(
                "POST", "/people/sign-in/", [("username", odd()), ("password", odd()), ("next", odd())]
            )
        data = [("username", odd()), ("first_name", odd()), ("role", odd()), ("password", odd())]
        return f"POST /people/new/ {data}", self.lead.ask("POST", "/people/new/", data)
