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
        ("today", "0001_initial"),
        ("today", "0002_wanted_moves"),
        ("planner", "0001_initial"),
        ("planner", "0002_sold"),
        ("planner", "0003_demand_and_order"),
        ("planner", "0004_history_of_the_list"),
        ("planner", "0005_newest_by_number"),
    ]

    initial = True

    dependencies = [
        ('catalog', '0001_as_of_0_2_0'),
        ('pricebook', '0001_as_of_0_2_0'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='BuyingTerms',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('in_case', models.PositiveSmallIntegerField(default=1)),
                    ('more', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('piece', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='terms', to='catalog.piece')),
                ],
                options={
                    'verbose_name_plural': 'buying terms',
                },
            ),
            migrations.CreateModel(
                name='HistoricalBuyingTerms',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('in_case', models.PositiveSmallIntegerField(default=1)),
                    ('more', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('piece', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='catalog.piece')),
                ],
                options={
                    'verbose_name': 'historical buying terms',
                    'verbose_name_plural': 'historical buying terms',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalWanted',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('weekday', models.PositiveSmallIntegerField(choices=[(0, 'Monday'), (1, 'Tuesday'), (2, 'Wednesday'), (3, 'Thursday'), (4, 'Friday'), (5, 'Saturday'), (6, 'Sunday')])),
                    ('least', rooms.common.db.fields.PlainDecimalField()),
                    ('most', rooms.common.db.fields.PlainDecimalField()),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('product', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='pricebook.product')),
                ],
                options={
                    'verbose_name': 'historical wanted',
                    'verbose_name_plural': 'historical wanteds',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='DayPlan',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('day', models.DateField()),
                    ('hands', models.PositiveSmallIntegerField()),
                    ('minutes', rooms.common.db.fields.PlainDecimalField()),
                    ('document', models.JSONField()),
                    ('answer', models.JSONField()),
                    ('worth', models.JSONField(default=dict)),
                    ('pins', models.JSONField(default=dict)),
                    ('made_at', models.DateTimeField()),
                    ('given_at', models.DateTimeField(null=True)),
                    ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('-id',),
                    'indexes': [models.Index(fields=['day', '-made_at'], name='plans_of_a_day')],
                },
            ),
            migrations.CreateModel(
                name='Factor',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(choices=[('season', 'season'), ('holiday', 'holiday'), ('ad', 'ad')], max_length=8)),
                    ('name', models.CharField(max_length=60)),
                    ('first', models.DateField()),
                    ('last', models.DateField()),
                    ('percent', rooms.common.db.fields.PlainDecimalField()),
                    ('set_at', models.DateTimeField()),
                    ('taken_off_at', models.DateTimeField(null=True)),
                    ('product', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='+', to='pricebook.product')),
                    ('set_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('first', 'id'),
                    'indexes': [models.Index(fields=['last'], name='factors_by_end')],
                },
            ),
            migrations.CreateModel(
                name='NextOrder',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('arrives_on', models.DateField()),
                    ('lasts_until', models.DateField()),
                    ('document', models.JSONField()),
                    ('answer', models.JSONField()),
                    ('made_at', models.DateTimeField()),
                    ('sent_at', models.DateTimeField(null=True)),
                    ('taken_back_at', models.DateTimeField(null=True)),
                    ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('-id',),
                    'indexes': [models.Index(fields=['arrives_on'], name='orders_by_arrival')],
                },
            ),
            migrations.CreateModel(
                name='Sold',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('day', models.DateField()),
                    ('hour', models.PositiveSmallIntegerField(null=True)),
                    ('weight', rooms.common.db.fields.PlainDecimalField()),
                    ('money', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('taken_at', models.DateTimeField()),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='sold', to='pricebook.product')),
                    ('taken_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name_plural': 'sold',
                    'ordering': ('day', 'hour', 'id'),
                    'indexes': [models.Index(fields=['product', 'day'], name='sold_by_day')],
                    'constraints': [models.UniqueConstraint(fields=('product', 'day', 'hour'), name='sold_once_an_hour'), models.UniqueConstraint(condition=models.Q(('hour', None)), fields=('product', 'day'), name='sold_once_a_day')],
                },
            ),
            migrations.CreateModel(
                name='StandingOrder',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('customer', models.CharField(max_length=60)),
                    ('spec', models.CharField(blank=True, max_length=120)),
                    ('count', models.PositiveSmallIntegerField()),
                    ('portion_value', rooms.common.db.fields.PlainDecimalField()),
                    ('portion_unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('weekday', models.PositiveSmallIntegerField(choices=[(0, 'Monday'), (1, 'Tuesday'), (2, 'Wednesday'), (3, 'Thursday'), (4, 'Friday'), (5, 'Saturday'), (6, 'Sunday')])),
                    ('since', models.DateField()),
                    ('until', models.DateField(null=True)),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='standing', to='pricebook.product')),
                    ('set_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('weekday', 'customer', 'id'),
                    'indexes': [models.Index(fields=['weekday'], name='orders_by_weekday')],
                },
            ),
            migrations.CreateModel(
                name='Wanted',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('weekday', models.PositiveSmallIntegerField(choices=[(0, 'Monday'), (1, 'Tuesday'), (2, 'Wednesday'), (3, 'Thursday'), (4, 'Friday'), (5, 'Saturday'), (6, 'Sunday')])),
                    ('least', rooms.common.db.fields.PlainDecimalField()),
                    ('most', rooms.common.db.fields.PlainDecimalField()),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='wanted', to='pricebook.product')),
                ],
                options={
                    'db_table': 'today_wanted',
                    'ordering': ('weekday', 'product__name'),
                    'constraints': [models.UniqueConstraint(fields=('product', 'weekday'), name='wanted_once_a_day')],
                },
            ),
        ]),
    ]
