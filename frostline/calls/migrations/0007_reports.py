"""Heads of reports, what is due, calendars."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from frostline.ui.immutable import trigger_sql


class Migration(migrations.Migration):
    dependencies = [
        ("accounts", "0002_person_change"),
        ("calls", "0006_rates"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="CalendarFeed",
            fields=[
                (
                    "user",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        primary_key=True,
                        related_name="feed",
                        serialize=False,
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                ("secret", models.CharField(max_length=64, unique=True)),
                ("made_at", models.DateTimeField()),
            ],
        ),
        migrations.CreateModel(
            name="CallDue",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("kind", models.CharField(max_length=12)),
                ("day", models.DateField(db_index=True)),
                ("text", models.CharField(max_length=160)),
                (
                    "call",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="dues", to="calls.call"
                    ),
                ),
            ],
            options={
                "ordering": ["day", "call__number"],
            },
        ),
        migrations.CreateModel(
            name="WorkshopHead",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("name", models.CharField(max_length=120)),
                ("lines", models.TextField(blank=True, max_length=600)),
                ("at", models.DateTimeField()),
                (
                    "by",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "abstract": False,
            },
        ),
        migrations.CreateModel(
            name="DueDone",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("kind", models.CharField(max_length=12)),
                ("day", models.DateField()),
                ("at", models.DateTimeField()),
                (
                    "by",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "call",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="seen_to", to="calls.call"
                    ),
                ),
            ],
            options={
                "constraints": [
                    models.UniqueConstraint(fields=("call", "kind", "day"), name="due_done_once")
                ],
            },
        ),
        migrations.RunSQL(*trigger_sql("calls_workshophead")),
        migrations.RunSQL(*trigger_sql("calls_duedone")),
    ]
