"""What the workshop's closed calls teach: counted, shown, turned on and begun anew by a lead.

Off until a lead turns it on. What is known on the day a call is opened goes onto its tape, so that no call's
judgement changes when another is closed.
"""

from collections import Counter
from collections.abc import Iterable
from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from frostcore.diagnosis.experience import STRENGTH, counting
from frostcore.sheet.model import Sheet
from frostcore.tape.entries import Experienced
from frostline.accounts.access import lead_required, signed_in
from frostline.calls.models import CallCause, LearningChoice

MOST = 2000
"""So many of the latest closed calls are counted."""


def choice_now() -> LearningChoice | None:
    """What a lead has said last."""
    return LearningChoice.objects.order_by("-pk").first()


def _causes(choice: LearningChoice, **more: Any) -> Iterable[CallCause]:
    """The causes that count, the latest first."""
    rows = CallCause.objects.filter(closed_at__gte=choice.since, **more).order_by("-closed_at")[:MOST]
    return counting(rows)


def experience_of(sheet: Sheet) -> Experienced | None:
    """What is known today of units of this kind; None where nothing is, or it is not wanted."""
    choice = choice_now()
    if choice is None or not choice.on:
        return None
    counts = Counter(row.kind for row in _causes(choice, archetype=sheet.archetype[:80]))
    return Experienced("experienced", tuple(sorted(counts.items()))) if counts else None


@lead_required
@require_http_methods(["GET", "HEAD", "POST"])
def experience(request: HttpRequest) -> HttpResponse:
    """What was learned, with its numbers; turned on and off, begun anew."""
    choice, now = choice_now(), timezone.now()
    if request.method == "POST":
        do = request.POST.get("do", "")
        if do not in {"on", "off", "anew"}:
            raise Http404
        since = now if do == "anew" or choice is None else choice.since
        if choice is None and do == "on":
            since = now - timedelta(days=3650)
        LearningChoice(on=do != "off", since=since, at=now, by=signed_in(request)).save()
        messages.success(
            request, "New calls are judged by it." if do != "off" else "New calls go without it."
        )
        return redirect("calls:experience")
    counted: Counter[tuple[str, str]] = Counter()
    if choice:
        counted = Counter((row.archetype, row.kind) for row in _causes(choice))
    context = {
        "choice": choice,
        "rows": [
            (archetype, kind.replace("_", " "), count) for (archetype, kind), count in counted.most_common()
        ],
        "strength": int(STRENGTH),
    }
    return render(request, "calls/experience.html", context)
