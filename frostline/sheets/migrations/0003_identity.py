"""Sheets keep their document's identifier; lists and search need no document read."""

from contextlib import suppress

import django.db.models.deletion
from django.db import migrations, models

from frostcore.errors import SheetError
from frostcore.sheet.load import digest, parsed, read
from frostcore.sheet.versions import upgraded
from frostline.ui.immutable import trigger_sql

CREATE, DROP = trigger_sql("sheets_revision")
WORDS = (
    "CREATE VIRTUAL TABLE sheets_words USING fts5("
    "title, models, codes, conditions, parts, settings, squeezed,"
    " tokenize=\"unicode61 remove_diacritics 2\", prefix='2 3')"
)


def identify(apps, schema_editor):
    """Every revision goes to the sheet of its own identifier, with the digest of its content."""
    Sheet, Revision = apps.get_model("sheets", "Sheet"), apps.get_model("sheets", "Revision")
    for revision in Revision.objects.order_by("created_at", "pk"):
        sheet, content = revision.sheet, None
        try:
            data = upgraded(parsed(revision.document))
            identifier = (
                str(data["id"])[:60] if isinstance(data, dict) and data.get("id") else sheet.slug[:60]
            )
            content = read(revision.document)
        except SheetError:
            identifier = sheet.slug[:60]
        owner, _ = Sheet.objects.get_or_create(
            slug=identifier, defaults={"maker": sheet.maker, "model": sheet.model}
        )
        if content is not None:
            owner.maker, owner.model = content.plate.maker[:80], content.plate.model[:80]
            owner.appliance = content.plate.appliance[:120]
        if owner.pk != sheet.pk:
            last = owner.revisions.aggregate(last=models.Max("number"))["last"] or 0
            revision.sheet, revision.number = owner, last + 1
        with suppress(SheetError):
            revision.digest = digest(revision.document)
        revision.save()
        owner.newest = owner.revisions.order_by("-number").first()
        owner.save()
    Sheet.objects.filter(revisions=None).delete()


class Migration(migrations.Migration):
    dependencies = [("sheets", "0002_immutable")]

    operations = [
        migrations.RunSQL(DROP, CREATE),
        migrations.AlterField("sheet", "slug", models.SlugField(max_length=60, unique=True)),
        migrations.AddField(
            "sheet",
            "appliance",
            models.CharField(blank=True, default="", max_length=120),
            preserve_default=False,
        ),
        migrations.AddField(
            "sheet",
            "newest",
            models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="newest_of",
                to="sheets.revision",
            ),
        ),
        migrations.AlterField("revision", "digest", models.CharField(db_index=True, max_length=64)),
        migrations.RunPython(identify, migrations.RunPython.noop),
        migrations.RunSQL(CREATE, DROP),
        migrations.RunSQL(WORDS, "DROP TABLE sheets_words"),
    ]
