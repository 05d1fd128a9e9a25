"""A server of its own on a folder of its own, and clients that write to it as browsers do."""

import http.client
import os
import re
import signal
import socket
import sqlite3
import subprocess
import sys
import time
import uuid
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlencode

ROOT = Path(__file__).resolve().parent.parent
SECONDS = 20.0
PROCESSOR = "X-Attack-Processor-Seconds"
"""The header that tells the answering thread's own processor time."""


class Server:
    """gunicorn on loopback, in a process group of its own, so that one signal ends all of it at once."""

    def __init__(self, folder: Path, workers: int = 2) -> None:
        self.folder, self.workers = folder, workers
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.process: subprocess.Popen[bytes] | None = None
        self.environment = {
            **os.environ,
            "FROSTLINE_DEMO": "1",
            "FROSTLINE_DATA": str(folder),
            "OPENBLAS_NUM_THREADS": "1",
        }
        self.log = folder / "server.log"

    def manage(self, *command: str) -> str:
        """A management command on the folder; its output."""
        done = subprocess.run(
            (sys.executable, "manage.py", *command),
            cwd=ROOT,
            env=self.environment,
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout

    def prepare(self) -> None:
        """The database with the demo's data, and the static files."""
        self.manage("migrate", "--verbosity", "0")
        self.manage("load_demo", "--lead-password", LEAD_PASSWORD)
        self.manage("collectstatic", "--noinput", "--verbosity", "0")

    def start(self) -> None:
        """Start, and wait until it answers."""
        command = (sys.executable, "-m", "gunicorn", "attack_wsgi", "--bind", f"127.0.0.1:{self.port}")
        where = ("--chdir", str(ROOT), "--pythonpath", str(ROOT / "bin"))
        options = ("--workers", str(self.workers), "--config", "python:frostline.server.gunicorn", *where)
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                (*command, *options),
                cwd=ROOT,
                env=self.environment,
                stdout=log,
                stderr=log,
                start_new_session=True,
            )
        until = time.monotonic() + SECONDS
        while time.monotonic() < until:
            try:
                # Not only listening: a worker has begun to answer.
                Client(self.port).ask("GET", "/people/sign-in/")
            except (OSError, http.client.HTTPException):
                time.sleep(0.02)
            else:
                return
        message = f"The server does not answer; its log is {self.log}"
        raise RuntimeError(message)

    def kill(self) -> None:
        """End every process of it at once, with no chance to tidy up."""
        if self.process:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None

    def rows(self, sql: str, *values: object) -> list[tuple[object, ...]]:
        """Rows of its database, read beside it."""
        with sqlite3.connect(self.folder / "frostline.sqlite3") as database:
            return database.execute(sql, values).fetchall()

    def tarnbeck(self) -> int:
        """The revision that calls are taken on."""
        found = self.rows("SELECT newest_id FROM sheets_sheet WHERE slug = 'tarnbeck-tb-34'")[0][0]
        return int(str(found))


LEAD_PASSWORD = "cold-cellar-41"  # noqa: S105 - of a folder that is thrown away


@dataclass
class Answer:
    """What came back."""

    status: int
    body: str
    location: str = ""
    processor_seconds: float = 0.0


@dataclass
class Client:
    """A browser's session: cookies, the token of forms."""

    port: int
    cookies: dict[str, str] = field(default_factory=dict)
    headers: dict[str, str] = field(default_factory=dict)

    def ask(
        self,
        method: str,
        address: str,
        data: dict[str, str] | list[tuple[str, str]] | bytes | None = None,
        kind: str = "application/x-www-form-urlencoded",
    ) -> Answer:
        """One request; raises OSError or HTTPException when nothing comes back."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=SECONDS)
        cookies = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        headers = {**self.headers, "Cookie": cookies}
        body = data if isinstance(data, bytes) else None
        if data is not None and body is None:
            pairs = list(data.items()) if isinstance(data, dict) else data
            pairs = [*pairs, ("csrfmiddlewaretoken", self.cookies.get("csrftoken", ""))]
            body = urlencode(pairs, errors="surrogatepass").encode()
        if body is not None:
            headers["Content-Type"] = kind
            headers["X-CSRFToken"] = self.cookies.get("csrftoken", "")
        try:
            connection.request(method, address, body, headers)
            response = connection.getresponse()
            text = response.read().decode("utf-8", "replace")
        finally:
            connection.close()
        for name, value in response.getheaders():
            if name.lower() == "set-cookie" and (found := re.match(r"([^=]+)=([^;]*)", value)):
                self.cookies[found[1]] = found[2]
        took = float(response.getheader(PROCESSOR) or "nan")
        return Answer(response.status, text, response.getheader("Location", ""), took)

    def enter(self) -> None:
        """Enter the demo as its technician."""
        self.ask("GET", "/people/sign-in/")
        answer = self.ask("POST", "/people/demo/", {})
        if answer.status != 302:
            message = f"The demo can't be entered: {answer.status}"
            raise RuntimeError(message)

    def sign_in(self, name: str, password: str) -> None:
        """Sign in by name and password."""
        self.ask("GET", "/people/sign-in/")
        answer = self.ask("POST", "/people/sign-in/", {"username": name, "password": password})
        if answer.status != 302:
            message = f"{name} can't sign in: {answer.status}"
            raise RuntimeError(message)

    def new_call(self, revision: int, words: str) -> str:
        """Take a call; its id."""
        fields = {"slip_id": str(uuid.uuid4()), "revision": str(revision), "customer": words}
        answer = self.ask("POST", "/calls/new/", {**fields, "complaint": "attacked"})
        if answer.status != 302:
            message = f"No call can be taken: {answer.status}"
            raise RuntimeError(message)
        return answer.location.split("/")[2]


@dataclass
class Entry:
    """One entry a client wants on a tape. A reading comes with the power state it was told with: two slips,
    of which there must never be one."""

    call: str
    text: str
    reading: bool
    id: str = field(default_factory=lambda: str(uuid.uuid4()))
    acknowledged: bool = False

    @property
    def first_id(self) -> str:
        """The id of the slip that goes before it."""
        return str(uuid.uuid5(uuid.UUID(self.id), "before 0"))

    def send(self, client: Client) -> Answer:
        """Send it; the same entry again is the same entry."""
        if self.reading:
            points = {"kind": "reading", "meter": "ohm", "red": "CN2.5", "black": "CN2.6", "value": "247"}
            told = {"mode": "off_cold", "pulled": "", "set_power": "unplugged", "kept": ""}
            data = {**points, **told, "slip_id": self.id}
            answer = client.ask("POST", f"/calls/{self.call}/trace/?function=defrost_heater", data)
        else:
            data = {"kind": "noted", "slip_id": self.id, "text": self.text}
            answer = client.ask("POST", f"/calls/{self.call}/close/", data)
        self.acknowledged = answer.status == 302 and "sign-in" not in answer.location
        return answer
