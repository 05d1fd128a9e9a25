"""A library of many sheets: processor time of finding one by its model as printed, by a code, by words."""

import copy
import json
import os
import statistics
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
GOAL_MS, ROUNDS = 100.0, 9
MAKERS = ("Aldmoor", "Brackwell", "Cairnlea", "Dunvarra", "Eskholm", "Farrowby", "Glenhask", "Hythorn")
AS_PRINTED = ("BR 417", "br-417/b", "Model BR417X", "BRACKWELL br 417")
"""One model, as plates and papers print it."""

TYPED = (*AS_PRINTED, "Dunvarra", "E5", "F2", "5 blinks", "defrost sensor open", "thermal fuse")


def _fill(folder: Path, sheets: int) -> None:
    """A demo's data with so many sheets: the demo's own under other makers, models and figures."""
    os.environ.update(
        FROSTLINE_DEMO="1", FROSTLINE_DATA=str(folder), DJANGO_SETTINGS_MODULE="frostline.settings"
    )
    import django  # noqa: PLC0415 - settings read the environment

    django.setup()
    from django.core.management import call_command  # noqa: PLC0415
    from django.utils import timezone  # noqa: PLC0415

    folder.mkdir(parents=True, exist_ok=True)
    call_command("migrate", verbosity=0)
    call_command("collectstatic", interactive=False, verbosity=0)
    from frostcore.sheet.load import load  # noqa: PLC0415
    from frostline.accounts.models import User  # noqa: PLC0415
    from frostline.sheets.actions.publish_revision import keep_revision  # noqa: PLC0415
    from frostline.sheets.models import Sheet  # noqa: PLC0415

    if not User.objects.filter(username="demo").exists():
        call_command("load_demo", verbosity=0)
    by = User.objects.get(username="demo")
    demo = [json.loads(path.read_text("utf-8")) for path in sorted((ROOT / "demo/sheets").glob("*.json"))]
    there = Sheet.objects.filter(generic=False).count()
    for number in range(there, sheets):
        document = json.dumps(_varied(demo[number % len(demo)], number))
        keep_revision(document, load(document).sheet, by, timezone.now())


def _varied(document: dict[str, Any], number: int) -> dict[str, Any]:
    """A sheet under another name, with codes of its own."""
    found = copy.deepcopy(document)
    maker = MAKERS[number % len(MAKERS)]
    model = f"{maker[:2].upper()}-{400 + number}"
    found["id"] = f"{maker.lower()}-{400 + number}"
    found["plate"] |= {
        "maker": maker,
        "model": model,
        "models": [f"{model}/B", f"{model[:2]} {400 + number} X"],
    }
    return found


def library(sheets: int) -> int:
    """Print what a search costs on a library of so many sheets."""
    folder = ROOT / "var" / f"library-{sheets}"
    _fill(folder, sheets)
    from django.conf import settings  # noqa: PLC0415
    from django.test import Client  # noqa: PLC0415

    from frostline.accounts.models import User  # noqa: PLC0415

    settings.ALLOWED_HOSTS.append("testserver")
    client = Client()
    client.force_login(User.objects.get(username="demo"))
    print(f"{sheets} sheets\n")
    worst = 0.0
    for address, name in (
        ("/sheets/", "the library"),
        ("/calls/new/", "a call's sheet to choose"),
        *((f"/search/?q={typed.replace(' ', '+')}", f"search “{typed}”") for typed in TYPED),
    ):
        first, *spent = [_milliseconds(client, address) for _ in range(ROUNDS + 1)]
        worst = max(worst, statistics.median(spent))
        print(f"{name:34} {statistics.median(spent):8.1f} ms   (the first time {first:.0f} ms)", flush=True)
    for typed in AS_PRINTED:
        text = client.get("/search/", {"q": typed}).content.decode()
        if "Brackwell BR-417" not in text:
            message = f"“{typed}” does not find the Brackwell BR-417"
            raise RuntimeError(message)
    word = "held" if worst < GOAL_MS else "NOT held"
    print(f"\nslowest, warm: {worst:.0f} ms (goal: under {GOAL_MS:.0f} ms: {word})")
    return 0


def _milliseconds(client: Any, address: str) -> float:
    start = time.process_time()
    answer = client.get(address)
    spent = (time.process_time() - start) * 1e3
    if answer.status_code != 200:
        message = f"{address}: {answer.status_code}"
        raise RuntimeError(message)
    return spent
