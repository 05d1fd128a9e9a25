"""Keep a call that another installation saved as a bundle: its tape, its sheets, its files."""

import hashlib
import uuid
from collections.abc import Mapping
from dataclasses import dataclass

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from frostcore.circuit.check import check_circuit
from frostcore.circuit.element import CircuitError
from frostcore.errors import CurveError, TapeError
from frostcore.sheet import model as core
from frostcore.sheet.load import digest, load
from frostcore.tape.bundle import Bundle, BundledEntry
from frostcore.tape.entries import Attached, Unreadable
from frostcore.tape.kinds import kind_of
from frostcore.tape.standing import Standing
from frostcore.tape.versions import read_body
from frostline.accounts.models import User
from frostline.calls.actions.keep_attachment import LARGEST_BYTES
from frostline.calls.actions.keep_index import keep_index
from frostline.calls.actions.open_call import FIRST_NUMBER
from frostline.calls.models import Attachment, Call, Customer, Received, Slip
from frostline.calls.tapes import replayed, tape_of
from frostline.sheets.models import Revision, Sheet
from frostline.ui.stored import store

PEOPLE = uuid.UUID("5d0f6f5e-6a55-4f0a-9a3e-0f7a5c1d2b41")
"""The name space of people who wrote elsewhere."""


@dataclass(frozen=True)
class Files:
    """What comes beside a bundle: sheets' documents and kept files, by digest."""

    sheets: Mapping[str, str]
    attachments: Mapping[str, bytes]


@dataclass(frozen=True)
class TakenBundle:
    """The call, and whether this made it (the same bundle again finds it)."""

    call: Call
    created: bool


def take_bundle(bundle: Bundle, files: Files, by: User) -> TakenBundle:
    """The bundle's call with all it brings; nothing of it is kept where anything is wrong.

    Raises TapeError or SheetError, worded for the repairer.
    """
    if (earlier := Call.objects.filter(pk=bundle.id).first()) is not None:
        return _again(earlier, bundle)
    sheets = {name: _sheet(name, text) for name, text in files.sheets.items()}
    attached = _attached(bundle, files.attachments)
    for content in attached.values():
        store(hashlib.sha256(content).hexdigest(), content)
    with transaction.atomic():
        return TakenBundle(_keep(bundle, files, sheets, attached, by), created=True)


def _again(call: Call, bundle: Bundle) -> TakenBundle:
    """The call that is here already; TapeError where its tape is another than the bundle's."""
    here = list(Slip.objects.filter(call=call).order_by("position").values_list("pk", "kind", "body"))
    there = [(uuid.UUID(entry.id), entry.kind, dict(entry.body)) for entry in bundle.entries]
    if here[: len(there)] != there:
        raise TapeError(f"Call {call.number} is here already and says something else; nothing was changed.")
    return TakenBundle(call, created=False)


def _sheet(name: str, text: str) -> core.Sheet:
    """A sheet that came along, checked as one that is published is."""
    if digest(text) != name:
        raise TapeError("A sheet in the bundle is not the one its name says. Save the bundle again.")
    sheet = load(text).sheet
    check_circuit(sheet)
    return sheet


def _attached(bundle: Bundle, contents: Mapping[str, bytes]) -> dict[Attached, bytes]:
    """The files that entries name, each just as it was kept."""
    found = {}
    for number, entry in enumerate(bundle.entries, 1):
        body = read_body(entry.kind, entry.version, entry.body)
        if not isinstance(body, Attached):
            continue
        content = contents.get(body.digest, b"")
        if not 0 < len(content) <= LARGEST_BYTES or hashlib.sha256(content).hexdigest() != body.digest:
            raise TapeError(f"The file of entry {number}, “{body.name[:60]}”, is missing or was changed.")
        found[body] = content
    return found


