"""Keep the words a sheet is found by."""

from django.db import connection

from frostcore.display.condition import describe
from frostcore.display.decode import shown_text
from frostcore.sheet import model as core
from frostcore.sheet.model import squeezed
from frostline.sheets.models import Sheet

COLUMNS = ("title", "models", "codes", "conditions", "parts", "settings", "squeezed")


def keep_words(sheet: Sheet, content: core.Sheet) -> None:
    """Write the words a sheet is found by: names, codes, conditions, parts and fuses, modes and settings."""
    models = (content.plate.model, *content.plate.models)
    words = (
        content.title,
        f"{' '.join(models)} {content.plate.appliance}",
        " ".join(f"{code.id} {shown_text(code.shown)}" for code in content.codes),
        " ".join(f"{code.meaning} {describe(content, code.condition)}" for code in content.codes),
        " ".join(f"{item.name} {item.kind.replace('_', ' ')}" for item in content.components),
        " ".join(f"{mode.name} {' '.join(mode.enter)}" for mode in content.modes) + " " + content.papers,
        " ".join(squeezed(text) for text in (content.title, *models)),
    )
    marks = ", ".join(["%s"] * (len(COLUMNS) + 1))
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM sheets_words WHERE rowid = %s", [sheet.pk])
        cursor.execute(
            f"INSERT INTO sheets_words (rowid, {', '.join(COLUMNS)}) VALUES ({marks})",  # noqa: S608
            [sheet.pk, *words],
        )
