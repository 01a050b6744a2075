"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.db.models.deletion
import simple_history.models
from django.conf import settings
from django.db import migrations, models

import rooms.common.db.fields
from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("catalog", "0001_initial"),
        ("catalog", "0002_guides"),
        ("catalog", "0003_machines"),
        ("catalog", "0004_pairing"),
        ("catalog", "0005_told_to_shoppers"),
        ("catalog", "0006_places_of_a_plan"),
        ("catalog", "0007_plans_that_go_on"),
    ]

    initial = True

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables(
            [
                migrations.CreateModel(
                    name="Muscle",
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
                        ("shipped", models.JSONField(editable=False, null=True)),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField(unique=True)),
                        ("latin", models.CharField(blank=True, max_length=100)),
                        ("name", models.CharField(max_length=100)),
                        (
                            "kind",
                            models.CharField(
                                choices=[
                                    ("muscle", "muscle"),
                                    ("group", "several muscles"),
                                    ("material", "no single muscle"),
                                    ("part", "part of a piece, no cut"),
                                ],
                                default="muscle",
                                max_length=10,
                            ),
                        ),
                        ("synonyms", models.JSONField(blank=True, default=list)),
                        ("note", models.CharField(blank=True, max_length=200)),
                        ("doubt", models.CharField(blank=True, max_length=200)),
                    ],
                    options={
                        "ordering": ("name",),
                    },
                ),
                migrations.CreateModel(
                    name="Piece",
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
                        ("shipped", models.JSONField(editable=False, null=True)),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("name", models.CharField(max_length=100)),
                        ("other_name", models.CharField(blank=True, max_length=100)),
                        ("house_name", models.CharField(blank=True, max_length=100)),
                        ("synonyms", models.JSONField(blank=True, default=list)),
                        ("search", models.TextField(default="", editable=False)),
                        ("key", models.SlugField(unique=True)),
                        (
                            "species",
                            models.CharField(
                                choices=[("beef", "beef"), ("pork", "pork"), ("lamb", "lamb")],
                                max_length=10,
                            ),
                        ),
                        ("item_number", models.CharField(blank=True, max_length=20)),
                        ("item_number_source", models.CharField(blank=True, max_length=200)),
                        ("usual_weight", rooms.common.db.fields.PlainDecimalField(null=True)),
                        (
                            "usual_unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                default="lb",
                                max_length=2,
                            ),
                        ),
                        ("place", models.CharField(blank=True, max_length=300)),
                        ("landmarks", models.JSONField(blank=True, default=list)),
                        ("tools", models.JSONField(blank=True, default=list)),
                        ("looks", models.CharField(blank=True, max_length=300)),
                        ("drawing", models.JSONField(blank=True, null=True)),
                        ("cautions", models.JSONField(blank=True, default=list)),
                        ("doubts", models.JSONField(blank=True, default=list)),
                        ("least_age_days", models.PositiveSmallIntegerField(blank=True, null=True)),
                        ("is_bought", models.BooleanField(default=False)),
                        ("position", models.PositiveSmallIntegerField(default=0)),
                    ],
                    options={
                        "ordering": ("position", "name"),
                    },
                ),
                migrations.CreateModel(
                    name="Primal",
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
                        ("shipped", models.JSONField(editable=False, null=True)),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField(unique=True)),
                        (
                            "species",
                            models.CharField(
                                choices=[("beef", "beef"), ("pork", "pork"), ("lamb", "lamb")],
                                max_length=10,
                            ),
                        ),
                        ("name", models.CharField(max_length=100)),
                        ("other_name", models.CharField(blank=True, max_length=100)),
                        ("position", models.PositiveSmallIntegerField(default=0)),
                    ],
                    options={
                        "ordering": ("position",),
                    },
                ),
                migrations.CreateModel(
                    name="HistoricalMuscle",
                    fields=[
                        (
                            "id",
                            models.BigIntegerField(
                                auto_created=True, blank=True, db_index=True, verbose_name="ID"
                            ),
                        ),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField()),
                        ("latin", models.CharField(blank=True, max_length=100)),
                        ("name", models.CharField(max_length=100)),
                        (
                            "kind",
                            models.CharField(
                                choices=[
                                    ("muscle", "muscle"),
                                    ("group", "several muscles"),
                                    ("material", "no single muscle"),
                                    ("part", "part of a piece, no cut"),
                                ],
                                default="muscle",
                                max_length=10,
                            ),
                        ),
                        ("synonyms", models.JSONField(blank=True, default=list)),
                        ("note", models.CharField(blank=True, max_length=200)),
                        ("doubt", models.CharField(blank=True, max_length=200)),
                        ("history_id", models.AutoField(primary_key=True, serialize=False)),
                        ("history_date", models.DateTimeField(db_index=True)),
                        ("history_change_reason", models.CharField(max_length=100, null=True)),
                        (
                            "history_type",
                            models.CharField(
                                choices=[("+", "Created"), ("~", "Changed"), ("-", "Deleted")],
                                max_length=1,
                            ),
                        ),
                        (
                            "history_user",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                    ],
                    options={
                        "verbose_name": "historical muscle",
                        "verbose_name_plural": "historical muscles",
                        "ordering": ("-history_date", "-history_id"),
                        "get_latest_by": ("history_date", "history_id"),
                    },
                    bases=(simple_history.models.HistoricalChanges, models.Model),
                ),
                migrations.CreateModel(
                    name="HistoricalCut",
                    fields=[
                        (
                            "id",
                            models.BigIntegerField(
                                auto_created=True, blank=True, db_index=True, verbose_name="ID"
                            ),
                        ),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("name", models.CharField(max_length=100)),
                        ("other_name", models.CharField(blank=True, max_length=100)),
                        ("house_name", models.CharField(blank=True, max_length=100)),
                        ("synonyms", models.JSONField(blank=True, default=list)),
                        ("key", models.SlugField()),
                        (
                            "species",
                            models.CharField(
                                choices=[("beef", "beef"), ("pork", "pork"), ("lamb", "lamb")],
                                max_length=10,
                            ),
                        ),
                        ("item_number", models.CharField(blank=True, max_length=20)),
                        ("cooking", models.CharField(blank=True, max_length=120)),
                        ("done", models.CharField(blank=True, max_length=100)),
                        ("why", models.CharField(blank=True, max_length=200)),
                        ("grades", models.JSONField(blank=True, default=dict)),
                        ("serves", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("mistaken_for", models.CharField(blank=True, max_length=200)),
                        ("story", models.CharField(blank=True, max_length=200)),
                        (
                            "counter",
                            models.CharField(
                                choices=[
                                    ("self", "self-service"),
                                    ("service", "service counter"),
                                    ("either", "either"),
                                ],
                                default="self",
                                max_length=10,
                            ),
                        ),
                        ("tray", models.CharField(blank=True, max_length=20)),
                        ("least_age_days", models.PositiveSmallIntegerField(blank=True, null=True)),
                        ("is_cut_across", models.BooleanField(default=False)),
                        ("is_cubed", models.BooleanField(default=False)),
                        ("is_tenderized", models.BooleanField(default=False)),
                        ("is_ground", models.BooleanField(default=False)),
                        ("doubt", models.CharField(blank=True, max_length=200)),
                        ("history_id", models.AutoField(primary_key=True, serialize=False)),
                        ("history_date", models.DateTimeField(db_index=True)),
                        ("history_change_reason", models.CharField(max_length=100, null=True)),
                        (
                            "history_type",
                            models.CharField(
                                choices=[("+", "Created"), ("~", "Changed"), ("-", "Deleted")],
                                max_length=1,
                            ),
                        ),
                        (
                            "history_user",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "muscle",
                            models.ForeignKey(
                                blank=True,
                                db_constraint=False,
                                null=True,
                                on_delete=django.db.models.deletion.DO_NOTHING,
                                related_name="+",
                                to="catalog.muscle",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name": "historical cut",
                        "verbose_name_plural": "historical cuts",
                        "ordering": ("-history_date", "-history_id"),
                        "get_latest_by": ("history_date", "history_id"),
                    },
                    bases=(simple_history.models.HistoricalChanges, models.Model),
                ),
                migrations.CreateModel(
                    name="Cut",
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
                        ("shipped", models.JSONField(editable=False, null=True)),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("name", models.CharField(max_length=100)),
                        ("other_name", models.CharField(blank=True, max_length=100)),
                        ("house_name", models.CharField(blank=True, max_length=100)),
                        ("synonyms", models.JSONField(blank=True, default=list)),
                        ("search", models.TextField(default="", editable=False)),
                        ("key", models.SlugField(unique=True)),
                        (
                            "species",
                            models.CharField(
                                choices=[("beef", "beef"), ("pork", "pork"), ("lamb", "lamb")],
                                max_length=10,
                            ),
                        ),
                        ("item_number", models.CharField(blank=True, max_length=20)),
                        ("cooking", models.CharField(blank=True, max_length=120)),
                        ("done", models.CharField(blank=True, max_length=100)),
                        ("why", models.CharField(blank=True, max_length=200)),
                        ("grades", models.JSONField(blank=True, default=dict)),
                        ("serves", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("mistaken_for", models.CharField(blank=True, max_length=200)),
                        ("story", models.CharField(blank=True, max_length=200)),
                        (
                            "counter",
                            models.CharField(
                                choices=[
                                    ("self", "self-service"),
                                    ("service", "service counter"),
                                    ("either", "either"),
                                ],
                                default="self",
                                max_length=10,
                            ),
                        ),
                        ("tray", models.CharField(blank=True, max_length=20)),
                        ("least_age_days", models.PositiveSmallIntegerField(blank=True, null=True)),
                        ("is_cut_across", models.BooleanField(default=False)),
                        ("is_cubed", models.BooleanField(default=False)),
                        ("is_tenderized", models.BooleanField(default=False)),
                        ("is_ground", models.BooleanField(default=False)),
                        ("doubt", models.CharField(blank=True, max_length=200)),
                        (
                            "muscle",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="cuts",
                                to="catalog.muscle",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("species", "name"),
                    },
                ),
                migrations.CreateModel(
                    name="HistoricalStep",
                    fields=[
                        (
                            "id",
                            models.BigIntegerField(
                                auto_created=True, blank=True, db_index=True, verbose_name="ID"
                            ),
                        ),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField()),
                        ("position", models.PositiveSmallIntegerField(default=0)),
                        ("title", models.CharField(max_length=80)),
                        ("find", models.CharField(max_length=300)),
                        ("do", models.CharField(max_length=300)),
                        ("right", models.CharField(max_length=300)),
                        ("mistake", models.CharField(max_length=300)),
                        ("why", models.CharField(blank=True, max_length=200)),
                        ("piles", models.JSONField(default=list)),
                        ("touches", models.JSONField(blank=True, default=list)),
                        ("plans", models.JSONField(blank=True, default=list)),
                        ("caution", models.CharField(blank=True, max_length=300)),
                        ("tick", models.CharField(blank=True, max_length=80)),
                        ("school", models.CharField(blank=True, max_length=40)),
                        (
                            "machine",
                            models.CharField(
                                blank=True,
                                choices=[
                                    ("saw", "saw"),
                                    ("slicer", "slicer"),
                                    ("grinder", "grinder"),
                                    ("mixer", "mixer"),
                                    ("chopper", "chopper"),
                                    ("patty machine", "patty machine"),
                                    ("tenderizer", "tenderizer"),
                                ],
                                max_length=20,
                            ),
                        ),
                        ("history_id", models.AutoField(primary_key=True, serialize=False)),
                        ("history_date", models.DateTimeField(db_index=True)),
                        ("history_change_reason", models.CharField(max_length=100, null=True)),
                        (
                            "history_type",
                            models.CharField(
                                choices=[("+", "Created"), ("~", "Changed"), ("-", "Deleted")],
                                max_length=1,
                            ),
                        ),
                        (
                            "history_user",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                blank=True,
                                db_constraint=False,
                                null=True,
                                on_delete=django.db.models.deletion.DO_NOTHING,
                                related_name="+",
                                to="catalog.piece",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name": "historical step",
                        "verbose_name_plural": "historical steps",
                        "ordering": ("-history_date", "-history_id"),
                        "get_latest_by": ("history_date", "history_id"),
                    },
                    bases=(simple_history.models.HistoricalChanges, models.Model),
                ),
                migrations.CreateModel(
                    name="HistoricalPlan",
                    fields=[
                        (
                            "id",
                            models.BigIntegerField(
                                auto_created=True, blank=True, db_index=True, verbose_name="ID"
                            ),
                        ),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField()),
                        ("name", models.CharField(max_length=100)),
                        (
                            "school",
                            models.CharField(
                                choices=[
                                    ("plain", "plain"),
                                    ("merchandised", "merchandised"),
                                    ("alternative", "alternative"),
                                ],
                                default="plain",
                                max_length=20,
                            ),
                        ),
                        ("note", models.CharField(blank=True, max_length=400)),
                        ("is_sawn", models.BooleanField(default=False)),
                        ("minutes_per_lb", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("position", models.PositiveSmallIntegerField(default=0)),
                        ("history_id", models.AutoField(primary_key=True, serialize=False)),
                        ("history_date", models.DateTimeField(db_index=True)),
                        ("history_change_reason", models.CharField(max_length=100, null=True)),
                        (
                            "history_type",
                            models.CharField(
                                choices=[("+", "Created"), ("~", "Changed"), ("-", "Deleted")],
                                max_length=1,
                            ),
                        ),
                        (
                            "history_user",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                blank=True,
                                db_constraint=False,
                                null=True,
                                on_delete=django.db.models.deletion.DO_NOTHING,
                                related_name="+",
                                to="catalog.piece",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name": "historical plan",
                        "verbose_name_plural": "historical plans",
                        "ordering": ("-history_date", "-history_id"),
                        "get_latest_by": ("history_date", "history_id"),
                    },
                    bases=(simple_history.models.HistoricalChanges, models.Model),
                ),
                migrations.CreateModel(
                    name="Plan",
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
                        ("shipped", models.JSONField(editable=False, null=True)),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField()),
                        ("name", models.CharField(max_length=100)),
                        (
                            "school",
                            models.CharField(
                                choices=[
                                    ("plain", "plain"),
                                    ("merchandised", "merchandised"),
                                    ("alternative", "alternative"),
                                ],
                                default="plain",
                                max_length=20,
                            ),
                        ),
                        ("note", models.CharField(blank=True, max_length=400)),
                        ("is_sawn", models.BooleanField(default=False)),
                        ("minutes_per_lb", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("position", models.PositiveSmallIntegerField(default=0)),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="plans",
                                to="catalog.piece",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("piece", "position", "id"),
                    },
                ),
                migrations.CreateModel(
                    name="HistoricalPlanOutput",
                    fields=[
                        (
                            "id",
                            models.BigIntegerField(
                                auto_created=True, blank=True, db_index=True, verbose_name="ID"
                            ),
                        ),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField(max_length=60)),
                        ("position", models.PositiveSmallIntegerField()),
                        ("name", models.CharField(max_length=60)),
                        (
                            "pile",
                            models.CharField(
                                choices=[
                                    ("portions", "portions, roasts, ribs"),
                                    ("secondary", "secondary cuts"),
                                    ("lean", "lean trim"),
                                    ("fat", "hard fat"),
                                    ("suet", "soft or kidney fat"),
                                    ("bone", "bone"),
                                    ("discard", "discard"),
                                    ("purge", "purge"),
                                ],
                                max_length=10,
                            ),
                        ),
                        (
                            "role",
                            models.CharField(
                                choices=[
                                    ("main", "main"),
                                    ("secondary", "secondary"),
                                    ("credit", "credit"),
                                    ("discard", "discard"),
                                    ("purge", "purge"),
                                ],
                                max_length=10,
                            ),
                        ),
                        ("share", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("target_value", rooms.common.db.fields.PlainDecimalField(null=True)),
                        (
                            "target_unit",
                            models.CharField(
                                blank=True,
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("thickness", models.CharField(blank=True, max_length=20)),
                        ("part", models.SlugField(blank=True, max_length=20)),
                        ("zone", models.SlugField(blank=True, max_length=20)),
                        ("bones", models.CharField(blank=True, max_length=10)),
                        ("usual_count", models.CharField(blank=True, max_length=10)),
                        ("goes_on", models.CharField(blank=True, max_length=121)),
                        ("made_by", models.JSONField(blank=True, default=list)),
                        ("is_counted", models.BooleanField(default=False)),
                        ("in_case", models.BooleanField(default=False)),
                        ("history_id", models.AutoField(primary_key=True, serialize=False)),
                        ("history_date", models.DateTimeField(db_index=True)),
                        ("history_change_reason", models.CharField(max_length=100, null=True)),
                        (
                            "history_type",
                            models.CharField(
                                choices=[("+", "Created"), ("~", "Changed"), ("-", "Deleted")],
                                max_length=1,
                            ),
                        ),
                        (
                            "cut",
                            models.ForeignKey(
                                blank=True,
                                db_constraint=False,
                                null=True,
                                on_delete=django.db.models.deletion.DO_NOTHING,
                                related_name="+",
                                to="catalog.cut",
                            ),
                        ),
                        (
                            "history_user",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "plan",
                            models.ForeignKey(
                                blank=True,
                                db_constraint=False,
                                null=True,
                                on_delete=django.db.models.deletion.DO_NOTHING,
                                related_name="+",
                                to="catalog.plan",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name": "historical plan output",
                        "verbose_name_plural": "historical plan outputs",
                        "ordering": ("-history_date", "-history_id"),
                        "get_latest_by": ("history_date", "history_id"),
                    },
                    bases=(simple_history.models.HistoricalChanges, models.Model),
                ),
                migrations.CreateModel(
                    name="PlanOutput",
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
                        ("shipped", models.JSONField(editable=False, null=True)),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField(max_length=60)),
                        ("position", models.PositiveSmallIntegerField()),
                        ("name", models.CharField(max_length=60)),
                        (
                            "pile",
                            models.CharField(
                                choices=[
                                    ("portions", "portions, roasts, ribs"),
                                    ("secondary", "secondary cuts"),
                                    ("lean", "lean trim"),
                                    ("fat", "hard fat"),
                                    ("suet", "soft or kidney fat"),
                                    ("bone", "bone"),
                                    ("discard", "discard"),
                                    ("purge", "purge"),
                                ],
                                max_length=10,
                            ),
                        ),
                        (
                            "role",
                            models.CharField(
                                choices=[
                                    ("main", "main"),
                                    ("secondary", "secondary"),
                                    ("credit", "credit"),
                                    ("discard", "discard"),
                                    ("purge", "purge"),
                                ],
                                max_length=10,
                            ),
                        ),
                        ("share", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("target_value", rooms.common.db.fields.PlainDecimalField(null=True)),
                        (
                            "target_unit",
                            models.CharField(
                                blank=True,
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("thickness", models.CharField(blank=True, max_length=20)),
                        ("part", models.SlugField(blank=True, max_length=20)),
                        ("zone", models.SlugField(blank=True, max_length=20)),
                        ("bones", models.CharField(blank=True, max_length=10)),
                        ("usual_count", models.CharField(blank=True, max_length=10)),
                        ("goes_on", models.CharField(blank=True, max_length=121)),
                        ("made_by", models.JSONField(blank=True, default=list)),
                        ("is_counted", models.BooleanField(default=False)),
                        ("in_case", models.BooleanField(default=False)),
                        (
                            "cut",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                to="catalog.cut",
                            ),
                        ),
                        (
                            "plan",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="outputs",
                                to="catalog.plan",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("plan", "position", "id"),
                    },
                ),
                migrations.AddField(
                    model_name="piece",
                    name="primal",
                    field=models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="pieces",
                        to="catalog.primal",
                    ),
                ),
                migrations.CreateModel(
                    name="HistoricalPiece",
                    fields=[
                        (
                            "id",
                            models.BigIntegerField(
                                auto_created=True, blank=True, db_index=True, verbose_name="ID"
                            ),
                        ),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("name", models.CharField(max_length=100)),
                        ("other_name", models.CharField(blank=True, max_length=100)),
                        ("house_name", models.CharField(blank=True, max_length=100)),
                        ("synonyms", models.JSONField(blank=True, default=list)),
                        ("key", models.SlugField()),
                        (
                            "species",
                            models.CharField(
                                choices=[("beef", "beef"), ("pork", "pork"), ("lamb", "lamb")],
                                max_length=10,
                            ),
                        ),
                        ("item_number", models.CharField(blank=True, max_length=20)),
                        ("item_number_source", models.CharField(blank=True, max_length=200)),
                        ("usual_weight", rooms.common.db.fields.PlainDecimalField(null=True)),
                        (
                            "usual_unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                default="lb",
                                max_length=2,
                            ),
                        ),
                        ("place", models.CharField(blank=True, max_length=300)),
                        ("landmarks", models.JSONField(blank=True, default=list)),
                        ("tools", models.JSONField(blank=True, default=list)),
                        ("looks", models.CharField(blank=True, max_length=300)),
                        ("drawing", models.JSONField(blank=True, null=True)),
                        ("cautions", models.JSONField(blank=True, default=list)),
                        ("doubts", models.JSONField(blank=True, default=list)),
                        ("least_age_days", models.PositiveSmallIntegerField(blank=True, null=True)),
                        ("is_bought", models.BooleanField(default=False)),
                        ("position", models.PositiveSmallIntegerField(default=0)),
                        ("history_id", models.AutoField(primary_key=True, serialize=False)),
                        ("history_date", models.DateTimeField(db_index=True)),
                        ("history_change_reason", models.CharField(max_length=100, null=True)),
                        (
                            "history_type",
                            models.CharField(
                                choices=[("+", "Created"), ("~", "Changed"), ("-", "Deleted")],
                                max_length=1,
                            ),
                        ),
                        (
                            "history_user",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "primal",
                            models.ForeignKey(
                                blank=True,
                                db_constraint=False,
                                null=True,
                                on_delete=django.db.models.deletion.DO_NOTHING,
                                related_name="+",
                                to="catalog.primal",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name": "historical piece",
                        "verbose_name_plural": "historical pieces",
                        "ordering": ("-history_date", "-history_id"),
                        "get_latest_by": ("history_date", "history_id"),
                    },
                    bases=(simple_history.models.HistoricalChanges, models.Model),
                ),
                migrations.CreateModel(
                    name="Step",
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
                        ("shipped", models.JSONField(editable=False, null=True)),
                        ("is_dropped", models.BooleanField(default=False)),
                        ("key", models.SlugField()),
                        ("position", models.PositiveSmallIntegerField(default=0)),
                        ("title", models.CharField(max_length=80)),
                        ("find", models.CharField(max_length=300)),
                        ("do", models.CharField(max_length=300)),
                        ("right", models.CharField(max_length=300)),
                        ("mistake", models.CharField(max_length=300)),
                        ("why", models.CharField(blank=True, max_length=200)),
                        ("piles", models.JSONField(default=list)),
                        ("touches", models.JSONField(blank=True, default=list)),
                        ("plans", models.JSONField(blank=True, default=list)),
                        ("caution", models.CharField(blank=True, max_length=300)),
                        ("tick", models.CharField(blank=True, max_length=80)),
                        ("school", models.CharField(blank=True, max_length=40)),
                        (
                            "machine",
                            models.CharField(
                                blank=True,
                                choices=[
                                    ("saw", "saw"),
                                    ("slicer", "slicer"),
                                    ("grinder", "grinder"),
                                    ("mixer", "mixer"),
                                    ("chopper", "chopper"),
                                    ("patty machine", "patty machine"),
                                    ("tenderizer", "tenderizer"),
                                ],
                                max_length=20,
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="steps",
                                to="catalog.piece",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("piece", "position", "id"),
                    },
                ),
                migrations.AddConstraint(
                    model_name="plan",
                    constraint=models.UniqueConstraint(
                        fields=("piece", "key"), name="one_plan_a_key"
                    ),
                ),
                migrations.AddConstraint(
                    model_name="planoutput",
                    constraint=models.UniqueConstraint(
                        fields=("plan", "key"), name="one_output_a_key"
                    ),
                ),
                migrations.AddConstraint(
                    model_name="planoutput",
                    constraint=models.UniqueConstraint(
                        condition=models.Q(("is_dropped", False)),
                        fields=("plan", "name"),
                        name="one_output_a_name",
                    ),
                ),
                migrations.AddConstraint(
                    model_name="step",
                    constraint=models.UniqueConstraint(
                        fields=("piece", "key"), name="one_step_a_key"
                    ),
                ),
            ]
        )
    ]
