"""Nonsense where papers and files come in: drafts, pastes, spreadsheets, rating plates, calls' files."""

import io
import json
import re
import uuid
import zipfile
from collections.abc import Callable
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from attack_server import Answer, Client
from PIL import Image, ImageDraw

if TYPE_CHECKING:
    from attack_fuzz import Tries

SECTIONS = ("plate", "codes", "sensors", "plugs", "modes", "stated", "parts", "places", "x")
COLUMNS = ("value", "code", "meaning", "celsius", "ohms", "sensor", "plug", "pin", "colour", "goes_to", "is")
TABLES = (
    "Code\tMeaning\nE1\tfan", "°C\tkΩ\n0\t16.3\n25\t5", "CN2\t1\tBK\tL\tMains", "PIN;WIRE\n1;RD", "a|b\n1|2",
    "TEMP (°F)\tR (Ω)\n32\t16330", "CONNECTOR\tPIN\tWIRE\tLABEL\tGOES TO\nCN1\t1\tBK\tL\tCompressor",
)  # fmt: skip


class Papers:
    """One client's tries at papers: a draft of its own."""

    def __init__(self, tries: "Tries", technician: Client, lead: Client, call: str) -> None:
        self.tries, self.technician, self.lead, self.call = tries, technician, lead, call
        self.draft = ""

    def go(self) -> tuple[str, Answer]:
        """One try."""
        acts: tuple[tuple[int, Callable[[], tuple[str, Answer]]], ...] = (
            (2, self.edit),
            (2, self.paste),
            (1, self.look),
            (1, self.plate),
            (1, self.kind),
            (2, self.file),
            (1, self.page),
            (1, self.narrow),
        )
        if not self.draft:
            return self.begin()
        return self.tries.chance.choices([act for _, act in acts], [weight for weight, _ in acts])[0]()

    def begin(self) -> tuple[str, Answer]:
        """A draft from one of the kinds."""
        page = self.technician.ask("GET", "/sheets/drafts/").body
        chosen = self.tries.chance.choice(re.findall(r'<option value="(\d+)"', page))
        answer = self.technician.ask("POST", "/sheets/drafts/", [("revision", chosen)])
        self.draft = answer.location
        return "begin a draft", answer

    def edit(self) -> tuple[str, Answer]:
        """Cells, rows and whole tables, some as they should be."""
        chance, odd = self.tries.chance, self.tries.odd
        section = chance.choice(SECTIONS)
        edit: dict[str, Any] = {
            "id": str(uuid.uuid4()) if chance.random() < 0.9 else odd(),
            "op": chance.choice(("cell", "insert", "remove", "rows", odd())),
            "section": section,
            "row": chance.choice(("r1", "r2", odd())),
            "column": chance.choice((*COLUMNS, odd())),
            "text": odd()[:300],
            "seen": "",
            "rows": chance.choice(
                (7, [odd()], [{chance.choice(COLUMNS): odd() for _ in range(4)} for _ in range(5)])
            ),
        }
        if chance.random() < 0.1:
            edit[chance.choice(list(edit))] = chance.choice((None, [], {}, 1e308, "\ud800", "[" * 3000))
        body = json.dumps({"edits": [edit]} if chance.random() < 0.95 else [edit]).encode()
        address = f"{self.draft}edit/?section={quote(section)}"
        return f"POST edit {body[:200]!r}", self.technician.ask("POST", address, body, "application/json")

    def paste(self) -> tuple[str, Answer]:
        """A table, likely or odd, taken at times."""
        chance = self.tries.chance
        text = chance.choice(TABLES) if chance.random() < 0.5 else self.tries.odd()
        if chance.random() < 0.3:
            text += "\n" + self.tries.odd() + "\t" + self.tries.odd()
        data = [("section", chance.choice(SECTIONS)), ("text", text)]
        data += [("take", "1")] if chance.random() < 0.4 else []
        data += [("ask-scale", self.tries.odd())] if chance.random() < 0.3 else []
        data += (
            [("ask-degrees", chance.choice(("C", "F", self.tries.odd())))] if chance.random() < 0.3 else []
        )
        return f"POST paste {data}", self.technician.ask("POST", f"{self.draft}paste/", data)

    def look(self) -> tuple[str, Answer]:
        """Pages of the draft as it has become, and of comparisons."""
        odd = quote(self.tries.odd()[:200], errors="surrogatepass")
        pages = (
            *(f"{self.draft}?section={name}" for name in SECTIONS),
            f"{self.draft}?section={odd}",
            f"{self.draft}side/",
            f"{self.draft}rows/?section=plugs&seen={odd}",
            f"/sheets/tarnbeck-tb-34/compare/?from={odd}&to=1",
            f"/calls/{self.call}/sheet/?to={odd}",
        )
        page = self.tries.chance.choice(pages)
        return f"GET {page}", self.technician.ask("GET", page)

    def plate(self) -> tuple[str, Answer]:
        """A rating plate's text, understood as it is typed."""
        text = " ".join(self.tries.odd() for _ in range(3))[:1500]
        address = f"/calls/new/plate/?plate={quote(text, errors='surrogatepass')}"
        return f"GET {address}", self.technician.ask("GET", address)

    def kind(self) -> tuple[str, Answer]:
        """A call on a kind of unit."""
        odd = self.tries.odd
        page = self.technician.ask("GET", "/calls/new/kind/").body
        kinds = re.findall(r'name="revision" value="(\d+)"', page)
        chosen = self.tries.chance.choice([*kinds, odd()])
        data = [("slip_id", str(uuid.uuid4())), ("revision", chosen), ("plate", odd()), ("complaint", odd())]
        answer = self.technician.ask("POST", "/calls/new/kind/", data)
        if answer.status == 302:
            address = f"/calls/{answer.location.split('/')[2]}/call/"
            return f"GET {address} after {data}", self.technician.ask("GET", address)
        return f"POST kind {data}", answer

    def file(self) -> tuple[str, Answer]:
        """A file that is none: a spreadsheet, a call's, many sheets'."""
        chance = self.tries.chance
        name = chance.choice(("call.json", "sheets/x.json", "xl/workbook.xml", "a.json", "../../x.json"))
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr(name, self.content().encode("utf-8", "surrogatepass"))
        data = bytearray(out.getvalue())
        if chance.random() < 0.5:
            for _ in range(chance.randrange(1, 20)):
                data[chance.randrange(len(data))] = chance.randrange(256)
        who, field, address = chance.choice(
            (
                (self.technician, "file", "/calls/bundle/"),
                (self.lead, "files", "/sheets/publish/many/"),
                (self.technician, "file", f"{self.draft}paste/"),
            )
        )
        return f"POST a file to {address} ({name})", send(who, address, field, bytes(data))

    def page(self) -> tuple[str, Answer]:
        """A page of the paper, mostly a damaged one, and corners of no table on it."""
        chance = self.tries.chance
        shown = self.technician.ask("GET", self.draft).body
        pages = re.findall(r'data-paper-page="([^"]+)"', shown)
        if not pages or chance.random() < 0.3:
            data = bytearray(tiny_picture(chance.randrange(8, 200), chance.randrange(8, 200)))
            for _ in range(chance.choice((0, 1, 5, 60))):
                data[chance.randrange(len(data))] = chance.randrange(256)
            if chance.random() < 0.1:
                data[:5] = b"%PDF-"
            return "POST a page", send(self.technician, f"{self.draft}pages/", "pages", bytes(data))
        one = f"/sheets/pages/{chance.choice(pages)}/"
        corners = [
            [chance.uniform(-80, 250), chance.uniform(-80, 250)] for _ in range(chance.choice((3, 4, 4)))
        ]
        told = chance.choice((json.dumps(corners), self.tries.odd()))
        act, data = chance.choice(
            (
                ("table/", [("section", chance.choice(SECTIONS)), ("corners", told)]),
                ("turn/", [("way", chance.choice(("left", "right", self.tries.odd())))]),
                ("remove/", []),
            )
        )
        answer = self.technician.ask("POST", f"{one}{act}", data)
        if "/readings/" in answer.location:
            odd = [(f"c-{chance.randrange(3)}-0", self.tries.odd()), ("compared-0", "1")]
            return f"POST a reading {odd}", self.technician.ask("POST", answer.location, odd)
        return f"POST {act} {data}", answer

    def narrow(self) -> tuple[str, Answer]:
        """What is seen of a unit, whatever it is."""
        odd = quote(self.tries.odd()[:100], errors="surrogatepass")
        address = f"/calls/{self.call}/sheet/?inverter={odd}&damper=yes&second_coil=no&{odd}=yes"
        return f"GET {address}", self.technician.ask("GET", address)

    def content(self) -> str:
        """A text that is nearly a call, a sheet, or nothing."""
        chance = self.tries.chance
        if chance.random() < 0.4:
            return self.tries.odd()
        at = "2026-03-02T09:15:00+00:00"
        entry = {
            "id": str(uuid.uuid4()),
            "kind": "noted",
            "version": 1,
            "by": "x",
            "at": at,
            "recorded_at": at,
        }
        told: dict[str, Any] = {
            "format": "frostline-call-1",
            "id": str(uuid.uuid4()),
            "number": 7,
            "sheet": "a" * 64,
            "opened_at": at,
            "opened_by": "x",
            "made_at": at,
            "entries": [entry | {"body": {"kind": "noted", "text": self.tries.odd()}}],
        }
        told[chance.choice(list(told))] = chance.choice((None, 1e308, [], {}, self.tries.odd(), [[]] * 3))
        return json.dumps(told)


def tiny_picture(wide: int, high: int) -> bytes:
    """A picture of a few strokes."""
    made = Image.new("L", (wide, high), 240)
    ImageDraw.Draw(made).rectangle((4, 4, wide - 5, high - 5), outline=10)
    out = io.BytesIO()
    made.save(out, "JPEG")
    return out.getvalue()


def send(client: Client, address: str, field: str, content: bytes) -> Answer:
    """A file, as a browser sends one."""
    mark = uuid.uuid4().hex
    token = client.cookies.get("csrftoken", "")
    parts = {"csrfmiddlewaretoken": token, "section": "codes"}
    body = "".join(
        f'--{mark}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'
        for name, value in parts.items()
    )
    body += (
        f'--{mark}\r\nContent-Disposition: form-data; name="{field}"; filename="a.zip"\r\n'
        "Content-Type: application/zip\r\n\r\n"
    )
    whole = body.encode() + content + f"\r\n--{mark}--\r\n".encode()
    return client.ask("POST", address, whole, f"multipart/form-data; boundary={mark}")
