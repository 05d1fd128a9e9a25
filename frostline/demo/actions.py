"""Load the invented workshop: its people, its sheets, its calls of the last weeks, relative to now."""

import json
import uuid
from datetime import datetime, time, timedelta
from pathlib import Path
from typing import Any, cast

from django.db import transaction
from django.utils import timezone

from frostcore import document
from frostcore.circuit.meter import MeterRange
from frostcore.parts.drawer import read_drawer, write_drawer
from frostcore.quantity import Dimension, parse
from frostcore.tape.entries import Body, CallTaken, body_from_document
from frostcore.tape.take import Answers, Asked
from frostline.accounts.models import User
from frostline.bench.models import KnownGood
from frostline.calls.actions.open_call import NewCall, Who, open_call
from frostline.calls.actions.record_slip import NewSlip, record_slip
from frostline.calls.models import DrawerList
from frostline.sheets.actions.publish_revision import publish_revision

GOOD_FIELDS = ("name", "supply", "mains", "readings")
QUANTITIES = {"temperature": Dimension.TEMPERATURE}
DEMO_MARK = "demo-data"
"""The file that says a data folder holds nothing but invented data."""

DEMO_IDS = uuid.UUID("5e1c1e00-0000-4000-8000-000000000000")


@transaction.atomic
def load_demo(folder: Path, now: datetime | None = None, passwords: dict[str, str] | None = None) -> bool:
    """Load ``folder`` (sheets/*.json and scenario.json) into an empty database.

    False when there is something already.
    """
    if User.objects.exists():
        return False
    now = now or timezone.now()
    scenario = json.loads((folder / "scenario.json").read_text(encoding="utf-8"))
    people = {}
    for person in scenario["people"]:
        user = User(**person)
        if password := (passwords or {}).get(user.username):
            user.set_password(password)
        else:
            user.set_unusable_password()
        user.save()
        people[user.username] = user
    lead = next(user for user in people.values() if user.is_lead)
    published = now - timedelta(days=40)
    revisions = {
        path.stem: publish_revision(path.read_text(encoding="utf-8"), lead, published).revision
        for path in sorted((folder / "sheets").glob("*.json"))
    }
    drawer = folder / "bench/drawer.csv"
    if drawer.exists():
        parts = read_drawer(drawer.read_text(encoding="utf-8"))
        DrawerList(text=write_drawer(parts), at=published, by=lead).save()
    for good in scenario.get("good_boards", ()):
        KnownGood(at=published, by=people[good["by"]], **{name: good[name] for name in GOOD_FIELDS}).save()
    for index, call in enumerate(sorted(scenario["calls"], key=lambda call: (-call["days_ago"], call["at"]))):
        _load_call(index, call, revisions[call["sheet"]], people[call["by"]], now)
    return True


def _load_call(index: int, call: dict[str, Any], revision: Any, by: User, now: datetime) -> None:
    day = timezone.localtime(now).date() - timedelta(days=call["days_ago"])
    start = timezone.make_aware(datetime.combine(day, time.fromisoformat(call["at"])))
    if call["days_ago"] == 0:
        # Today's calls lie before now, at whatever hour the demo is loaded.
        last = max(slip.get("minutes", 0) for slip in call["slips"])
        start = min(start, now - timedelta(minutes=last + 5))
    first, *others = call["slips"]
    who = Who(call["customer"], call.get("address", ""), call.get("phone", ""))
    taken = cast(CallTaken, body_of(first))
    opened = open_call(NewCall(uuid.uuid5(DEMO_IDS, f"call {index}"), revision, who, taken), by, start)
    for number, slip in enumerate(others):
        at = start + timedelta(minutes=slip["minutes"])
        answers = Answers(kept=tuple(slip.get("answered", ())))
        new = NewSlip(uuid.uuid5(opened.pk, f"slip {number}"), body_of(slip), answers, made_at=at)
        match record_slip(opened, new, by, now=at):
            case Asked() as asked:
                raise RuntimeError(f"call {index}, slip {number}: {asked}")


def body_of(slip: dict[str, Any]) -> Body:
    """A body from a scenario's slip, in which quantities stand as a repairer would type them."""
    data = {key: value for key, value in slip.items() if key not in {"minutes", "answered"}}
    if data["kind"] == "reading":
        data["value"] = document.write(parse(data["value"], MeterRange(data["meter"]).dimension))
    for name, dimension in QUANTITIES.items():
        if name in data:
            data[name] = document.write(parse(data[name], dimension))
    return body_from_document(data)
