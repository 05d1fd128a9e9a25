"""The front page: what is open, and what to start."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from frostcore.guide import next_step
from frostline.calls.models import calls_with_tapes

MOST_CLOSED = 5


@require_safe
def home(request: HttpRequest) -> HttpResponse:
    """Open calls with their next steps, and the last closed ones."""
    rows = [{"call": call, "standing": standing, "step": next_step(standing)} for call in calls_with_tapes() for standing in (call.standing(),)]
    closed = [row for row in rows if row["standing"].outcome]
    return render(request, "desk/home.html", {"open_rows": [row for row in rows if not row["standing"].outcome], "closed_rows": closed[:MOST_CLOSED]})
