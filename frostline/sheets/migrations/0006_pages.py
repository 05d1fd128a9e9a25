import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from frostline.ui.immutable import trigger_sql


class Migration(migrations.Migration):
    dependencies = [
        ("sheets", "0005_drafts"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Picture",
            fields=[
                ("digest", models.CharField(max_length=64, primary_key=True, serialize=False)),
                ("media_type", models.CharField(max_length=20)),
                ("size", models.PositiveIntegerField()),
                ("width", models.PositiveIntegerField()),
                ("height", models.PositiveIntegerField()),
                ("kept_at", models.DateTimeField()),
                (
                    "kept_by",
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
            name="Page",
            fields=[
                (
                    "id",
                    models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False),
                ),
                ("name", models.CharField(max_length=120)),
                ("position", models.PositiveIntegerField()),
                (
                    "state",
                    models.CharField(
                        choices=[("waiting", "waiting"), ("at work", "at work"), ("looked", "looked")],
                        default="waiting",
                        max_length=10,
                    ),
                ),
                ("found", models.JSONField(default=list)),
                (
                    "draft",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="pages", to="sheets.draft"
                    ),
                ),
                (
                    "picture",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to="sheets.picture"
                    ),
                ),
            ],
            options={
                "ordering": ["draft", "position"],
            },
        ),
        migrations.CreateModel(
            name="Reading",
            fields=[
                (
                    "id",
                    models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False),
                ),
                ("section", models.CharField(max_length=20)),
                ("corners", models.JSONField()),
                (
                    "state",
                    models.CharField(
                        choices=[
                            ("waiting", "waiting"),
                            ("at work", "at work"),
                            ("read", "read"),
                            ("refused", "refused"),
                        ],
                        default="waiting",
                        max_length=10,
                    ),
                ),
                ("why", models.CharField(blank=True, max_length=300)),
                ("cells", models.JSONField(default=list)),
                ("unwitnessed", models.JSONField(default=list)),
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
                    "flat",
                    models.ForeignKey(
                        blank=True,
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to="sheets.picture",
                    ),
                ),
                (
                    "page",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="readings", to="sheets.page"
                    ),
                ),
            ],
            options={
                "ordering": ["at"],
            },
        ),
        migrations.CreateModel(
            name="RevisionPage",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("name", models.CharField(max_length=120)),
                ("position", models.PositiveIntegerField()),
                (
                    "picture",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to="sheets.picture"
                    ),
                ),
                (
                    "revision",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="pages",
                        to="sheets.revision",
                    ),
                ),
            ],
            options={
                "ordering": ["revision", "position"],
                "constraints": [
                    models.UniqueConstraint(fields=("revision", "position"), name="page_position_once")
                ],
            },
        ),
        migrations.RunSQL(*trigger_sql("sheets_picture")),
        migrations.RunSQL(*trigger_sql("sheets_revisionpage")),
    ]
