"""``bin/attack`` in small: many writers, a killed server and nonsense, against a server of its own."""

import json
import random
import re
import subprocess
import sys
import tempfile
import unittest
import uuid
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "bin"))

from attack import judged, told  # noqa: E402 -- from bin
from attack_fuzz import Tries, worse_sheet  # noqa: E402
from attack_server import Client, Entry, Server  # noqa: E402


class Attack(unittest.TestCase):
    def run_it(self, *options):
        done = subprocess.run(
            [sys.executable, str(ROOT / "bin/attack.py"), *options],
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        return done.stdout

    def test_two_and_more_people_on_one_call_are_all_recorded(self):
        """Every entry of every writer, and of corrections of one slip one: the others get a sentence."""
        said = self.run_it("--writers", "8", "--entries", "4", "--seed", "1")
        whole = "32 entries, 32 acknowledged, 0 lost, 0 doubled, 0 half\n"
        for calls in ("1 call", "8 calls"):
            self.assertIn(f"8 writers on {calls}: {whole}", said)

    def test_what_was_acknowledged_outlives_a_killed_server(self):
        said = self.run_it("--kills", "3", "--seed", "1")
        entries, acknowledged = re.search(r"3 kills: (\d+) entries, (\d+) acknowledged", said).groups()
        self.assertGreater(int(entries), 0)
        self.assertEqual(entries, acknowledged)
        self.assertIn("0 lost, 0 doubled, 0 half", said)

    def test_nonsense_is_refused_with_a_sentence(self):
        said = self.run_it("--fuzz", "600", "--seed", "1")
        refused, taken = (
            int(re.search(rf"(\d+) {words}", said)[1]) for words in ("refused with a sentence", "taken")
        )
        self.assertGreater(refused, 300)
        self.assertGreater(taken, 60)
        self.assertIn("0 half", said)


class Counting(unittest.TestCase):
    """The attack counts what it is there to count."""

    def test_lost_doubled_half_and_gaps_are_found(self):
        with tempfile.TemporaryDirectory() as folder:
            server = Server(Path(folder))
            server.prepare()
            server.start()
            self.addCleanup(server.kill)
            client = Client(server.port)
            client.enter()
            revision = server.tarnbeck()
            call = client.new_call(revision, "Counted")
            kept = [Entry(call, "kept", reading=False), Entry(call, "", reading=True)]
            for entry in kept:
                entry.send(client)
            server.kill()
            self.assertEqual(self.bad(judged(server, kept, Counter())), {})
            lost = Entry(call, "lost", reading=False, acknowledged=True)
            half = Entry(call, "", reading=True, acknowledged=True)
            self.tamper(server, call, half)
            found = self.bad(judged(server, [*kept, lost, half], Counter()))
        wrong = {"lost": 1, "doubled": 1, "half": 1, "tapes with gaps": 1, "index lines that differ": 1}
        self.assertEqual(found, wrong)
        self.assertEqual(told("counted", Counter(found)), 5)

    def bad(self, found):
        return {name: n for name, n in found.items() if n and name not in {"entries", "acknowledged"}}

    def tamper(self, server, call, half):
        """A slip once more, one of a pair alone, and a position left out."""
        copy = (
            "INSERT INTO calls_slip (id, call_id, position, kind, version, body, at, recorded_at, by_id)"
            " SELECT ?, call_id, position + ?, ?, version, ?, at, recorded_at, by_id FROM calls_slip"
            " WHERE kind = 'noted' AND json_extract(body, '$.text') = 'kept'"
        )
        text = json.dumps({"kind": "noted", "text": "kept"})
        second = copy.replace("kind = 'noted' AND", "position = 2 AND")
        server.rows(copy, uuid.uuid4().hex, 50, "noted", text)
        server.rows(second, uuid.UUID(half.id).hex, 60, "power_set", text)

    def test_a_sheet_made_worse_is_another(self):
        tries = Tries(random.Random(1))
        self.assertGreater(len({worse_sheet(tries) for _ in range(30)}), 25)


if __name__ == "__main__":
    unittest.main()