def _keep(
    bundle: Bundle,
    files: Files,
    sheets: Mapping[str, core.Sheet],
    attached: Mapping[Attached, bytes],
    by: User,
) -> Call:
    now = timezone.now()
    for name, sheet in sheets.items():
        _revision(name, files.sheets[name], sheet, by)
    revision = Revision.objects.filter(digest=bundle.sheet).order_by("pk").first()
    if revision is None:
        raise TapeError("The sheet the call was begun with is not in the bundle.")
    if Slip.objects.filter(pk__in=[entry.id for entry in bundle.entries]).exists():
        raise TapeError("Entries of the bundle stand on another call here; nothing was kept.")
    people = {name: _person(name) for name in {bundle.opened_by, *(entry.by for entry in bundle.entries)}}
    last = Call.objects.aggregate(last=Max("number"))["last"]
    call = Call(
        id=uuid.UUID(bundle.id),
        number=last + 1 if last else FIRST_NUMBER,
        revision=revision,
        customer=_customer(bundle),
        practice=bundle.practice,
        opened_at=bundle.opened_at,
        opened_by=people[bundle.opened_by],
    )
    call.save()
    for position, entry in enumerate(bundle.entries, 1):
        _slip(call, position, entry, people[entry.by])
    for body in attached:
        if not Attachment.objects.filter(pk=body.digest).exists():
            Attachment(
                digest=body.digest, size=body.size, media_type=body.media_type, kept_at=now, kept_by=by
            ).save()
    Received(
        call=call,
        number_there=bundle.number,
        made_at=bundle.made_at,
        act=bundle.act,
        suspects=[vars(each) for each in bundle.suspects],
        taken_at=now,
        taken_by=by,
    ).save()
    standing = replayed(call, tape_of(call))
    _check(standing)
    keep_index(call, standing)
    return call


def _check(standing: Standing) -> None:
    """Raise TapeError where an entry names what its sheet has not."""
    for number, slip in enumerate(standing.slips, 1):
        if isinstance(slip.entry.body, Unreadable):
            continue
        try:
            kind_of(slip.entry.body).check(slip.moment, slip.entry.body)
        except (TapeError, CurveError, CircuitError, KeyError) as error:
            raise TapeError(f"Entry {number} does not fit the call’s sheet: {error}") from None


def _customer(bundle: Bundle) -> Customer:
    """Somebody of their own: a name that is the same elsewhere proves nothing."""
    return Customer.objects.create(
        name=bundle.whose.name, address=bundle.whose.address, phone=bundle.whose.phone
    )


def _slip(call: Call, position: int, entry: BundledEntry, by: User) -> None:
    Slip(
        id=uuid.UUID(entry.id),
        call=call,
        position=position,
        kind=entry.kind,
        version=entry.version,
        body=dict(entry.body),
        at=entry.at,
        recorded_at=entry.recorded_at,
        by=by,
        supersedes_id=uuid.UUID(entry.supersedes) if entry.supersedes else None,
    ).save()


def _person(name: str) -> User:
    """Who wrote elsewhere, under the name there: nobody who may sign in here."""
    key = f"elsewhere-{uuid.uuid5(PEOPLE, name).hex[:16]}"
    found, created = User.objects.get_or_create(
        username=key, defaults={"first_name": name[:150], "is_active": False}
    )
    if created:
        found.set_unusable_password()
        found.save()
    return found


def _revision(name: str, document: str, content: core.Sheet, by: User) -> None:
    """Keep a sheet that isn't here for the call alone: it is no sheet's newest revision."""
    if Revision.objects.filter(digest=name).exists():
        return
    known = Sheet.objects.filter(slug=content.id).first()
    if known and known.maker.casefold() != content.plate.maker[:80].casefold():
        slug = f"{content.id[:50]}-{name[:8]}"
    else:
        slug = content.id
    sheet, _ = Sheet.objects.get_or_create(
        slug=slug,
        defaults={
            "maker": content.plate.maker[:80],
            "model": content.plate.model[:80],
            "appliance": content.plate.appliance[:120],
            "generic": content.generic,
        },
    )
    Revision(
        sheet=sheet,
        number=(sheet.revisions.aggregate(last=Max("number"))["last"] or 0) + 1,
        document=document,
        digest=name,
        note="came with a call",
        created_at=timezone.now(),
        created_by=by,
    ).save()
