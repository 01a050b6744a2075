"""What is kept under a name is the planner's now; its table stays as it is."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [
        ("counter", "0001_as_of_0_2_0"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel(name="Kept"),
            ],
        ),
    ]
