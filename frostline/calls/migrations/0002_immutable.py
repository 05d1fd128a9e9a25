"""Calls and their slips are kept for good, whoever asks the database."""

from django.db import migrations

from frostline.ui.immutable import trigger_sql


class Migration(migrations.Migration):
    dependencies = [("calls", "0001_initial")]

    operations = [
        migrations.RunSQL(*trigger_sql("calls_call")),
        migrations.RunSQL(*trigger_sql("calls_slip")),
    ]
