"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.db.models.deletion
import rooms.common.db.fields
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("layout", "0001_measured"),
        ("layout", "0002_came_out"),
    ]

    initial = True

    dependencies = [
        ('catalog', '0001_as_of_0_2_0'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='CameOut',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('test', models.UUIDField(unique=True)),
                    ('part', models.CharField(blank=True, max_length=20)),
                    ('scale', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('tilt', rooms.common.db.fields.PlainDecimalField()),
                    ('portions', models.PositiveSmallIntegerField()),
                    ('at', models.DateTimeField()),
                    ('piece', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='came_out', to='catalog.piece')),
                ],
                options={
                    'verbose_name_plural': 'came out',
                    'ordering': ('-at',),
                },
            ),
            migrations.CreateModel(
                name='Measured',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('part', models.CharField(blank=True, max_length=20)),
                    ('weight_value', rooms.common.db.fields.PlainDecimalField()),
                    ('weight_unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('length', rooms.common.db.fields.PlainDecimalField()),
                    ('width', rooms.common.db.fields.PlainDecimalField()),
                    ('height', rooms.common.db.fields.PlainDecimalField()),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('piece', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='measured', to='catalog.piece')),
                ],
                options={
                    'verbose_name_plural': 'measured',
                    'ordering': ('-id',),
                },
            ),
        ]),
    ]
