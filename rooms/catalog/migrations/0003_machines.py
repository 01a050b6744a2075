from django.db import migrations, models

WORDS = ("slicer", "grinder")
MACHINES = ["saw", "slicer", "grinder", "mixer", "chopper", "patty machine", "tenderizer"]


def from_words(apps, editor):
    """Until now a step's machine was the saw's flag, or a word found in its text."""
    for name in ("Step", "HistoricalStep"):
        Step = apps.get_model("catalog", name)
        Step.objects.filter(is_sawn=True).update(machine="saw")
        for word in WORDS:
            rows = Step.objects.filter(is_sawn=False, machine="", do__icontains=word)
            rows.update(machine=word)
    Step, changed = apps.get_model("catalog", "Step"), []
    for step in Step.objects.exclude(shipped=None):
        was = step.shipped.pop("is_sawn", None)
        if was is not None:  # whoever changed the flag keeps it; the words were the file's
            step.shipped["machine"] = step.machine if was == step.is_sawn else "saw" * was
        changed.append(step)
    Step.objects.bulk_update(changed, ["shipped"], batch_size=500)


class Migration(migrations.Migration):
    dependencies = [("catalog", "0002_guides")]

    operations = [
        *(
            migrations.AddField(
                model_name=name,
                name="machine",
                field=models.CharField(
                    blank=True, choices=[(each, each) for each in MACHINES], max_length=20,
                    default="",
                ),
                preserve_default=False,
            )
            for name in ("step", "historicalstep")
        ),
        migrations.RunPython(from_words, migrations.RunPython.noop),
        migrations.RemoveField(model_name="step", name="is_sawn"),
        migrations.RemoveField(model_name="historicalstep", name="is_sawn"),
    ]
