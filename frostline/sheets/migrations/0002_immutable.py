"""Revisions are kept for good, whoever asks the database."""

from django.db import migrations

from frostline.ui.immutable import trigger_sql


class Migration(migrations.Migration):
    dependencies = [("sheets", "0001_initial")]

    operations = [migrations.RunSQL(*trigger_sql("sheets_revision"))]
