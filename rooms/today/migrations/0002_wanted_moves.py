from django.db import migrations


class Migration(migrations.Migration):
    """The wanted list is the planner's now; its table stays as it is."""

    dependencies = [
        ('today', '0001_initial'),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[migrations.DeleteModel(name='Wanted')],
        ),
    ]
