"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.db.models.deletion
import rooms.common.db.fields
import simple_history.models
from decimal import Decimal
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("pricebook", "0001_initial"),
        ("pricebook", "0002_initial"),
        ("pricebook", "0003_the_book"),
        ("pricebook", "0004_earlier_prices"),
        ("pricebook", "0005_every_price_in_a_version"),
        ("pricebook", "0006_history_of_what_products_share"),
        ("pricebook", "0007_a_basis_of_two_plans"),
        ("pricebook", "0008_price_off"),
        ("pricebook", "0009_what_steps_make"),
    ]

    initial = True

    dependencies = [
        ('catalog', '0001_as_of_0_2_0'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='Adder',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=60, unique=True)),
                    ('price', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('minutes', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('material', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('pick_up', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('makes', models.CharField(blank=True, choices=[('tenderized', 'mechanically tenderized'), ('cubed', 'cubed'), ('seasoned', 'seasoned or stuffed')], max_length=12)),
                    ('ingredients', models.CharField(blank=True, max_length=400)),
                    ('allergens', models.JSONField(blank=True, default=list)),
                    ('caution', models.CharField(blank=True, max_length=200)),
                    ('position', models.PositiveSmallIntegerField(default=0)),
                    ('is_dropped', models.BooleanField(default=False)),
                ],
                options={
                    'ordering': ('position', 'name'),
                },
            ),
            migrations.CreateModel(
                name='Ending',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=60, unique=True)),
                    ('bands', models.JSONField()),
                    ('direction', models.CharField(choices=[('up', 'up'), ('down', 'down'), ('nearest', 'nearest')], default='nearest', max_length=10)),
                ],
                options={
                    'ordering': ('name',),
                },
            ),
            migrations.CreateModel(
                name='TraySize',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('code', models.CharField(max_length=20, unique=True)),
                    ('inside', models.CharField(blank=True, max_length=40)),
                    ('fits', models.PositiveSmallIntegerField(default=1)),
                    ('tray_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('pad_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('film_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('label_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('is_dropped', models.BooleanField(default=False)),
                ],
                options={
                    'ordering': ('code',),
                },
            ),
            migrations.CreateModel(
                name='Basis',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('plan_name', models.CharField(blank=True, max_length=220)),
                    ('document', models.JSONField()),
                    ('tests', models.JSONField()),
                    ('made_at', models.DateTimeField()),
                    ('piece', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='catalog.piece')),
                ],
                options={
                    'verbose_name_plural': 'bases',
                    'ordering': ('-id',),
                },
            ),
            migrations.CreateModel(
                name='Family',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=60, unique=True)),
                    ('comfort', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('ending', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.ending')),
                ],
                options={
                    'verbose_name_plural': 'families',
                    'ordering': ('name',),
                },
            ),
            migrations.CreateModel(
                name='HistoricalAdder',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('name', models.CharField(db_index=True, max_length=60)),
                    ('price', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('minutes', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('material', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('pick_up', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('makes', models.CharField(blank=True, choices=[('tenderized', 'mechanically tenderized'), ('cubed', 'cubed'), ('seasoned', 'seasoned or stuffed')], max_length=12)),
                    ('ingredients', models.CharField(blank=True, max_length=400)),
                    ('allergens', models.JSONField(blank=True, default=list)),
                    ('caution', models.CharField(blank=True, max_length=200)),
                    ('position', models.PositiveSmallIntegerField(default=0)),
                    ('is_dropped', models.BooleanField(default=False)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical adder',
                    'verbose_name_plural': 'historical adders',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalEnding',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('name', models.CharField(db_index=True, max_length=60)),
                    ('bands', models.JSONField()),
                    ('direction', models.CharField(choices=[('up', 'up'), ('down', 'down'), ('nearest', 'nearest')], default='nearest', max_length=10)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical ending',
                    'verbose_name_plural': 'historical endings',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalFamily',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('name', models.CharField(db_index=True, max_length=60)),
                    ('comfort', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('ending', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='pricebook.ending')),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical family',
                    'verbose_name_plural': 'historical families',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalTraySize',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('code', models.CharField(db_index=True, max_length=20)),
                    ('inside', models.CharField(blank=True, max_length=40)),
                    ('fits', models.PositiveSmallIntegerField(default=1)),
                    ('tray_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('pad_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('film_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('label_cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('is_dropped', models.BooleanField(default=False)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical tray size',
                    'verbose_name_plural': 'historical tray sizes',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='Product',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=100)),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], default='lb', max_length=2)),
                    ('shows_both', models.BooleanField(default=False)),
                    ('transfer', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('ready_cut', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('target_margin', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('floor_margin', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('tray_weight', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('tray_unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], default='lb', max_length=2)),
                    ('portions', models.PositiveSmallIntegerField(null=True)),
                    ('shrink', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('tax', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('minutes', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('carries_labour', models.BooleanField(default=False)),
                    ('carries_packaging', models.BooleanField(default=False)),
                    ('counter', models.CharField(choices=[('self', 'self-service'), ('service', 'service counter'), ('either', 'either')], default='self', max_length=10)),
                    ('story', models.CharField(blank=True, max_length=200)),
                    ('is_sold', models.BooleanField(default=True)),
                    ('adders', models.ManyToManyField(blank=True, related_name='products', to='pricebook.adder')),
                    ('cut', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name='product', to='catalog.cut')),
                    ('ending', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.ending')),
                    ('family', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='products', to='pricebook.family')),
                    ('tray', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.traysize')),
                ],
                options={
                    'ordering': ('cut__species', 'name'),
                },
            ),
            migrations.CreateModel(
                name='Price',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('amount', rooms.common.db.fields.PlainDecimalField()),
                    ('effective_on', models.DateField()),
                    ('made_at', models.DateTimeField()),
                    ('from_test', models.UUIDField(db_index=True, null=True)),
                    ('from_test_number', models.PositiveIntegerField(null=True)),
                    ('school', models.CharField(blank=True, max_length=20)),
                    ('cost', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('paid_amount', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('paid_per', models.CharField(blank=True, choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('basis', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='prices', to='pricebook.basis')),
                    ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='prices', to='pricebook.product')),
                ],
                options={
                    'ordering': ('-id',),
                },
            ),
            migrations.CreateModel(
                name='NeighbourPrice',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('place', models.CharField(max_length=60)),
                    ('amount', rooms.common.db.fields.PlainDecimalField()),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], default='lb', max_length=2)),
                    ('seen_on', models.DateField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='neighbours', to='pricebook.product')),
                ],
                options={
                    'ordering': ('-seen_on', '-id'),
                },
            ),
            migrations.CreateModel(
                name='HistoricalProduct',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('name', models.CharField(max_length=100)),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], default='lb', max_length=2)),
                    ('shows_both', models.BooleanField(default=False)),
                    ('transfer', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('ready_cut', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('target_margin', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('floor_margin', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('tray_weight', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('tray_unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], default='lb', max_length=2)),
                    ('portions', models.PositiveSmallIntegerField(null=True)),
                    ('shrink', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('tax', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('minutes', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('carries_labour', models.BooleanField(default=False)),
                    ('carries_packaging', models.BooleanField(default=False)),
                    ('counter', models.CharField(choices=[('self', 'self-service'), ('service', 'service counter'), ('either', 'either')], default='self', max_length=10)),
                    ('story', models.CharField(blank=True, max_length=200)),
                    ('is_sold', models.BooleanField(default=True)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('cut', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='catalog.cut')),
                    ('ending', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='pricebook.ending')),
                    ('family', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='pricebook.family')),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('tray', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='pricebook.traysize')),
                ],
                options={
                    'verbose_name': 'historical product',
                    'verbose_name_plural': 'historical products',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='Version',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('number', models.PositiveIntegerField(unique=True)),
                    ('kind', models.CharField(choices=[('test', 'from a cutting test'), ('invoice', 'the invoice moved'), ('hand', 'entered'), ('file', 'from a file'), ('undo', 'taken back')], default='hand', max_length=10)),
                    ('why', models.CharField(blank=True, max_length=200)),
                    ('school', models.CharField(blank=True, max_length=20)),
                    ('made_at', models.DateTimeField()),
                    ('effective_on', models.DateField()),
                    ('digest', models.CharField(blank=True, max_length=64)),
                    ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('undoes', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='undone_by', to='pricebook.version')),
                ],
                options={
                    'ordering': ('-number',),
                },
            ),
            migrations.CreateModel(
                name='PriceOff',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('price', models.OneToOneField(on_delete=django.db.models.deletion.PROTECT, related_name='off', to='pricebook.price')),
                    ('version', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='off', to='pricebook.version')),
                ],
                options={
                    'verbose_name_plural': 'prices off',
                    'ordering': ('id',),
                },
            ),
            migrations.AddField(
                model_name='price',
                name='version',
                field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='prices', to='pricebook.version'),
            ),
            migrations.AddIndex(
                model_name='price',
                index=models.Index(fields=['product', '-effective_on', '-id'], name='newest_price'),
            ),
        ]),
    ]
