"""Keep a file with a call: its bytes under their digest beside the database, an entry on the tape."""

import hashlib
import uuid

from django.db import transaction
from django.utils import timezone

from frostcore.errors import TapeError
from frostcore.tape.entries import Attached
from frostcore.tape.take import Asked
from frostline.accounts.models import User
from frostline.calls.actions.record_slip import NewSlip, Recorded, record_slip
from frostline.calls.models import Attachment, Call
from frostline.ui.stored import store

LARGEST_BYTES = 40_000_000


def keep_attachment(call: Call, slip_id: uuid.UUID, content: bytes, about: Attached, by: User) -> Recorded:
    """Keep a file and say so on the tape; ``about`` is its entry, whose digest and size are the content's.

    The bytes are on the disk before the entry is. Raises TapeError for a file too large.
    """
    if not 0 < len(content) <= LARGEST_BYTES:
        raise TapeError(f"A file of {len(content):,} bytes can’t be kept; {LARGEST_BYTES:,} at most.")
    if about.digest != hashlib.sha256(content).hexdigest() or about.size != len(content):
        raise TapeError("The file changed while it was sent. Choose it again.")
    store(about.digest, content)
    with transaction.atomic():
        if not Attachment.objects.filter(pk=about.digest).exists():
            Attachment(
                digest=about.digest,
                size=about.size,
                media_type=about.media_type,
                kept_at=timezone.now(),
                kept_by=by,
            ).save()
        recorded = record_slip(call, NewSlip(slip_id, about), by)
    if isinstance(recorded, Asked):
        raise TapeError("A file has nothing to be asked about.")
    return recorded


def described(content: bytes, name: str, media_type: str, caption: str = "") -> Attached:
    """The entry of a file."""
    digest = hashlib.sha256(content).hexdigest()
    return Attached("attached", digest, name, media_type, len(content), caption)
