"""Keeping a good board's readings as the reference of its type."""

from django.utils import timezone

from frostcore.bench.known_good import to_keep
from frostcore.bench.supplies import mains_of, supply_of
from frostcore.errors import FrostError
from frostline.accounts.models import User
from frostline.bench.forms import KeepForm
from frostline.bench.models import KnownGood
from frostline.bench.tables import judgement_now


def key_of(sheet: str, board: str, kind: str, mains: float) -> str:
    """Which boards are of one type as far as their supply goes: a sheet's board, or a kind on such mains."""
    return f"{kind} {mains_of(mains):.0f} V" if kind else f"{sheet} {board}"


def keep(form: KeepForm, by: User) -> KnownGood:
    """Keep what a form says; FrostError where that is no good board's, or too little."""
    if not form.is_valid():
        raise FrostError(form.trouble)
    data = form.cleaned_data
    mains = data["mains"].number
    supply = supply_of(form.sheet, data["board"], data["kind"], mains)
    begun = judgement_now(supply, mains, esr=data["esr"])
    kept = to_keep(begun, form.readings)
    return KnownGood.objects.create(
        name=data["name"],
        supply=key_of(form.data.get("sheet", ""), data["board"], data["kind"], mains),
        mains=mains,
        readings=[[each.probe, each.value] for each in kept],
        at=timezone.now(),
        by=by,
    )
