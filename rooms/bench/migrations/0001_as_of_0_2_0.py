"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import uuid

import django.db.models.deletion
import simple_history.models
from django.conf import settings
from django.db import migrations, models

import rooms.common.db.fields
from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("bench", "0001_initial"),
        ("bench", "0002_initial"),
        ("bench", "0003_share_price"),
        ("bench", "0004_step_check"),
        ("bench", "0005_bags"),
        ("bench", "0006_in_earnest"),
        ("bench", "0007_taken_in"),
        ("bench", "0008_revision_and_ledger"),
        ("bench", "0009_fill_revision_and_ledger"),
        ("bench", "0010_prices_as_cut"),
        ("bench", "0011_choices"),
        ("bench", "0012_layouts"),
        ("bench", "0013_lot_keys"),
        ("bench", "0014_fill_lot_keys"),
        ("bench", "0015_tests_of_a_plan"),
        ("bench", "0016_voided_and_unplaced"),
        ("bench", "0017_longer_lots"),
        ("bench", "0018_pieces_to_the_cooler"),
    ]

    initial = True

    dependencies = [
        ("catalog", "0001_as_of_0_2_0"),
        ("cooler", "0001_as_of_0_2_0"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables(
            [
                migrations.CreateModel(
                    name="Tare",
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
                        ("name", models.CharField(max_length=40, unique=True)),
                        ("value", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("made_at", models.DateTimeField()),
                        ("is_dropped", models.BooleanField(default=False)),
                    ],
                    options={
                        "ordering": ("name",),
                    },
                ),
                migrations.CreateModel(
                    name="CuttingTest",
                    fields=[
                        (
                            "id",
                            models.UUIDField(
                                default=uuid.uuid4,
                                editable=False,
                                primary_key=True,
                                serialize=False,
                            ),
                        ),
                        ("number", models.PositiveIntegerField(unique=True)),
                        ("split", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("piece_name", models.CharField(max_length=100)),
                        ("item_number", models.CharField(blank=True, max_length=20)),
                        ("species", models.CharField(max_length=10)),
                        ("plan_name", models.CharField(blank=True, max_length=220)),
                        ("is_sawn", models.BooleanField(default=False)),
                        ("weight_value", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "weight_unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("opened_value", rooms.common.db.fields.PlainDecimalField(null=True)),
                        (
                            "opened_unit",
                            models.CharField(
                                blank=True,
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("price_amount", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "price_per",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("freight", rooms.common.db.fields.PlainDecimalField()),
                        ("discount", rooms.common.db.fields.PlainDecimalField()),
                        ("division_value", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "division_unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("labour_rate", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("supplier", models.CharField(blank=True, max_length=100)),
                        ("lot", models.CharField(blank=True, max_length=300)),
                        (
                            "lot_key",
                            rooms.common.db.fields.LotKeyField(
                                blank=True,
                                db_index=True,
                                default="",
                                editable=False,
                                max_length=300,
                            ),
                        ),
                        ("packed_on", models.DateField(null=True)),
                        ("too_young", models.JSONField(blank=True, default=list)),
                        ("young_reason", models.CharField(blank=True, max_length=200)),
                        ("damage", models.JSONField(blank=True, default=list)),
                        ("marbling", models.PositiveSmallIntegerField(null=True)),
                        ("claims", models.CharField(blank=True, max_length=100)),
                        ("fat_level", models.CharField(blank=True, max_length=10)),
                        ("has_choices", models.BooleanField(default=False)),
                        ("has_layout", models.BooleanField(default=False)),
                        ("percent_off", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("was_frozen", models.BooleanField(default=False)),
                        ("started_from", models.CharField(blank=True, max_length=40)),
                        ("started_at", models.DateTimeField()),
                        ("finished_at", models.DateTimeField(null=True)),
                        ("approved_at", models.DateTimeField(null=True)),
                        ("approval_reason", models.CharField(blank=True, max_length=500)),
                        ("reopened_at", models.DateTimeField(null=True)),
                        ("voided_at", models.DateTimeField(null=True)),
                        ("void_reason", models.CharField(blank=True, max_length=200)),
                        ("void_bags", models.JSONField(default=list)),
                        ("imported_at", models.DateTimeField(null=True)),
                        ("cutter_name", models.CharField(blank=True, max_length=100)),
                        ("approver_name", models.CharField(blank=True, max_length=100)),
                        ("revision", models.PositiveIntegerField(default=0)),
                        (
                            "approved_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "cutter",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "imported_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT, to="catalog.piece"
                            ),
                        ),
                        (
                            "plan",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                to="catalog.plan",
                            ),
                        ),
                        (
                            "second_plan",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.SET_NULL,
                                related_name="second_in",
                                to="catalog.plan",
                            ),
                        ),
                        (
                            "voided_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("-number",),
                    },
                ),
                migrations.CreateModel(
                    name="Correction",
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
                        ("number", models.PositiveSmallIntegerField()),
                        ("reason", models.CharField(max_length=500)),
                        ("before", models.JSONField(default=dict)),
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
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="corrections",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("number",),
                    },
                ),
                migrations.CreateModel(
                    name="HistoricalTare",
                    fields=[
                        (
                            "id",
                            models.BigIntegerField(
                                auto_created=True, blank=True, db_index=True, verbose_name="ID"
                            ),
                        ),
                        ("name", models.CharField(db_index=True, max_length=40)),
                        ("value", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("made_at", models.DateTimeField()),
                        ("is_dropped", models.BooleanField(default=False)),
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
                        "verbose_name": "historical tare",
                        "verbose_name_plural": "historical tares",
                        "ordering": ("-history_date", "-history_id"),
                        "get_latest_by": ("history_date", "history_id"),
                    },
                    bases=(simple_history.models.HistoricalChanges, models.Model),
                ),
                migrations.CreateModel(
                    name="Hold",
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
                        ("scale", models.CharField(max_length=20)),
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
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="holds",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="Laid",
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
                        ("task", models.TextField()),
                        ("aim", models.CharField(max_length=10)),
                        ("part", models.CharField(blank=True, max_length=20)),
                        ("is_measured", models.BooleanField(default=False)),
                        ("base_scale", rooms.common.db.fields.PlainDecimalField()),
                        ("base_tilt", rooms.common.db.fields.PlainDecimalField()),
                        ("after", models.BigIntegerField(default=0)),
                        ("weight_then", rooms.common.db.fields.PlainDecimalField()),
                        ("asked", models.JSONField(default=list)),
                        ("asked_of", models.JSONField(default=list)),
                        ("at", models.DateTimeField()),
                        ("taken_off_at", models.DateTimeField(null=True)),
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
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="layouts",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name_plural": "laid",
                        "ordering": ("-id",),
                    },
                ),
                migrations.CreateModel(
                    name="Note",
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
                        ("text", models.CharField(max_length=500)),
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
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="notes",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="Output",
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
                        ("share_one", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("share_rest", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("target_value", rooms.common.db.fields.PlainDecimalField(null=True)),
                        (
                            "target_unit",
                            models.CharField(
                                blank=True,
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("is_counted", models.BooleanField(default=False)),
                        ("in_case", models.BooleanField(default=False)),
                        ("is_none", models.BooleanField(default=False)),
                        (
                            "price_per",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                default="lb",
                                max_length=2,
                            ),
                        ),
                        ("retail", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("share_price", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("credit", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("replacement", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("minutes", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("thickness", models.CharField(blank=True, max_length=20)),
                        ("tray_size", models.PositiveSmallIntegerField(null=True)),
                        (
                            "cut",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                to="catalog.cut",
                            ),
                        ),
                        (
                            "merged_into",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="bench.output",
                            ),
                        ),
                        (
                            "piece",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="catalog.piece",
                            ),
                        ),
                        (
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="outputs",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("test", "position"),
                    },
                ),
                migrations.CreateModel(
                    name="Move",
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
                            "undoes",
                            models.OneToOneField(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="undone_by",
                                to="bench.move",
                            ),
                        ),
                        (
                            "merged_from",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="bench.output",
                            ),
                        ),
                        (
                            "to",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="bench.output",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="Choice",
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
                        ("name", models.CharField(max_length=20)),
                        ("was", models.CharField(blank=True, max_length=40)),
                        ("now", models.CharField(blank=True, max_length=40)),
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
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="choices",
                                to="bench.cuttingtest",
                            ),
                        ),
                        (
                            "output",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="bench.output",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="ScaleCheck",
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
                        ("scale", models.CharField(max_length=20)),
                        (
                            "unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("division", rooms.common.db.fields.PlainDecimalField()),
                        ("lines", models.JSONField()),
                        ("holds", models.BooleanField()),
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
                    ],
                    options={
                        "ordering": ("-at",),
                    },
                ),
                migrations.CreateModel(
                    name="StepCheck",
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
                        ("step_key", models.SlugField()),
                        ("text", models.CharField(max_length=80)),
                        ("is_done", models.BooleanField()),
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
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="checks",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="TestBag",
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
                            "bag",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="opened_for",
                                to="cooler.bag",
                            ),
                        ),
                        (
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="bags",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "abstract": False,
                    },
                ),
                migrations.CreateModel(
                    name="TimeMark",
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
                        (
                            "mark",
                            models.CharField(
                                choices=[
                                    ("start", "start"),
                                    ("pause", "pause"),
                                    ("interrupt", "interrupt"),
                                    ("cooled", "cooled"),
                                ],
                                max_length=10,
                            ),
                        ),
                        ("step_key", models.SlugField(blank=True)),
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
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="marks",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="Tub",
                    fields=[
                        (
                            "id",
                            models.UUIDField(
                                default=uuid.uuid4,
                                editable=False,
                                primary_key=True,
                                serialize=False,
                            ),
                        ),
                        ("name", models.CharField(max_length=40)),
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
                                default="lean",
                                max_length=10,
                            ),
                        ),
                        ("start", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("started_at", models.DateTimeField()),
                        ("closed_at", models.DateTimeField(null=True)),
                        (
                            "started_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("-started_at",),
                    },
                ),
                migrations.AddField(
                    model_name="output",
                    name="tub",
                    field=models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="piles",
                        to="bench.tub",
                    ),
                ),
                migrations.CreateModel(
                    name="Unplaced",
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
                        ("value", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("division", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("portions", models.PositiveSmallIntegerField(null=True)),
                        ("is_typed", models.BooleanField(default=False)),
                        ("scale", models.CharField(blank=True, max_length=20)),
                        ("run", models.CharField(blank=True, max_length=12)),
                        ("sequence", models.BigIntegerField(null=True)),
                        ("tare", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("why", models.CharField(max_length=300)),
                        ("taken_at", models.DateTimeField()),
                        ("came_at", models.DateTimeField()),
                        (
                            "output",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="bench.output",
                            ),
                        ),
                        (
                            "taken_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="unplaced",
                                to="bench.cuttingtest",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name_plural": "unplaced",
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="Weighing",
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
                        ("value", rooms.common.db.fields.PlainDecimalField()),
                        (
                            "unit",
                            models.CharField(
                                choices=[("lb", "lb"), ("oz", "oz"), ("kg", "kg"), ("g", "g")],
                                max_length=2,
                            ),
                        ),
                        ("division", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("portions", models.PositiveSmallIntegerField(null=True)),
                        ("is_typed", models.BooleanField(default=False)),
                        ("is_over", models.BooleanField(default=False)),
                        ("taken_at", models.DateTimeField()),
                        ("scale", models.CharField(blank=True, max_length=20)),
                        ("run", models.CharField(blank=True, max_length=12)),
                        ("sequence", models.BigIntegerField(null=True)),
                        ("tare", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("before", rooms.common.db.fields.PlainDecimalField(null=True)),
                        ("gross", rooms.common.db.fields.PlainDecimalField(null=True)),
                        (
                            "correction",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="weighings",
                                to="bench.correction",
                            ),
                        ),
                        (
                            "instead_of",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="corrected_by",
                                to="bench.weighing",
                            ),
                        ),
                        (
                            "output",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="weighings",
                                to="bench.output",
                            ),
                        ),
                        (
                            "taken_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="weighings",
                                to="bench.cuttingtest",
                            ),
                        ),
                        (
                            "tub",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="weighings",
                                to="bench.tub",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.CreateModel(
                    name="TubEntry",
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
                        ("number", models.PositiveIntegerField()),
                        (
                            "kind",
                            models.CharField(
                                choices=[
                                    ("filled", "filled"),
                                    ("back", "back"),
                                    ("out", "out"),
                                    ("in", "in"),
                                    ("corrected", "corrected"),
                                ],
                                max_length=10,
                            ),
                        ),
                        ("change", rooms.common.db.fields.PlainDecimalField()),
                        ("before", rooms.common.db.fields.PlainDecimalField()),
                        ("gross", rooms.common.db.fields.PlainDecimalField()),
                        ("is_seen", models.BooleanField(default=False)),
                        ("lots", models.JSONField(default=list)),
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
                            "move",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="tub_entries",
                                to="bench.move",
                            ),
                        ),
                        (
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="bench.cuttingtest",
                            ),
                        ),
                        (
                            "tub",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="entries",
                                to="bench.tub",
                            ),
                        ),
                        (
                            "weighing",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="tub_entries",
                                to="bench.weighing",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name_plural": "tub entries",
                        "ordering": ("tub", "number"),
                    },
                ),
                migrations.CreateModel(
                    name="TakeBack",
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
                            "correction",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="take_backs",
                                to="bench.correction",
                            ),
                        ),
                        (
                            "weighing",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="taken_back",
                                to="bench.weighing",
                            ),
                        ),
                    ],
                    options={
                        "abstract": False,
                    },
                ),
                migrations.CreateModel(
                    name="Placed",
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
                        ("reason", models.CharField(blank=True, max_length=200)),
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
                            "unplaced",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="placed",
                                to="bench.unplaced",
                            ),
                        ),
                        (
                            "weighing",
                            models.OneToOneField(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="placed_from",
                                to="bench.weighing",
                            ),
                        ),
                    ],
                    options={
                        "verbose_name_plural": "placed",
                    },
                ),
                migrations.CreateModel(
                    name="PieceBag",
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
                        ("undone_at", models.DateTimeField(null=True)),
                        (
                            "bag",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="cut_at",
                                to="cooler.bag",
                            ),
                        ),
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
                            "output",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to="bench.output",
                            ),
                        ),
                        (
                            "test",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="piece_bags",
                                to="bench.cuttingtest",
                            ),
                        ),
                        (
                            "undone_by",
                            models.ForeignKey(
                                null=True,
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="+",
                                to=settings.AUTH_USER_MODEL,
                            ),
                        ),
                        (
                            "weighing",
                            models.ForeignKey(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="piece_bags",
                                to="bench.weighing",
                            ),
                        ),
                    ],
                    options={
                        "ordering": ("id",),
                    },
                ),
                migrations.AddField(
                    model_name="move",
                    name="weighing",
                    field=models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="moves",
                        to="bench.weighing",
                    ),
                ),
                migrations.CreateModel(
                    name="LaidPortion",
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
                        ("asked", models.JSONField()),
                        (
                            "weighing",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.PROTECT,
                                related_name="laid",
                                to="bench.weighing",
                            ),
                        ),
                    ],
                    options={
                        "abstract": False,
                    },
                ),
                migrations.AddIndex(
                    model_name="cuttingtest",
                    index=models.Index(
                        condition=models.Q(("finished_at", None)),
                        fields=["-number"],
                        name="open_tests",
                    ),
                ),
                migrations.AddIndex(
                    model_name="cuttingtest",
                    index=models.Index(fields=["-finished_at"], name="last_sheets"),
                ),
                migrations.AddIndex(
                    model_name="cuttingtest",
                    index=models.Index(
                        condition=models.Q(
                            ("approved_at__isnull", False),
                            ("finished_at__isnull", False),
                            ("second_plan", None),
                        ),
                        fields=["plan", "-number"],
                        name="tests_of_a_plan",
                    ),
                ),
                migrations.AddConstraint(
                    model_name="cuttingtest",
                    constraint=models.CheckConstraint(
                        condition=models.Q(
                            ("approved_at", None), ("finished_at__isnull", False), _connector="OR"
                        ),
                        name="only_a_finished_test_is_approved",
                    ),
                ),
                migrations.AddConstraint(
                    model_name="correction",
                    constraint=models.UniqueConstraint(
                        fields=("test", "number"), name="one_correction_a_number"
                    ),
                ),
                migrations.AddIndex(
                    model_name="hold",
                    index=models.Index(fields=["scale", "-id"], name="bench_hold_scale_11b1c9_idx"),
                ),
                migrations.AddIndex(
                    model_name="scalecheck",
                    index=models.Index(fields=["-at"], name="bench_scale_at_3560c5_idx"),
                ),
                migrations.AddConstraint(
                    model_name="output",
                    constraint=models.UniqueConstraint(
                        fields=("test", "position"), name="one_pile_a_place"
                    ),
                ),
                migrations.AddConstraint(
                    model_name="output",
                    constraint=models.UniqueConstraint(
                        fields=("test", "name"), name="one_pile_a_name"
                    ),
                ),
                migrations.AddConstraint(
                    model_name="unplaced",
                    constraint=models.UniqueConstraint(
                        condition=models.Q(("sequence__isnull", False)),
                        fields=("scale", "run", "sequence"),
                        name="an_unplaced_reading_once",
                    ),
                ),
                migrations.AddConstraint(
                    model_name="weighing",
                    constraint=models.UniqueConstraint(
                        condition=models.Q(("sequence__isnull", False)),
                        fields=("scale", "run", "sequence"),
                        name="a_reading_is_taken_once",
                    ),
                ),
                migrations.AddConstraint(
                    model_name="tubentry",
                    constraint=models.UniqueConstraint(
                        fields=("tub", "number"), name="one_tub_entry_a_number"
                    ),
                ),
                migrations.AddConstraint(
                    model_name="piecebag",
                    constraint=models.UniqueConstraint(
                        condition=models.Q(("undone_at", None)),
                        fields=("weighing",),
                        name="a_piece_is_in_one_bag",
                    ),
                ),
            ]
        )
    ]
