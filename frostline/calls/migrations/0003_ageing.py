"""Slips with versions and two times, customers apart from the tape, an index, attachments."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from frostcore.tape.versions import WHO_FIELDS
from frostline.ui.immutable import trigger_sql

CALL, NO_CALL = trigger_sql("calls_call")
SLIP, NO_SLIP = trigger_sql("calls_slip")
OTHERS = [trigger_sql("calls_customerchange"), trigger_sql("calls_attachment")]
WORDS = (
    "CREATE VIRTUAL TABLE calls_words USING fts5("
    "customer, address, model, serial, codes, complaint, notes, parts, squeezed,"
    " tokenize=\"unicode61 remove_diacritics 2\", prefix='2 3')"
)


def part_customers(apps, schema_editor):
    """Name, address and telephone move out of the tape, this once, so that they can be erased from now on."""
    Call, Slip, Customer = (apps.get_model("calls", name) for name in ("Call", "Slip", "Customer"))
    Slip.objects.update(recorded_at=models.F("at"))
    for call in Call.objects.all():
        who = {}
        for slip in Slip.objects.filter(call=call, kind="call_taken").order_by("position"):
            who = {name: str(slip.body.get(name, "")) for name in WHO_FIELDS}
            slip.body = {key: value for key, value in slip.body.items() if key not in WHO_FIELDS}
            slip.version = 2
            slip.save()
        call.customer = Customer.objects.create(
            name=who.get("customer", "not known")[:120],
            address=who.get("address", "")[:200],
            phone=who.get("phone", "")[:40],
        )
        call.save()


class Migration(migrations.Migration):
    dependencies = [
        ("calls", "0002_immutable"),
        ("sheets", "0003_identity"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RunSQL(NO_CALL, CALL),
        migrations.RunSQL(NO_SLIP, SLIP),
        migrations.CreateModel(
            name="Customer",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("name", models.CharField(max_length=120)),
                ("address", models.CharField(blank=True, max_length=200)),
                ("phone", models.CharField(blank=True, max_length=40)),
                ("erased_at", models.DateTimeField(blank=True, null=True)),
            ],
        ),
        migrations.CreateModel(
            name="CustomerChange",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                (
                    "what",
                    models.CharField(
                        choices=[("corrected", "corrected"), ("erased", "erased")], max_length=20
                    ),
                ),
                ("fields", models.CharField(max_length=60)),
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
                    "customer",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="changes",
                        to="calls.customer",
                    ),
                ),
            ],
            options={"ordering": ["at"]},
        ),
        migrations.CreateModel(
            name="Attachment",
            fields=[
                ("digest", models.CharField(max_length=64, primary_key=True, serialize=False)),
                ("size", models.PositiveIntegerField()),
                ("media_type", models.CharField(max_length=80)),
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
        ),
        migrations.AddField("call", "practice", models.BooleanField(default=False)),
        migrations.AddField(
            "call",
            "customer",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="calls",
                to="calls.customer",
            ),
        ),
        migrations.AddField("slip", "version", models.PositiveSmallIntegerField(default=1)),
        migrations.AddField("slip", "recorded_at", models.DateTimeField(null=True)),
        migrations.RunPython(part_customers, migrations.RunPython.noop),
        migrations.AlterField("slip", "recorded_at", models.DateTimeField()),
        migrations.AlterField(
            "call",
            "customer",
            models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT, related_name="calls", to="calls.customer"
            ),
        ),
        migrations.CreateModel(
            name="CallIndex",
            fields=[
                (
                    "call",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.PROTECT,
                        primary_key=True,
                        related_name="index",
                        serialize=False,
                        to="calls.call",
                    ),
                ),
                ("number", models.PositiveIntegerField(unique=True)),
                ("is_open", models.BooleanField()),
                ("unit", models.CharField(max_length=170)),
                ("model", models.CharField(blank=True, max_length=60)),
                ("serial", models.CharField(blank=True, max_length=60)),
                ("complaint", models.CharField(blank=True, max_length=120)),
                ("stage", models.CharField(max_length=12)),
                ("act", models.CharField(max_length=120)),
                ("result", models.CharField(blank=True, max_length=40)),
                ("slips", models.PositiveIntegerField()),
                ("last_at", models.DateTimeField()),
            ],
            options={
                "ordering": ["-number"],
                "indexes": [models.Index(fields=["is_open", "-number"], name="call_index_open")],
            },
        ),
        migrations.RunSQL(CALL, NO_CALL),
        migrations.RunSQL(SLIP, NO_SLIP),
        *(migrations.RunSQL(create, drop) for create, drop in OTHERS),
        migrations.RunSQL(WORDS, "DROP TABLE calls_words"),
    ]
