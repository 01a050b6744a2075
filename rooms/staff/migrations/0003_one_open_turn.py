from django.db import migrations, models


def end_older_turns(apps, editor):
    """Of several open turns of a tablet only the newest stays open."""
    Turn, seen = apps.get_model("staff", "Turn"), {}
    for turn in Turn.objects.filter(until=None).order_by("-since"):
        if turn.tablet_id in seen:
            turn.until = seen[turn.tablet_id]
            turn.save(update_fields=["until"])
        seen[turn.tablet_id] = turn.since


class Migration(migrations.Migration):
    dependencies = [("staff", "0002_people")]

    operations = [
        migrations.RunPython(end_older_turns, migrations.RunPython.noop),
        migrations.AddConstraint(
            model_name="turn",
            constraint=models.UniqueConstraint(
                condition=models.Q(("until", None)), fields=("tablet",),
                name="one_open_turn_a_tablet",
            ),
        ),
    ]
