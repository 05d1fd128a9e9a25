"""What is on the shelf, and what closed calls teach."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from frostline.ui.immutable import trigger_sql


class Migration(migrations.Migration):
    dependencies = [
        ("calls", "0007_reports"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="CallCause",
            fields=[
                (
                    "call",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.PROTECT,
                        primary_key=True,
                        related_name="cause",
                        serialize=False,
                        to="calls.call",
                    ),
                ),
                ("archetype", models.CharField(max_length=80)),
                ("kind", models.CharField(max_length=40)),
                ("serial", models.CharField(blank=True, max_length=60)),
                ("closed_at", models.DateTimeField(db_index=True)),
            ],
        ),
        migrations.CreateModel(
            name="LearningChoice",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("on", models.BooleanField()),
                ("since", models.DateTimeField()),
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
            name="StockList",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("text", models.TextField()),
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
        migrations.RunSQL(*trigger_sql("calls_stocklist")),
        migrations.RunSQL(*trigger_sql("calls_learningchoice")),
    ]
