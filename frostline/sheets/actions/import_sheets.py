"""Publish many sheets at once, each by itself, and say what became of each."""

from collections.abc import Iterable
from dataclasses import dataclass

from frostcore.errors import SheetError
from frostline.accounts.models import User
from frostline.sheets.actions.publish_revision import publish_revision
from frostline.sheets.models import Revision


@dataclass(frozen=True)
class Imported:
    """What became of one file: its revision (new, or the same as the newest), or why there is none."""

    name: str
    revision: Revision | None = None
    created: bool = False
    problems: tuple[object, ...] = ()

    @property
    def said(self) -> str:
        """What became of it in words."""
        if self.revision is None:
            return "is not kept"
        return f"is {self.revision}" if self.created else f"is {self.revision} already"


def import_sheets(files: Iterable[tuple[str, str]], by: User) -> tuple[Imported, ...]:
    """Publish each (name, document); one that is wrong keeps no other back."""
    found = []
    for name, document in files:
        try:
            published = publish_revision(document, by)
        except SheetError as error:
            found.append(Imported(name, problems=tuple(error.problems)))
        else:
            found.append(Imported(name, published.revision, published.created))
    return tuple(found)
