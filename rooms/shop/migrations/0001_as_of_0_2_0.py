"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.db.models.deletion
import rooms.common.db.fields
import simple_history.models
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("shop", "0001_settings"),
        ("shop", "0002_from_the_environment"),
        ("shop", "0003_lock_minutes"),
    ]

    initial = True

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='FirstDayMark',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('step', models.CharField(max_length=40)),
                    ('kind', models.CharField(choices=[('done', 'done'), ('aside', 'put aside'), ('again', 'taken up again')], max_length=5)),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='HistoricalShop',
                fields=[
                    ('id', models.PositiveSmallIntegerField(db_index=True, default=1, editable=False)),
                    ('name', models.CharField(max_length=60)),
                    ('own_short_name', models.CharField(blank=True, max_length=20)),
                    ('currency', models.CharField(max_length=3)),
                    ('unit', models.CharField(choices=[('lb', 'pounds'), ('kg', 'kilograms')], max_length=2)),
                    ('names_first', models.CharField(choices=[('us', 'US names, such as strip steak'), ('commonwealth', 'Commonwealth names, such as sirloin steak')], max_length=12)),
                    ('time_zone', models.CharField(max_length=64)),
                    ('day_order', models.CharField(choices=[('day', 'day'), ('month', 'month'), ('year', 'year')], max_length=6)),
                    ('clock', models.CharField(choices=[('24', '24'), ('12', '12')], max_length=2)),
                    ('labour_rate', rooms.common.db.fields.PlainDecimalField()),
                    ('school', models.CharField(choices=[('flat', 'flat'), ('credit', 'credit'), ('sales_value', 'sales_value'), ('replacement', 'replacement')], max_length=20)),
                    ('price_way', models.CharField(choices=[('piece', 'the whole piece at one target'), ('each', 'each product at its own target')], max_length=5)),
                    ('target_margin', rooms.common.db.fields.PlainDecimalField()),
                    ('floor_margin', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('endings', models.JSONField()),
                    ('ending_direction', models.CharField(choices=[('up', 'up'), ('down', 'down'), ('nearest', 'to the nearest')], max_length=10)),
                    ('delivery_days', models.JSONField(default=list)),
                    ('origin_asked', models.JSONField(default=list)),
                    ('warmest', models.IntegerField()),
                    ('coldest', models.IntegerField()),
                    ('scales', models.JSONField()),
                    ('fat_level', models.CharField(blank=True, choices=[('', 'as the plan says'), ('none', 'none'), ('1/8 in', '1/8 in'), ('1/4 in', '1/4 in')], max_length=10)),
                    ('steak_trim', models.CharField(choices=[('whole', 'the whole piece before steaks are cut'), ('each', 'steak by steak')], max_length=6)),
                    ('silver_skin', models.CharField(choices=[('never', 'never into the grind'), ('grind', 'thin skin may go into the grind')], max_length=6)),
                    ('leg_cap', models.CharField(choices=[('grill', 'a quick piece for the grill'), ('grind', 'to the grind')], max_length=6)),
                    ('boning', models.CharField(choices=[('open', 'opened like a book, the gland in sight'), ('tunnel', 'by tunnel, the shoulder stays closed')], max_length=6)),
                    ('lock_minutes', models.PositiveSmallIntegerField(default=30)),
                    ('is_set_up', models.BooleanField(default=False)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical shop',
                    'verbose_name_plural': 'historical shops',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='Shop',
                fields=[
                    ('id', models.PositiveSmallIntegerField(default=1, editable=False, primary_key=True, serialize=False)),
                    ('name', models.CharField(max_length=60)),
                    ('own_short_name', models.CharField(blank=True, max_length=20)),
                    ('currency', models.CharField(max_length=3)),
                    ('unit', models.CharField(choices=[('lb', 'pounds'), ('kg', 'kilograms')], max_length=2)),
                    ('names_first', models.CharField(choices=[('us', 'US names, such as strip steak'), ('commonwealth', 'Commonwealth names, such as sirloin steak')], max_length=12)),
                    ('time_zone', models.CharField(max_length=64)),
                    ('day_order', models.CharField(choices=[('day', 'day'), ('month', 'month'), ('year', 'year')], max_length=6)),
                    ('clock', models.CharField(choices=[('24', '24'), ('12', '12')], max_length=2)),
                    ('labour_rate', rooms.common.db.fields.PlainDecimalField()),
                    ('school', models.CharField(choices=[('flat', 'flat'), ('credit', 'credit'), ('sales_value', 'sales_value'), ('replacement', 'replacement')], max_length=20)),
                    ('price_way', models.CharField(choices=[('piece', 'the whole piece at one target'), ('each', 'each product at its own target')], max_length=5)),
                    ('target_margin', rooms.common.db.fields.PlainDecimalField()),
                    ('floor_margin', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('endings', models.JSONField()),
                    ('ending_direction', models.CharField(choices=[('up', 'up'), ('down', 'down'), ('nearest', 'to the nearest')], max_length=10)),
                    ('delivery_days', models.JSONField(default=list)),
                    ('origin_asked', models.JSONField(default=list)),
                    ('warmest', models.IntegerField()),
                    ('coldest', models.IntegerField()),
                    ('scales', models.JSONField()),
                    ('fat_level', models.CharField(blank=True, choices=[('', 'as the plan says'), ('none', 'none'), ('1/8 in', '1/8 in'), ('1/4 in', '1/4 in')], max_length=10)),
                    ('steak_trim', models.CharField(choices=[('whole', 'the whole piece before steaks are cut'), ('each', 'steak by steak')], max_length=6)),
                    ('silver_skin', models.CharField(choices=[('never', 'never into the grind'), ('grind', 'thin skin may go into the grind')], max_length=6)),
                    ('leg_cap', models.CharField(choices=[('grill', 'a quick piece for the grill'), ('grind', 'to the grind')], max_length=6)),
                    ('boning', models.CharField(choices=[('open', 'opened like a book, the gland in sight'), ('tunnel', 'by tunnel, the shoulder stays closed')], max_length=6)),
                    ('lock_minutes', models.PositiveSmallIntegerField(default=30)),
                    ('is_set_up', models.BooleanField(default=False)),
                ],
                options={
                    'constraints': [models.CheckConstraint(condition=models.Q(('id', 1)), name='one_shop')],
                },
            ),
        ]),
    ]
