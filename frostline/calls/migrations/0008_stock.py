"""What is on the workshop's shelf."""

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
    ]
