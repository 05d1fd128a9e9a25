"""What is due: on the front page, as a calendar of one call, as a feed of one person."""

import secrets
import uuid
from collections.abc import Iterable
from datetime import UTC, date, datetime, timedelta

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.db.models import Exists, OuterRef, QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe
from icalendar import Alarm, Calendar, Event

from frostline.accounts.access import signed_in
from frostline.calls.models import CalendarFeed, CallDue, DueDone
from frostline.calls.tapes import call_or_404

SOON = 7
"""Days before it is due that something stands on the front page."""

MOST = 500
SECRET_BYTES = 32


def open_dues() -> QuerySet[CallDue]:
    """Everything that is due and has not been seen to, the earliest first; practice calls owe nothing."""
    done = DueDone.objects.filter(call=OuterRef("call"), kind=OuterRef("kind"), day=OuterRef("day"))
    known = CallDue.objects.select_related("call__customer", "call__index")
    return known.filter(~Exists(done), call__practice=False).order_by("day", "call__number")


def due_soon() -> QuerySet[CallDue]:
    """What stands on the front page."""
    return open_dues().filter(day__lte=timezone.localdate() + timedelta(days=SOON))


@require_POST
def done(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """What was due has been seen to."""
    call = call_or_404(pk)
    try:
        day = date.fromisoformat(request.POST.get("day", ""))
    except ValueError:
        raise Http404 from None
    kind = request.POST.get("kind", "")
    due = get_object_or_404(CallDue, call=call, kind=kind, day=day)
    DueDone.objects.get_or_create(
        call=call, kind=due.kind, day=due.day, defaults={"at": timezone.now(), "by": signed_in(request)}
    )
    messages.success(request, f"Seen to: {due.text}.")
    return redirect("desk:home")


@require_safe
def of_call(request: HttpRequest, pk: uuid.UUID) -> HttpResponse:
    """A call's days as a calendar file, each with an alarm."""
    call = call_or_404(pk)
    return _file(request, open_dues().filter(call=call), f"call-{call.number}.ics")


@require_http_methods(["GET", "HEAD", "POST"])
def mine(request: HttpRequest) -> HttpResponse:
    """A person's own feed: its address, made anew or taken away."""
    user = signed_in(request)
    if request.method == "POST":
        CalendarFeed.objects.filter(user=user).delete()
        if request.POST.get("do") != "revoke":
            CalendarFeed(user=user, secret=secrets.token_urlsafe(SECRET_BYTES), made_at=timezone.now()).save()
            messages.success(request, "Your calendar has a new address; an old one ends.")
        else:
            messages.success(request, "The address is gone; whoever had it reads nothing more.")
        return redirect("calls:feed_mine")
    feed = CalendarFeed.objects.filter(user=user).first()
    address = request.build_absolute_uri(reverse("calls:feed", args=[feed.secret])) if feed else ""
    return render(request, "calls/feed.html", {"feed": feed, "address": address})


@login_not_required
@require_safe
def feed(request: HttpRequest, secret: str) -> HttpResponse:
    """Everything that is due, behind a person's secret address."""
    get_object_or_404(CalendarFeed, secret=secret, user__is_active=True)
    return _file(request, open_dues()[:MOST], "frostline.ics")


def _file(request: HttpRequest, dues: Iterable[CallDue], name: str) -> HttpResponse:
    calendar = Calendar()
    calendar.add("prodid", "-//Frostline//what is due//EN")
    calendar.add("version", "2.0")
    for each in dues:
        calendar.add_component(_event(request, each))
    response = HttpResponse(calendar.to_ical(), content_type="text/calendar; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _event(request: HttpRequest, due: CallDue) -> Event:
    """A day's event, with an alarm in its morning; it names the unit and no customer."""
    event, alarm = Event(), Alarm()
    event.add("uid", f"{due.call_id}-{due.kind}-{due.day.isoformat()}@frostline")
    event.add("dtstamp", datetime.now(UTC))
    event.add("dtstart", due.day)
    event.add("dtend", due.day + timedelta(days=1))
    event.add("summary", f"{due.text}, call {due.call.number}, {due.call.index.unit}")
    event.add("url", request.build_absolute_uri(reverse("calls:call", args=[due.call_id])))
    alarm.add("action", "DISPLAY")
    alarm.add("description", due.text)
    alarm.add("trigger", timedelta(hours=8))
    event.add_component(alarm)
    return event
