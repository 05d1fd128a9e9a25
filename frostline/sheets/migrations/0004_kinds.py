"""Sheets of kinds of unit, which ship with Frostline and which nobody published."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from frostline.ui.immutable import trigger_sql

CREATE, DROP = trigger_sql("sheets_revision")


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("sheets", "0003_identity"),
    ]

    operations = [
        migrations.RunSQL(DROP, CREATE),
        migrations.AddField("sheet", "generic", models.BooleanField(default=False)),
        migrations.AlterField(
            "revision",
            "created_by",
            models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="+",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.RunSQL(CREATE, DROP),
    ]
