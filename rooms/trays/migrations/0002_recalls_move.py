"""Recalls have a room of their own; their tables stay as they are."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [
        ("trays", "0001_as_of_0_2_0"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel(name="Found"),
                migrations.DeleteModel(name="Recall"),
            ],
        ),
    ]
