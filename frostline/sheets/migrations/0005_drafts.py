"""Drafts of sheets, and every change of them."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from frostline.ui.immutable import trigger_sql

CREATE, DROP = trigger_sql("sheets_draftedit")
PROTECT = django.db.models.deletion.PROTECT


def user():
    return models.ForeignKey(on_delete=PROTECT, related_name="+", to=settings.AUTH_USER_MODEL)


def revision(name):
    return models.ForeignKey(
        blank=True, null=True, on_delete=PROTECT, related_name=name, to="sheets.revision"
    )


def identifier():
    return models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)


STATES = [("open", "open"), ("proposed", "proposed"), ("published", "published"), ("dropped", "dropped")]


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("sheets", "0004_kinds"),
    ]

    operations = [
        migrations.CreateModel(
            name="Draft",
            fields=[
                ("id", identifier()),
                ("title", models.CharField(max_length=170)),
                ("base", models.TextField()),
                ("tables", models.JSONField()),
                ("version", models.PositiveIntegerField(default=0)),
                ("state", models.CharField(choices=STATES, default="open", max_length=12)),
                ("note", models.CharField(blank=True, max_length=200)),
                ("created_at", models.DateTimeField()),
                ("changed_at", models.DateTimeField()),
                ("based_on", revision("drafts")),
                ("published", revision("from_drafts")),
                ("created_by", user()),
                ("changed_by", user()),
            ],
            options={"ordering": ["-changed_at"]},
        ),
        migrations.CreateModel(
            name="DraftEdit",
            fields=[
                ("id", identifier()),
                ("version", models.PositiveIntegerField()),
                ("edit", models.JSONField()),
                ("at", models.DateTimeField()),
                ("by", user()),
                (
                    "draft",
                    models.ForeignKey(on_delete=PROTECT, related_name="edits", to="sheets.draft"),
                ),
            ],
            options={"ordering": ["draft", "version"]},
        ),
        migrations.AddConstraint(
            "draftedit",
            models.UniqueConstraint(fields=("draft", "version"), name="draft_version_once"),
        ),
        migrations.RunSQL(CREATE, DROP),
        migrations.CreateModel(
            name="Withdrawal",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("why", models.CharField(max_length=200)),
                ("at", models.DateTimeField()),
                ("by", user()),
                (
                    "revision",
                    models.OneToOneField(on_delete=PROTECT, related_name="withdrawal", to="sheets.revision"),
                ),
            ],
            options={"abstract": False},
        ),
        migrations.RunSQL(*trigger_sql("sheets_withdrawal")),
    ]
