"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("common", "0001_numbers"),
        ("common", "0002_sent_keys"),
    ]

    initial = True

    dependencies = [
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='Series',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=60, unique=True)),
                    ('last', models.PositiveIntegerField()),
                ],
                options={
                    'verbose_name_plural': 'series',
                },
            ),
            migrations.CreateModel(
                name='SentKey',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('action', models.CharField(max_length=40)),
                    ('key', models.UUIDField()),
                    ('digest', models.CharField(max_length=64)),
                    ('version', models.PositiveSmallIntegerField()),
                    ('words', models.CharField(max_length=300)),
                    ('at', models.DateTimeField()),
                ],
                options={
                    'constraints': [models.UniqueConstraint(fields=('action', 'key'), name='one_content_per_key')],
                },
            ),
        ]),
    ]
