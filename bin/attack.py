"""Attack a server of its own: kill it while clients write, let many write at once, feed it nonsense. Counts
what was acknowledged, lost, doubled, half there, refused and failed at; returns non-zero when any is.

Nothing but addresses of this machine is asked, and the data is made for it and thrown away.
"""

import argparse
import fcntl
import random
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path

from attack_fuzz import fuzz
from attack_server import Client, Entry, Server


@dataclass
class Shift:
    """One client at its call, until the server is killed under it."""

    client: Client
    call: str
    entries: list[Entry] = field(default_factory=list)
    refused: Counter[str] = field(default_factory=Counter)

    def write(self, stop: threading.Event) -> None:
        """Send what was not acknowledged before, then new entries, until nothing answers."""
        again = self.unsent()
        while not stop.is_set():
            entry = again.pop() if again else self.new()
            try:
                answer = entry.send(self.client)
            except (OSError, HTTPException):
                return
            if not entry.acknowledged:
                self.refused[f"answered {answer.status}"] += 1

    def new(self) -> Entry:
        """The next entry; every third is a reading."""
        serial = len(self.entries)
        self.entries.append(Entry(self.call, f"entry {serial} of {self.call}", serial % 3 == 0))
        return self.entries[-1]

    def unsent(self) -> list[Entry]:
        """What was sent and never acknowledged."""
        return [entry for entry in self.entries if not entry.acknowledged]


def kills(server: Server, count: int, chance: random.Random) -> Counter[str]:
    """Kill it at random while four clients write; what was not acknowledged is sent again afterwards."""
    server.start()
    revision = server.tarnbeck()
    shifts = []
    for number in range(4):
        client = Client(server.port)
        client.enter()
        shifts.append(Shift(client, client.new_call(revision, f"Killed {number}")))
    for number in range(1, count + 1):
        stop = threading.Event()
        threads = [threading.Thread(target=shift.write, args=(stop,)) for shift in shifts]
        for thread in threads:
            thread.start()
        time.sleep(chance.uniform(0.02, 0.4))
        server.kill()
        stop.set()
        for thread in threads:
            thread.join()
        if number % 100 == 0:
            print(f"  {number} kills, {sum(len(shift.entries) for shift in shifts)} entries", flush=True)
        server.start()
    for shift in shifts:
        for entry in shift.unsent():
            entry.send(shift.client)
    server.kill()
    refused = sum((shift.refused for shift in shifts), Counter[str]())
    found = judged(server, [entry for shift in shifts for entry in shift.entries], refused)
    found["kills"] = count
    return found


def writers(server: Server, count: int, each: int, *, calls: int) -> Counter[str]:
    """So many clients write at once, to one call or to as many."""
    server.start()
    revision = server.tarnbeck()
    clients = [Client(server.port) for _ in range(count)]
    for client in clients:
        client.enter()
    known = [clients[0].new_call(revision, f"Shared {number}") for number in range(calls)]
    entries = [
        [
            Entry(known[number % calls], f"writer {number} entry {serial} of {calls}", serial % 3 == 0)
            for serial in range(each)
        ]
        for number in range(count)
    ]
    done, together = Counter[str](), threading.Barrier(count)

    def write(client: Client, mine: list[Entry]) -> None:
        together.wait()
        for entry in mine:
            answer = entry.send(client)
            if not entry.acknowledged:
                done[f"answered {answer.status}"] += 1

    run_all([lambda pair=pair: write(*pair) for pair in zip(clients, entries, strict=True)])
    corrections(clients, known[0], done)
    server.kill()
    return judged(server, [entry for mine in entries for entry in mine], done)


def corrections(clients: list[Client], call: str, done: Counter[str]) -> None:
    """Everybody corrects the same slip at once: one does, the others get a sentence."""
    wrong = Entry(call, "to be corrected", reading=False)
    wrong.send(clients[0])
    statuses: Counter[int] = Counter()
    sentences: list[bool] = []

    def correct(client: Client) -> None:
        data = {"kind": "noted", "slip_id": str(uuid.uuid4()), "text": "corrected"}
        answer = client.ask("POST", f"/calls/{call}/correct/{wrong.id}/", data)
        statuses[answer.status] += 1
        if answer.status == 422:
            sentences.append("corrected already" in answer.body)

    run_all([lambda client=client: correct(client) for client in clients])
    if statuses != Counter({302: 1, 422: len(clients) - 1}) or not all(sentences):
        done["corrections gone wrong"] += 1
        print(f"  corrections of one slip: {dict(statuses)}")


