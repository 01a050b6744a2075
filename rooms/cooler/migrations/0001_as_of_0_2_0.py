"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.db.models.deletion
import rooms.common.db.fields
import simple_history.models
import uuid
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("cooler", "0001_initial"),
        ("cooler", "0002_codes"),
        ("cooler", "0003_days_of_a_bag"),
        ("cooler", "0004_quality"),
        ("cooler", "0005_invoice_unit"),
        ("cooler", "0006_held"),
        ("cooler", "0007_fill_lot_keys"),
        ("cooler", "0008_origin"),
        ("cooler", "0009_history_of_windows"),
        ("cooler", "0010_pieces_cut_here"),
    ]

    initial = True

    dependencies = [
        ('catalog', '0001_as_of_0_2_0'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='AgeWindow',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('least', models.PositiveSmallIntegerField()),
                    ('best_from', models.PositiveSmallIntegerField()),
                    ('best_to', models.PositiveSmallIntegerField()),
                    ('end', models.PositiveSmallIntegerField()),
                    ('piece', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='window', to='catalog.piece')),
                ],
            ),
            migrations.CreateModel(
                name='Bag',
                fields=[
                    ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                    ('gtin', models.CharField(blank=True, max_length=14)),
                    ('serial', models.CharField(blank=True, max_length=40)),
                    ('lot', models.CharField(blank=True, max_length=60)),
                    ('lot_key', rooms.common.db.fields.LotKeyField(blank=True, db_index=True, default='', editable=False, max_length=60)),
                    ('grade', models.CharField(blank=True, max_length=30)),
                    ('country', models.CharField(blank=True, max_length=60)),
                    ('born', models.CharField(blank=True, max_length=2)),
                    ('raised', models.CharField(blank=True, max_length=2)),
                    ('slaughtered', models.CharField(blank=True, max_length=2)),
                    ('pieces_inside', models.PositiveSmallIntegerField(default=1)),
                    ('weight_value', rooms.common.db.fields.PlainDecimalField()),
                    ('weight_unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('price_amount', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('price_per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], default='lb', max_length=2)),
                    ('freight', rooms.common.db.fields.PlainDecimalField()),
                    ('discount', rooms.common.db.fields.PlainDecimalField()),
                    ('own_value', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('own_unit', models.CharField(blank=True, choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('packed_on', models.DateField()),
                    ('use_by', models.DateField(null=True)),
                    ('was_frozen', models.BooleanField(default=False)),
                    ('damage', models.JSONField(blank=True, default=list)),
                    ('marbling', models.PositiveSmallIntegerField(null=True)),
                    ('claims', models.CharField(blank=True, max_length=100)),
                    ('seal', models.CharField(choices=[('tight', 'tight'), ('suspect', 'suspect'), ('leaking', 'leaking')], default='tight', max_length=10)),
                    ('state', models.CharField(choices=[('in', 'in the cooler'), ('opened', 'opened'), ('back', 'sent back'), ('out', 'thrown away'), ('undone', 'taken back to the sheet')], default='in', max_length=10)),
                    ('came_at', models.DateTimeField()),
                    ('left_at', models.DateTimeField(null=True)),
                    ('old_enough_on', models.DateField(editable=False, null=True)),
                    ('best_from', models.DateField(editable=False, null=True)),
                    ('best_to', models.DateField(editable=False, null=True)),
                    ('ends_on', models.DateField(editable=False, null=True)),
                    ('lost_days', models.PositiveSmallIntegerField(editable=False, null=True)),
                    ('age_before', models.PositiveSmallIntegerField(default=0)),
                    ('is_unsealed', models.BooleanField(default=False)),
                    ('sealed_on', models.DateField(null=True)),
                    ('cut_of', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='pieces', to='cooler.bag')),
                    ('part_of', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='parts', to='cooler.bag')),
                    ('piece', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='bags', to='catalog.piece')),
                ],
                options={
                    'ordering': ('packed_on', 'came_at', 'id'),
                },
            ),
            migrations.CreateModel(
                name='BagEvent',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(max_length=20)),
                    ('words', models.CharField(max_length=300)),
                    ('at', models.DateTimeField()),
                    ('bag', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='events', to='cooler.bag')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='Delivery',
                fields=[
                    ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                    ('number', models.PositiveIntegerField(unique=True)),
                    ('supplier', models.CharField(max_length=100)),
                    ('establishment', models.CharField(blank=True, max_length=20)),
                    ('invoice', models.CharField(blank=True, max_length=40)),
                    ('received_at', models.DateTimeField()),
                    ('freight', rooms.common.db.fields.PlainDecimalField()),
                    ('discount', rooms.common.db.fields.PlainDecimalField()),
                    ('arrival', models.IntegerField(null=True)),
                    ('arrival_reason', models.CharField(blank=True, max_length=300)),
                    ('invoice_bags', models.PositiveIntegerField(null=True)),
                    ('invoice_weight', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('invoice_unit', models.CharField(blank=True, choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('invoice_amount', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('difference_reason', models.CharField(blank=True, max_length=300)),
                    ('closed_at', models.DateTimeField(null=True)),
                    ('received_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('-number',),
                },
            ),
            migrations.AddField(
                model_name='bag',
                name='delivery',
                field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='bags', to='cooler.delivery'),
            ),
            migrations.CreateModel(
                name='DeliveryFile',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('digest', models.CharField(max_length=64, unique=True)),
                    ('name', models.CharField(max_length=200)),
                    ('at', models.DateTimeField()),
                    ('delivery', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='files', to='cooler.delivery')),
                ],
                options={
                    'abstract': False,
                },
            ),
            migrations.CreateModel(
                name='Excursion',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('started_at', models.DateTimeField()),
                    ('last_at', models.DateTimeField()),
                    ('ended_at', models.DateTimeField(null=True)),
                    ('peak', models.IntegerField()),
                ],
                options={
                    'ordering': ('-started_at',),
                    'indexes': [models.Index(fields=['started_at'], name='cooler_excu_started_02a872_idx')],
                },
            ),
            migrations.CreateModel(
                name='HistoricalAgeWindow',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('least', models.PositiveSmallIntegerField()),
                    ('best_from', models.PositiveSmallIntegerField()),
                    ('best_to', models.PositiveSmallIntegerField()),
                    ('end', models.PositiveSmallIntegerField()),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('piece', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='catalog.piece')),
                ],
                options={
                    'verbose_name': 'historical age window',
                    'verbose_name_plural': 'historical age windows',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='LotHold',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('lot', models.CharField(max_length=60)),
                    ('lot_key', rooms.common.db.fields.LotKeyField(db_index=True, editable=False, max_length=60)),
                    ('reason', models.CharField(max_length=200)),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('-id',),
                },
            ),
            migrations.CreateModel(
                name='HoldLifted',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('reason', models.CharField(max_length=200)),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('hold', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name='lifted', to='cooler.lothold')),
                ],
                options={
                    'abstract': False,
                },
            ),
            migrations.CreateModel(
                name='ProductCode',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('gtin', models.CharField(max_length=14, unique=True)),
                    ('piece', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='catalog.piece')),
                ],
                options={
                    'ordering': ('gtin',),
                },
            ),
            migrations.CreateModel(
                name='Reading',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('at', models.DateTimeField(unique=True)),
                    ('stamp', models.BigIntegerField(db_index=True, editable=False)),
                    ('value', models.IntegerField(null=True)),
                    ('is_manual', models.BooleanField(default=False)),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('at',),
                },
            ),
            migrations.AddIndex(
                model_name='bag',
                index=models.Index(condition=models.Q(('state', 'in')), fields=['packed_on'], name='bags_in_cooler'),
            ),
            migrations.AddIndex(
                model_name='bag',
                index=models.Index(fields=['gtin', 'serial'], name='bag_serials'),
            ),
            migrations.AddConstraint(
                model_name='bag',
                constraint=models.UniqueConstraint(condition=models.Q(models.Q(('serial', ''), _negated=True), models.Q(('state', 'back'), _negated=True)), fields=('gtin', 'serial'), name='one_bag_a_serial'),
            ),
            migrations.AddConstraint(
                model_name='bag',
                constraint=models.CheckConstraint(condition=models.Q(models.Q(('left_at', None), ('state', 'in')), models.Q(models.Q(('state', 'in'), _negated=True), ('left_at__isnull', False)), _connector='OR'), name='a_bag_that_left_says_when'),
            ),
        ]),
    ]
