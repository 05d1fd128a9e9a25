"""Who got another role, password or name is kept, and by whom."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

import frostline.accounts.models
from frostline.ui.immutable import trigger_sql


class Migration(migrations.Migration):
    dependencies = [
        ("accounts", "0001_initial"),
    ]

    operations = [
        migrations.AlterModelManagers(
            name="user",
            managers=[
                ("objects", frostline.accounts.models.People()),
            ],
        ),
        migrations.CreateModel(
            name="PersonChange",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("what", models.CharField(max_length=200)),
                ("at", models.DateTimeField()),
                (
                    "by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="changes",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ["at"],
            },
        ),
        migrations.RunSQL(*trigger_sql("accounts_personchange")),
    ]
