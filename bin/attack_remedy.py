"""Nonsense for what is done with what is known: plans, quotes, links, days."""

import json
import uuid
from pathlib import Path
from urllib.parse import quote

PLAN = Path(__file__).resolve().parent.parent / "demo/plans/thermostat-for-board.json"


def worse_plan(tries) -> str:  # noqa: ANN001 - the fuzzer's own
    """A sound plan with one to three things wrong in it, or no plan at all."""
    chance = tries.chance
    if chance.random() < 0.1:
        return tries.odd()
    plan = json.loads(PLAN.read_text(encoding="utf-8"))
    for _ in range(chance.randrange(1, 4)):
        _worsen(tries, plan)
    return json.dumps(plan)


def _worsen(tries, value) -> None:  # noqa: ANN001 - a plain document
    """One thing of a document replaced, left out or said twice."""
    chance = tries.chance
    keys = list(value) if isinstance(value, dict) else list(range(len(value)))
    if not keys:
        return
    key = chance.choice(keys)
    if isinstance(value[key], dict | list) and value[key] and chance.random() < 0.8:
        _worsen(tries, value[key])
    elif chance.random() < 0.3:
        del value[key]
    elif isinstance(value, list) and chance.random() < 0.4:
        value.append(value[key])
    else:
        value[key] = chance.choice((tries.odd(), -1, 1e308, None, [], {}, "CN1.1/wire", "earth", "plug.l"))


def remedy(fuzz):  # noqa: ANN001, ANN201 - (what, answer) as every act of the fuzzer
    """One of them, posted or asked for."""
    chance, odd = fuzz.tries.chance, fuzz.tries.odd
    call, slip = f"/calls/{fuzz.call}", str(uuid.uuid4())
    plan = worse_plan(fuzz.tries)
    posts = (
        (f"{call}/plans/", [("plan", plan)]),
        (
            f"{call}/plans/{quote(odd()[:40], safe='', errors='surrogatepass') or 'x'}/",
            [("plan", plan), ("slip_id", slip), ("agreed_by", odd()), ("until", odd())],
        ),
        (f"{call}/plans/keep/", [("plan", plan), ("slip_id", chance.choice((slip, odd()))), ("from", odd())]),
        (f"{call}/plans/undo/", [("slip_id", chance.choice((slip, odd())))]),
        (
            f"{call}/quote/",
            [
                ("slip_id", slip),
                ("option0-offered", "on"),
                ("option0-title", odd()),
                ("option0-price", odd()),
            ],
        ),
        (f"{call}/quote/answer/", [("slip_id", slip), ("said", odd())]),
        (f"{call}/report/link/", [("days", odd())]),
        (f"{call}/due/done/", [("kind", odd()), ("day", odd())]),
    )
    pages = (
        f"{call}/plans/?part={quote(odd()[:60], errors='surrogatepass')}",
        f"{call}/plans/label/",
        f"{call}/quote.pdf",
        f"{call}/report.pdf",
        f"{call}/report/technician/",
        f"{call}/close/?stop={quote(odd()[:40], errors='surrogatepass')}&hour=1e9",
        f"/calls/shared/{quote(odd()[:60], safe='', errors='surrogatepass') or 'x'}/",
        f"/calls/calendar/{quote(odd()[:60], safe='', errors='surrogatepass') or 'x'}.ics",
        f"{call}/due.ics",
    )
    if chance.random() < 0.3:
        page = chance.choice(pages)
        return f"GET {page}", fuzz.technician.ask("GET", page)
    address, data = chance.choice(posts)
    return f"POST {address} {data}", fuzz.technician.ask("POST", address, data)