def run_all(acts: list[Callable[[], None]]) -> None:
    """All of these at once, in threads."""
    threads = [threading.Thread(target=act) for act in acts]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def judged(server: Server, entries: list[Entry], done: Counter[str]) -> Counter[str]:
    """What the database says of these entries."""
    found = Counter(done)
    there = Counter(str(uuid.UUID(str(row[0]))) for row in server.rows("SELECT id FROM calls_slip"))
    texts = Counter(
        str(row[0])
        for row in server.rows("SELECT json_extract(body, '$.text') FROM calls_slip WHERE kind = 'noted'")
    )
    found["entries"] = len(entries)
    found["acknowledged"] = sum(entry.acknowledged for entry in entries)
    found["lost"] = sum(entry.acknowledged and not there[entry.id] for entry in entries)
    found["doubled"] = sum(texts[entry.text] > 1 for entry in entries if not entry.reading)
    found["half"] = sum(there[entry.id] != there[entry.first_id] for entry in entries if entry.reading)
    gaps = (
        "SELECT call_id FROM calls_slip GROUP BY call_id"
        " HAVING max(position) != count(*) OR min(position) != 1"
    )
    found["tapes with gaps"] = len(server.rows(gaps))
    index = f"SELECT {COLUMNS} FROM calls_callindex ORDER BY call_id"  # noqa: S608 -- our own names
    before = server.rows(index)
    server.manage("rebuild_index", "--verbosity", "0")
    found["index lines that differ"] = sum(
        one != other for one, other in zip(before, server.rows(index), strict=True)
    )
    if server.rows("PRAGMA integrity_check") != [("ok",)]:
        found["databases broken"] += 1
    return found


COLUMNS = "call_id, number, is_open, unit, model, serial, complaint, stage, act, result, slips, last_at"
"""What an index row has of its tape alone; how likely its suspect is depends on whether good parts had been
drawn when its newest slip came."""

GOOD = {"entries", "acknowledged", "kills", "tries", "refused with a sentence", "taken"}


def told(title: str, found: Counter[str]) -> int:
    """Print the counts; how many are bad."""
    always = ("lost", "doubled", "half")
    shown = [f"{count:,} {name}" for name, count in found.items() if count or name in always]
    print(f"{title}: {', '.join(shown)}", flush=True)
    return sum(count for name, count in found.items() if name not in GOOD)


def _read_out(folder: Path) -> None:
    """Wait until whoever still reads pages of papers has ended: it is no part of the server."""
    time.sleep(2)  # one that was begun just now
    for place in folder.rglob("reading"):
        with place.open("a") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)


def main() -> int:
    """Run what was asked for."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=None, help="how often to kill it")
    parser.add_argument("--writers", type=int, default=None, help="how many write at once")
    parser.add_argument("--entries", type=int, default=20, help="how many entries each writer writes (20)")
    parser.add_argument("--fuzz", type=int, default=None, help="how many nonsense tries")
    parser.add_argument(
        "--seed", type=int, default=None, help="of chance; printed, so that a run can be repeated"
    )
    options = parser.parse_args()
    if options.kills is options.writers is options.fuzz is None:
        options.kills, options.writers, options.fuzz = 50, 20, 2000
    seed = random.SystemRandom().randrange(10**6) if options.seed is None else options.seed
    print(f"seed {seed}")
    chance, bad = random.Random(seed), 0  # noqa: S311 - no secret
    with tempfile.TemporaryDirectory(prefix="frostline-attack-", ignore_cleanup_errors=True) as folder:
        server = Server(Path(folder))
        server.prepare()
        try:
            if options.writers:
                for calls in (1, options.writers):
                    found = writers(server, options.writers, options.entries, calls=calls)
                    bad += told(f"{options.writers} writers on {calls} call{'s' * (calls > 1)}", found)
            if options.kills:
                server.workers = 1
                bad += told(f"{options.kills} kills", kills(server, options.kills, chance))
            if options.fuzz:
                bad += told(f"{options.fuzz} tries", fuzz(server, options.fuzz, seed))
        finally:
            server.kill()
            _read_out(Path(folder))
    print("nothing lost, doubled, half there or failed at" if not bad else f"{bad} that must not be")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
