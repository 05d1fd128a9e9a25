"""README's section for a workshop, walked as it is written: its commands, its settings, its proxy."""

import json
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import uuid
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
sys.path.insert(0, str(ROOT / "bin"))

from attack_server import Client  # noqa: E402 -- a client as a browser is one

HOST, PASSWORD = "frostline.example", "deep-water-9"


def commands():
    """The commands of the section, in order."""
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    section = re.search(r"## Run it for a workshop\n(.*?)(\n## |\Z)", readme, re.DOTALL)[1]
    blocks = re.findall(r"```\n(.*?)```", section, re.DOTALL)
    return [line for block in blocks for line in block.splitlines()]


class Workshop(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.export, self.add_lead, self.serve, self.backup, self.restore = commands()
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        bare = {name: value for name, value in os.environ.items() if not name.startswith("FROSTLINE_")}
        self.environment = {**bare, "FROSTLINE_LEAD_PASSWORD": PASSWORD}
        self.server = None
        self.addCleanup(self.stop)

    def script(self, line):
        """A line after the section's own settings, in the folder of a workshop."""
        settings = self.export.replace("/srv/frostline", str(self.folder / "data"))
        line = line.replace("NAME", "iver").replace("8000", str(self.port))
        return f"{settings}\n{line.replace('frostline-backup.tar', str(self.folder / 'backup.tar'))}"

    def run_it(self, line):
        return subprocess.run(
            ["bash", "-c", self.script(line)],
            cwd=ROOT,
            env=self.environment,
            capture_output=True,
            text=True,
            check=False,
        )

    def start(self):
        self.log = (self.folder / "log").open("ab")
        self.server = subprocess.Popen(
            ["bash", "-c", self.script(self.serve)],
            cwd=ROOT,
            env=self.environment,
            stdout=self.log,
            stderr=self.log,
            start_new_session=True,
        )
        for _ in range(600):
            try:
                answer = Client(self.port, headers={"Host": HOST}).ask("GET", "/health/")
            except OSError:
                time.sleep(0.1)
            else:
                self.assertTrue(json.loads(answer.body)["ok"])
                return
        self.fail((self.folder / "log").read_text())

    def stop(self):
        if self.server:
            os.killpg(self.server.pid, signal.SIGTERM)
            self.server.wait(20)
            self.server = None
            self.log.close()

    def browser(self):
        """A browser behind the proxy: HTTPS to the world, its address told."""
        told = {"X-Forwarded-Proto": "https", "X-Forwarded-For": "203.0.113.9"}
        return Client(self.port, headers={"Host": HOST, "Referer": f"https://{HOST}/", **told})

    def test_from_an_empty_folder_to_a_call_and_back_from_a_backup(self):
        done = self.run_it(self.add_lead)
        self.assertIn("iver is a lead", done.stdout, done.stderr)
        self.start()
        lead = self.browser()
        lead.sign_in("iver", PASSWORD)
        person = {"username": "maren", "role": "technician", "is_active": "on", "password": "cold-hands-7"}
        self.assertEqual(lead.ask("POST", "/people/new/", person).status, 302)
        sheet = (ROOT / "demo/sheets/tarnbeck-tb-34.json").read_text(encoding="utf-8")
        self.assertEqual(lead.ask("POST", "/sheets/publish/", {"document": sheet}).status, 302)
        technician = self.browser()
        technician.sign_in("maren", "cold-hands-7")
        revision = re.search(r'<option value="(\d+)"', technician.ask("GET", "/calls/new/").body)[1]
        call = technician.new_call(int(revision), "Mrs Aud Fennel")
        page = technician.ask("GET", f"/calls/{call}/look/")
        self.assertIn("Mrs Aud Fennel", page.body)

        done = self.run_it(self.backup)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("stop it first", self.run_it(self.restore).stderr)
        note = {"kind": "noted", "slip_id": str(uuid.uuid4()), "text": "after the backup"}
        self.assertEqual(technician.ask("POST", f"/calls/{call}/close/", note).status, 302)
        self.stop()
        done = self.run_it(self.restore)
        self.assertIn("Restored 1 customers, 1 calls, 1 slips", done.stdout, done.stderr)
        self.start()
        page = technician.ask("GET", f"/calls/{call}/close/")
        self.assertEqual(page.status, 200)
        self.assertNotIn("after the backup", page.body)
        self.stop()
        lines = [
            json.loads(line) for line in (self.folder / "log").read_text().splitlines() if line[0] == "{"
        ]
        self.assertIn("203.0.113.9", {line.get("client") for line in lines})
        self.assertNotIn("Aud Fennel", json.dumps(lines))

    def test_over_plain_http_nobody_gets_in_and_no_other_host_is_served(self):
        self.run_it(self.add_lead)
        self.start()
        plain = Client(self.port, headers={"Host": HOST})
        self.assertEqual(plain.ask("GET", "/people/sign-in/").status, 301)
        self.assertEqual(
            Client(self.port, headers={"Host": "other.example"}).ask("GET", "/health/").status, 400
        )

    def test_what_is_wrong_is_told_in_a_line(self):
        for line, words in (
            ("FROSTLINE_ALLOWED_HOSTS='*' bin/serve --port 8000", "FROSTLINE_ALLOWED_HOSTS is “*”"),
            ("FROSTLINE_DEMO=1 bin/serve --port 8000", "lets anyone in"),
            ("bin/serve --port x", "is not a port"),
            ("bin/serve --workers 0", "no number of workers"),
            ("bin/serve --colour", "is not understood"),
            ("FROSTLINE_LEAD_PASSWORD=short bin/serve --add-lead NAME", "too short"),
        ):
            done = self.run_it(line)
            self.assertNotEqual(done.returncode, 0, line)
            self.assertIn(words, done.stderr)
            self.assertNotIn("Traceback", done.stderr)

    def test_every_setting_has_its_line(self):
        readme = (ROOT / "README.md").read_text(encoding="utf-8")
        read = (ROOT / "frostline/server/environment.py").read_text(encoding="utf-8")
        for name in set(re.findall(r"FROSTLINE_[A-Z_]+", read)) - {"FROSTLINE_DEMO"}:
            self.assertIn(f"`{name}`", readme)

    def test_the_licences_told_are_those_of_what_is_served(self):
        pins = (ROOT / "requirements/base.txt").read_text(encoding="utf-8")
        pinned = re.findall(r"^([A-Za-z0-9_.-]+)==(\S+)", pins, re.MULTILINE)
        told = (ROOT / "docs/licences.md").read_text(encoding="utf-8")
        for name, version in pinned:
            self.assertRegex(told, rf"\| {re.escape(name)} \| {re.escape(version)} \| \w")
        self.assertNotIn("not stated", told)


if __name__ == "__main__":
    unittest.main()
