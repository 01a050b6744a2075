"""Recalls come from the trays. No table changes."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

import rooms.common.db.fields
from rooms.common.db.moved import content_types_move


class Migration(migrations.Migration):
    dependencies = [
        ("trays", "0002_recalls_move"),
        ("cooler", "0001_as_of_0_2_0"),
        ("contenttypes", "0002_remove_content_type_name"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Recall",
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
                        ("key", models.UUIDField(unique=True)),
                        ("lot", models.CharField(max_length=60)),
                        (
                            "lot_key",
                            rooms.common.db.fields.LotKeyField(
                                db_index=True, editable=False, max_length=60
                            ),
                        ),
                        ("started_at", models.DateTimeField()),
                        ("ended_at", models.DateTimeField(null=True)),
                        ("report", models.JSONField(default=dict)),
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
                            "ended_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "hold",
                            models.OneToOneField(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="recall",
                                to="cooler.lothold",
                            ),
                        ),
                    ],
                    options={
                        "db_table": "trays_recall",
                        "ordering": ("-id",),
                    },
                ),
                migrations.CreateModel(
                    name="Found",
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
                            "tray",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="found",
                                to="trays.tray",
                            ),
                        ),
                        (
                            "recall",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="found",
                                to="recall.recall",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name_plural": "found",
                        "db_table": "trays_found",
                        "ordering": ("id",),
                        "constraints": [
                            models.UniqueConstraint(
                                fields=("recall", "tray"), name="a_tray_is_found_once"
                            )
                        ],
                    },
                ),
            ],
        ),
        content_types_move("trays", "recall", ["recall", "found"]),
    ]
