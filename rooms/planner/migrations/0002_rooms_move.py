"""What the case needs has a room of its own; what is kept under a name comes from the counter. No table changes."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.moved import content_types_move


class Migration(migrations.Migration):
    dependencies = [
        ("planner", "0001_as_of_0_2_0"),
        ("counter", "0002_kept_moves"),
        ("contenttypes", "0002_remove_content_type_name"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel(name="HistoricalWanted"),
                migrations.DeleteModel(name="Wanted"),
                migrations.DeleteModel(name="Factor"),
                migrations.DeleteModel(name="StandingOrder"),
                migrations.DeleteModel(name="Sold"),
                migrations.CreateModel(
                    name="Kept",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True,
                                primary_key=True,
                                serialize=False,
                                verbose_name="ID",
                            ),
                        ),
                        (
                            "kind",
                            models.CharField(
                                choices=[("ad", "ad"), ("buy", "what to buy")], max_length=3
                            ),
                        ),
                        ("name", models.CharField(max_length=60)),
                        ("fields", models.JSONField()),
                        ("said", models.JSONField(default=dict)),
                        ("revision", models.PositiveIntegerField(default=1)),
                        ("kept_at", models.DateTimeField()),
                        (
                            "kept_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                    ],
                    options={
                        "db_table": "counter_kept",
                        "ordering": ("-kept_at", "-pk"),
                    },
                ),
                migrations.AddConstraint(
                    model_name="kept",
                    constraint=models.UniqueConstraint(
                        fields=("kind", "name"), name="one_plan_a_name"
                    ),
                ),
            ],
        ),
        content_types_move("counter", "planner", ["kept"]),
    ]
