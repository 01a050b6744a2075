"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import cutting.labels.tray_life
import django.db.models.deletion
import rooms.common.db.fields
import simple_history.models
import uuid
from decimal import Decimal
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("trays", "0001_trays"),
        ("trays", "0002_the_way_back"),
        ("trays", "0003_fill_the_way_back"),
        ("trays", "0004_codes_and_undo"),
    ]

    initial = True

    dependencies = [
        ('bench', '0001_as_of_0_2_0'),
        ('cooler', '0001_as_of_0_2_0'),
        ('grinder', '0001_as_of_0_2_0'),
        ('pricebook', '0001_as_of_0_2_0'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='HistoricalLabelRules',
                fields=[
                    ('id', models.PositiveSmallIntegerField(db_index=True, default=1, editable=False)),
                    ('place', models.CharField(blank=True, max_length=100)),
                    ('link', models.CharField(blank=True, max_length=100)),
                    ('store_code', models.CharField(blank=True, choices=[('', 'none'), ('price_12', 'price_12'), ('price_13', 'price_13'), ('weight_13', 'weight_13')], max_length=9)),
                    ('stock', models.CharField(choices=[('small', 'small'), ('middle', 'middle'), ('large', 'large')], default='large', max_length=6)),
                    ('keeps_days', models.PositiveSmallIntegerField(default=3)),
                    ('keeps_ground_days', models.PositiveSmallIntegerField(default=1)),
                    ('tells_origin', models.BooleanField(default=True)),
                    ('markdown_days', models.PositiveSmallIntegerField(default=0)),
                    ('markdown_off', rooms.common.db.fields.PlainDecimalField(default=Decimal('0.30'))),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical label rules',
                    'verbose_name_plural': 'historical label rules',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalProductLabel',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('item', models.CharField(blank=True, max_length=5)),
                    ('gtin', models.CharField(blank=True, max_length=14)),
                    ('keeps_days', models.PositiveSmallIntegerField(null=True)),
                    ('serving', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('product', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='pricebook.product')),
                ],
                options={
                    'verbose_name': 'historical product label',
                    'verbose_name_plural': 'historical product labels',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='LabelRules',
                fields=[
                    ('id', models.PositiveSmallIntegerField(default=1, editable=False, primary_key=True, serialize=False)),
                    ('place', models.CharField(blank=True, max_length=100)),
                    ('link', models.CharField(blank=True, max_length=100)),
                    ('store_code', models.CharField(blank=True, choices=[('', 'none'), ('price_12', 'price_12'), ('price_13', 'price_13'), ('weight_13', 'weight_13')], max_length=9)),
                    ('stock', models.CharField(choices=[('small', 'small'), ('middle', 'middle'), ('large', 'large')], default='large', max_length=6)),
                    ('keeps_days', models.PositiveSmallIntegerField(default=3)),
                    ('keeps_ground_days', models.PositiveSmallIntegerField(default=1)),
                    ('tells_origin', models.BooleanField(default=True)),
                    ('markdown_days', models.PositiveSmallIntegerField(default=0)),
                    ('markdown_off', rooms.common.db.fields.PlainDecimalField(default=Decimal('0.30'))),
                ],
                options={
                    'verbose_name_plural': 'label rules',
                    'constraints': [models.CheckConstraint(condition=models.Q(('id', 1)), name='one_set_of_label_rules')],
                },
            ),
            migrations.CreateModel(
                name='MarkDown',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('was_amount', rooms.common.db.fields.PlainDecimalField()),
                    ('was_total', rooms.common.db.fields.PlainDecimalField()),
                    ('amount', rooms.common.db.fields.PlainDecimalField()),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('total', rooms.common.db.fields.PlainDecimalField()),
                    ('document', models.JSONField()),
                    ('code', models.CharField(blank=True, db_index=True, max_length=13)),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='Recall',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('lot', models.CharField(max_length=60)),
                    ('lot_key', rooms.common.db.fields.LotKeyField(db_index=True, editable=False, max_length=60)),
                    ('started_at', models.DateTimeField()),
                    ('ended_at', models.DateTimeField(null=True)),
                    ('report', models.JSONField(default=dict)),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('ended_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('hold', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='recall', to='cooler.lothold')),
                ],
                options={
                    'ordering': ('-id',),
                },
            ),
            migrations.CreateModel(
                name='Tray',
                fields=[
                    ('id', models.UUIDField(editable=False, primary_key=True, serialize=False)),
                    ('number', models.PositiveIntegerField(unique=True)),
                    ('serial', models.CharField(max_length=20, unique=True)),
                    ('lots', models.JSONField(default=list)),
                    ('no_lot_reason', models.CharField(blank=True, max_length=200)),
                    ('code', models.CharField(blank=True, db_index=True, max_length=13)),
                    ('set_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('gross', rooms.common.db.fields.PlainDecimalField()),
                    ('tare', rooms.common.db.fields.PlainDecimalField()),
                    ('net', rooms.common.db.fields.PlainDecimalField()),
                    ('unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('division', rooms.common.db.fields.PlainDecimalField()),
                    ('is_typed', models.BooleanField(default=True)),
                    ('scale', models.CharField(blank=True, max_length=20)),
                    ('pieces', models.PositiveSmallIntegerField(null=True)),
                    ('amount', rooms.common.db.fields.PlainDecimalField()),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('total', rooms.common.db.fields.PlainDecimalField()),
                    ('packed_at', models.DateTimeField(db_index=True)),
                    ('packed_on', models.DateField()),
                    ('sell_by', models.DateField(db_index=True)),
                    ('life', models.CharField(choices=[('packed', 'packed'), ('in_case', 'in case'), ('marked_down', 'marked down'), ('sold', 'sold'), ('thrown', 'thrown'), ('to_tub', 'to tub'), ('to_block', 'to block'), ('undone', 'undone')], default=cutting.labels.tray_life.Life['PACKED'], max_length=11)),
                    ('document', models.JSONField()),
                    ('again_of', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='again', to='trays.tray')),
                    ('batch', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='trays', to='grinder.batch')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('from_batch', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='from_it', to='grinder.batch')),
                    ('from_test', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='trays', to='bench.cuttingtest')),
                    ('mark', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='trays.markdown')),
                    ('output', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='trays', to='bench.output')),
                    ('packed', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='grinder.packed')),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='trays', to='pricebook.product')),
                    ('size', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.traysize')),
                ],
                options={
                    'ordering': ('-number',),
                },
            ),
            migrations.AddField(
                model_name='markdown',
                name='tray',
                field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='marks', to='trays.tray'),
            ),
            migrations.CreateModel(
                name='TrayEvent',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('was', models.CharField(choices=[('packed', 'packed'), ('in_case', 'in case'), ('marked_down', 'marked down'), ('sold', 'sold'), ('thrown', 'thrown'), ('to_tub', 'to tub'), ('to_block', 'to block'), ('undone', 'undone')], max_length=11)),
                    ('life', models.CharField(choices=[('packed', 'packed'), ('in_case', 'in case'), ('marked_down', 'marked down'), ('sold', 'sold'), ('thrown', 'thrown'), ('to_tub', 'to tub'), ('to_block', 'to block'), ('undone', 'undone')], max_length=11)),
                    ('reason', models.CharField(blank=True, max_length=200)),
                    ('at', models.DateTimeField(db_index=True)),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('entry', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='of_tray', to='grinder.tubin')),
                    ('mark', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='trays.markdown')),
                    ('tray', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='events', to='trays.tray')),
                    ('undoes', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='undone_by', to='trays.trayevent')),
                    ('was_mark', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='trays.markdown')),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='TrayTare',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('value', rooms.common.db.fields.PlainDecimalField()),
                    ('unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('size', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='tares', to='pricebook.traysize')),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='ProductLabel',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('item', models.CharField(blank=True, max_length=5)),
                    ('gtin', models.CharField(blank=True, max_length=14)),
                    ('keeps_days', models.PositiveSmallIntegerField(null=True)),
                    ('serving', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('product', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name='label', to='pricebook.product')),
                ],
                options={
                    'constraints': [models.UniqueConstraint(condition=models.Q(('item', ''), _negated=True), fields=('item',), name='an_item_once'), models.UniqueConstraint(condition=models.Q(('gtin', ''), _negated=True), fields=('gtin',), name='a_gtin_once')],
                },
            ),
            migrations.CreateModel(
                name='PrintJob',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(default=uuid.uuid4, unique=True)),
                    ('kind', models.CharField(choices=[('tray', 'tray label'), ('tag', 'shelf tag'), ('case', 'label of a case'), ('card', 'card for the counter')], max_length=4)),
                    ('title', models.CharField(max_length=120)),
                    ('document', models.JSONField()),
                    ('stock', models.CharField(max_length=6)),
                    ('copy', models.PositiveSmallIntegerField(default=0)),
                    ('state', models.CharField(choices=[('waiting', 'waiting'), ('printed', 'printed'), ('dropped', 'taken off the queue'), ('failed', 'cannot be drawn')], default='waiting', max_length=8)),
                    ('made_at', models.DateTimeField()),
                    ('claimed_at', models.DateTimeField(null=True)),
                    ('printed_at', models.DateTimeField(null=True)),
                    ('said', models.CharField(blank=True, max_length=200)),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('product', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.product')),
                    ('tray', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='jobs', to='trays.tray')),
                ],
                options={
                    'ordering': ('id',),
                    'indexes': [models.Index(condition=models.Q(('state', 'waiting')), fields=['id'], name='waiting_labels')],
                },
            ),
            migrations.CreateModel(
                name='Found',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('recall', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='found', to='trays.recall')),
                    ('tray', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='found', to='trays.tray')),
                ],
                options={
                    'verbose_name_plural': 'found',
                    'ordering': ('id',),
                    'constraints': [models.UniqueConstraint(fields=('recall', 'tray'), name='a_tray_is_found_once')],
                },
            ),
        ]),
    ]
