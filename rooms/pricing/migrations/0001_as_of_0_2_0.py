"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.db.models.deletion
import rooms.common.db.fields
import uuid
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("counter", "0001_reviews"),
        ("counter", "0002_what_was_shown"),
        ("counter", "0003_margins_of_open_reviews"),
        ("counter", "0004_kept"),
        ("counter", "0005_accepted_lines"),
        ("counter", "0006_paid_then"),
        ("counter", "0007_revision_of_a_review"),
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
                name='Review',
                fields=[
                    ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                    ('source', models.CharField(max_length=100)),
                    ('method', models.CharField(choices=[('full', 'worked out in full'), ('factor', 'by the cost factor')], default='full', max_length=10)),
                    ('made_at', models.DateTimeField()),
                    ('closed_at', models.DateTimeField(null=True)),
                    ('revision', models.PositiveIntegerField(default=1)),
                    ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('version', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, to='pricebook.version')),
                ],
                options={
                    'ordering': ('-made_at',),
                },
            ),
            migrations.CreateModel(
                name='NewCost',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('amount', rooms.common.db.fields.PlainDecimalField()),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('piece', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='catalog.piece')),
                    ('review', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='costs', to='counter.review')),
                ],
                options={
                    'ordering': ('piece',),
                },
            ),
            migrations.CreateModel(
                name='ReviewLine',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('paid_then', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('by_factor', rooms.common.db.fields.PlainDecimalField()),
                    ('in_full', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('proposed', rooms.common.db.fields.PlainDecimalField()),
                    ('margin_before', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('margin_now', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('margin_proposed', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('why', models.CharField(blank=True, max_length=200)),
                    ('sticker', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('comfort', models.CharField(blank=True, max_length=200)),
                    ('pencil', models.JSONField(default=list)),
                    ('is_ticked', models.BooleanField(default=False)),
                    ('cost', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='counter.newcost')),
                    ('price', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.price')),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.product')),
                    ('review', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lines', to='counter.review')),
                    ('version', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.version')),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='Kept',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(choices=[('ad', 'ad'), ('buy', 'what to buy')], max_length=3)),
                    ('name', models.CharField(max_length=60)),
                    ('fields', models.JSONField()),
                    ('said', models.JSONField(default=dict)),
                    ('revision', models.PositiveIntegerField(default=1)),
                    ('kept_at', models.DateTimeField()),
                    ('kept_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('-kept_at', '-pk'),
                    'constraints': [models.UniqueConstraint(fields=('kind', 'name'), name='one_plan_a_name')],
                },
            ),
            migrations.AddConstraint(
                model_name='newcost',
                constraint=models.UniqueConstraint(fields=('review', 'piece'), name='one_new_cost_a_piece'),
            ),
        ]),
    ]
