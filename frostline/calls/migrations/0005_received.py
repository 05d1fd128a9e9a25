"""Calls that came in a bundle."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from frostline.ui.immutable import trigger_sql

CREATE, DROP = trigger_sql("calls_received")
PROTECT = django.db.models.deletion.PROTECT


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("calls", "0004_suspect"),
    ]

    operations = [
        migrations.CreateModel(
            name="Received",
            fields=[
                (
                    "call",
                    models.OneToOneField(
                        on_delete=PROTECT,
                        primary_key=True,
                        related_name="received",
                        serialize=False,
                        to="calls.call",
                    ),
                ),
                ("number_there", models.PositiveIntegerField()),
                ("made_at", models.DateTimeField()),
                ("act", models.CharField(blank=True, max_length=200)),
                ("suspects", models.JSONField()),
                ("taken_at", models.DateTimeField()),
                (
                    "taken_by",
                    models.ForeignKey(on_delete=PROTECT, related_name="+", to=settings.AUTH_USER_MODEL),
                ),
            ],
        ),
        migrations.RunSQL(CREATE, DROP),
    ]
