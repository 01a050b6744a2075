"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.db.models.deletion
import rooms.common.db.fields
import rooms.grinder.models
import simple_history.models
import uuid
from decimal import Decimal
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("grinder", "0001_initial"),
        ("grinder", "0002_rules_and_corrections"),
        ("grinder", "0003_costs_of_batches"),
        ("grinder", "0004_labelled"),
        ("grinder", "0005_the_way_back"),
        ("grinder", "0006_fill_the_way_back"),
        ("grinder", "0007_samples_and_relabeled"),
    ]

    initial = True

    dependencies = [
        ('bench', '0001_as_of_0_2_0'),
        ('cooler', '0001_as_of_0_2_0'),
        ('pricebook', '0001_as_of_0_2_0'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='Seasoning',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('name', models.CharField(max_length=60, unique=True)),
                    ('share', rooms.common.db.fields.PlainDecimalField()),
                    ('ingredients', models.CharField(max_length=400)),
                    ('allergens', models.JSONField(default=list)),
                    ('cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('is_dropped', models.BooleanField(default=False)),
                ],
                options={
                    'ordering': ('name',),
                },
            ),
            migrations.CreateModel(
                name='Batch',
                fields=[
                    ('id', models.UUIDField(editable=False, primary_key=True, serialize=False)),
                    ('number', models.PositiveIntegerField(unique=True)),
                    ('name', models.CharField(max_length=100)),
                    ('rule', models.CharField(choices=[('ground_beef', 'ground_beef'), ('hamburger', 'hamburger'), ('none', 'none')], max_length=12)),
                    ('species', models.CharField(choices=[('beef', 'beef'), ('pork', 'pork'), ('lamb', 'lamb')], max_length=10)),
                    ('weight', rooms.common.db.fields.PlainDecimalField()),
                    ('unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('fat', rooms.common.db.fields.PlainDecimalField()),
                    ('fat_sd', rooms.common.db.fields.PlainDecimalField()),
                    ('stated', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('document', models.JSONField()),
                    ('answer', models.JSONField()),
                    ('begun_at', models.DateTimeField(db_index=True)),
                    ('celsius_in', models.IntegerField()),
                    ('celsius_out', models.IntegerField(null=True)),
                    ('got', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('machine', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('finished_at', models.DateTimeField(null=True)),
                    ('cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('seasoned_with', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('undone_at', models.DateTimeField(null=True)),
                    ('begun_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('finished_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('product', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.product')),
                    ('undone_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name_plural': 'batches',
                    'ordering': ('-number',),
                },
            ),
            migrations.CreateModel(
                name='BlendPlan',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('document', models.JSONField()),
                    ('answer', models.JSONField()),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('-id',),
                },
            ),
            migrations.CreateModel(
                name='Came',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('got', rooms.common.db.fields.PlainDecimalField()),
                    ('machine', rooms.common.db.fields.PlainDecimalField()),
                    ('celsius', models.IntegerField()),
                    ('at', models.DateTimeField()),
                    ('batch', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='came', to='grinder.batch')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name_plural': 'came',
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='CleanDown',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('what', models.CharField(choices=[('cleaned', 'cleaned and sanitized'), ('set_up', 'set up')], max_length=8)),
                    ('points', models.JSONField(default=list)),
                    ('at', models.DateTimeField(db_index=True)),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('-at', '-id'),
                },
            ),
            migrations.AddField(
                model_name='batch',
                name='cleaned',
                field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='batches', to='grinder.cleandown'),
            ),
            migrations.AddField(
                model_name='batch',
                name='set_up',
                field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='grinder.cleandown'),
            ),
            migrations.CreateModel(
                name='GrinderRules',
                fields=[
                    ('id', models.PositiveSmallIntegerField(default=1, editable=False, primary_key=True, serialize=False)),
                    ('keeps_days', models.PositiveSmallIntegerField(default=2)),
                    ('warmest', models.IntegerField(default=4444)),
                    ('allowance', rooms.common.db.fields.PlainDecimalField(default=Decimal('0.02'))),
                    ('near', rooms.common.db.fields.PlainDecimalField(default=Decimal('0.01'))),
                    ('most_fat', models.JSONField(default=dict)),
                    ('from_case', models.CharField(choices=[('never', 'never'), ('known', 'only with the lot of its tray'), ('asked', 'an unknown lot is kept as a question')], default='asked', max_length=5)),
                    ('takes_sent_back', models.BooleanField(default=False)),
                    ('nutrition', models.CharField(choices=[('exempt', "the small shop's exemption"), ('facts', 'facts on the label')], default='exempt', max_length=6)),
                    ('cleaning', models.JSONField(default=rooms.grinder.models.cleaning)),
                    ('setting_up', models.JSONField(default=rooms.grinder.models.setting_up)),
                    ('patties', models.JSONField(default=rooms.grinder.models.patty_sizes)),
                    ('in_box', models.PositiveSmallIntegerField(default=24)),
                ],
                options={
                    'verbose_name_plural': 'grinder rules',
                    'constraints': [models.CheckConstraint(condition=models.Q(('id', 1)), name='one_set_of_grinder_rules')],
                },
            ),
            migrations.CreateModel(
                name='HistoricalGrinderRules',
                fields=[
                    ('id', models.PositiveSmallIntegerField(db_index=True, default=1, editable=False)),
                    ('keeps_days', models.PositiveSmallIntegerField(default=2)),
                    ('warmest', models.IntegerField(default=4444)),
                    ('allowance', rooms.common.db.fields.PlainDecimalField(default=Decimal('0.02'))),
                    ('near', rooms.common.db.fields.PlainDecimalField(default=Decimal('0.01'))),
                    ('most_fat', models.JSONField(default=dict)),
                    ('from_case', models.CharField(choices=[('never', 'never'), ('known', 'only with the lot of its tray'), ('asked', 'an unknown lot is kept as a question')], default='asked', max_length=5)),
                    ('takes_sent_back', models.BooleanField(default=False)),
                    ('nutrition', models.CharField(choices=[('exempt', "the small shop's exemption"), ('facts', 'facts on the label')], default='exempt', max_length=6)),
                    ('cleaning', models.JSONField(default=rooms.grinder.models.cleaning)),
                    ('setting_up', models.JSONField(default=rooms.grinder.models.setting_up)),
                    ('patties', models.JSONField(default=rooms.grinder.models.patty_sizes)),
                    ('in_box', models.PositiveSmallIntegerField(default=24)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical grinder rules',
                    'verbose_name_plural': 'historical grinder rules',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalNutritionFacts',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('fat', rooms.common.db.fields.PlainDecimalField()),
                    ('serving', rooms.common.db.fields.PlainDecimalField()),
                    ('amounts', models.JSONField()),
                    ('source', models.CharField(max_length=200)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('product', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to='pricebook.product')),
                ],
                options={
                    'verbose_name': 'historical nutrition facts',
                    'verbose_name_plural': 'historical nutrition facts',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalSeasoning',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('name', models.CharField(db_index=True, max_length=60)),
                    ('share', rooms.common.db.fields.PlainDecimalField()),
                    ('ingredients', models.CharField(max_length=400)),
                    ('allergens', models.JSONField(default=list)),
                    ('cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('per', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('is_dropped', models.BooleanField(default=False)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical seasoning',
                    'verbose_name_plural': 'historical seasonings',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='Packed',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('trays', models.PositiveSmallIntegerField()),
                    ('weight', rooms.common.db.fields.PlainDecimalField()),
                    ('shape', models.CharField(choices=[('loose', 'ground'), ('patties', 'patties'), ('links', 'links')], default='loose', max_length=7)),
                    ('pieces', models.PositiveIntegerField(null=True)),
                    ('is_labelled', models.BooleanField(default=False)),
                    ('at', models.DateTimeField()),
                    ('batch', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='packed', to='grinder.batch')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name_plural': 'packed',
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='Relabeled',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('was', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('stated', rooms.common.db.fields.PlainDecimalField()),
                    ('at', models.DateTimeField()),
                    ('batch', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='relabeled', to='grinder.batch')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name_plural': 'relabeled',
                    'ordering': ('id',),
                },
            ),
            migrations.AddField(
                model_name='batch',
                name='seasoning',
                field=models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='grinder.seasoning'),
            ),
            migrations.CreateModel(
                name='Tested',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('fat', rooms.common.db.fields.PlainDecimalField()),
                    ('reading', models.CharField(blank=True, max_length=40)),
                    ('at', models.DateTimeField()),
                    ('batch', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='tested', to='grinder.batch')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name_plural': 'tested',
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='TrimTub',
                fields=[
                    ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                    ('name', models.CharField(max_length=40)),
                    ('species', models.CharField(choices=[('beef', 'beef'), ('pork', 'pork'), ('lamb', 'lamb')], max_length=10)),
                    ('kind', models.CharField(choices=[('lean', 'lean trim'), ('ends', 'ends of whole muscle'), ('hard_fat', 'hard fat')], max_length=10)),
                    ('primal', models.CharField(blank=True, max_length=40)),
                    ('unit', models.CharField(choices=[('lb', 'lb'), ('oz', 'oz'), ('kg', 'kg'), ('g', 'g')], max_length=2)),
                    ('started_at', models.DateTimeField()),
                    ('closed_at', models.DateTimeField(null=True)),
                    ('started_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('started_at', 'id'),
                },
            ),
            migrations.CreateModel(
                name='Judged',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('how', models.CharField(choices=[('eye', 'eye'), ('tester', 'tester'), ('stated', 'stated')], max_length=6)),
                    ('lean', rooms.common.db.fields.PlainDecimalField()),
                    ('reading', models.CharField(blank=True, max_length=40)),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('tub', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='judged', to='grinder.trimtub')),
                ],
                options={
                    'verbose_name_plural': 'judged',
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='TubIn',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('source', models.CharField(choices=[('test', 'from the block'), ('bought', 'bought with a stated lean'), ('case', 'from the case'), ('back', 'sent back'), ('carry', 'carried over')], max_length=6)),
                    ('weight', rooms.common.db.fields.PlainDecimalField()),
                    ('lots', models.JSONField(default=list)),
                    ('cost', rooms.common.db.fields.PlainDecimalField(default=Decimal('0'))),
                    ('school', models.CharField(blank=True, max_length=20)),
                    ('lean', rooms.common.db.fields.PlainDecimalField(null=True)),
                    ('again', models.PositiveSmallIntegerField(default=0)),
                    ('day', models.DateField()),
                    ('at', models.DateTimeField()),
                    ('bag', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='cooler.bag')),
                    ('batch', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='grinder.batch')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('from_batch', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='into_tubs', to='grinder.batch')),
                    ('from_test', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='into_tubs', to='bench.cuttingtest')),
                    ('output', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='bench.output')),
                    ('tub', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='ins', to='grinder.trimtub')),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='LotAnswer',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('lots', models.JSONField()),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('entry', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='answers', to='grinder.tubin')),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='TubLot',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('lot', models.CharField(db_index=True, max_length=60)),
                    ('lot_key', rooms.common.db.fields.LotKeyField(db_index=True, default='', editable=False, max_length=60)),
                    ('entry', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='lot_rows', to='grinder.tubin')),
                ],
                options={
                    'abstract': False,
                },
            ),
            migrations.CreateModel(
                name='TubOut',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('weight', rooms.common.db.fields.PlainDecimalField()),
                    ('reason', models.CharField(blank=True, max_length=200)),
                    ('at', models.DateTimeField()),
                    ('batch', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='takes', to='grinder.batch')),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('tub', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='outs', to='grinder.trimtub')),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='TakenBack',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('key', models.UUIDField(unique=True)),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('clean', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='taken_back', to='grinder.cleandown')),
                    ('packed', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='taken_back', to='grinder.packed')),
                    ('tested', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='taken_back', to='grinder.tested')),
                    ('entry', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='taken_back', to='grinder.tubin')),
                    ('out', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='taken_back', to='grinder.tubout')),
                ],
                options={
                    'verbose_name_plural': 'taken back',
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='Warmth',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('celsius', models.IntegerField()),
                    ('at', models.DateTimeField()),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('tub', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='warmths', to='grinder.trimtub')),
                ],
                options={
                    'ordering': ('id',),
                },
            ),
            migrations.CreateModel(
                name='NutritionFacts',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('fat', rooms.common.db.fields.PlainDecimalField()),
                    ('serving', rooms.common.db.fields.PlainDecimalField()),
                    ('amounts', models.JSONField()),
                    ('source', models.CharField(max_length=200)),
                    ('product', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to='pricebook.product')),
                ],
                options={
                    'verbose_name_plural': 'nutrition facts',
                    'ordering': ('product', 'fat'),
                    'constraints': [models.UniqueConstraint(fields=('product', 'fat'), name='one_set_of_facts_a_fat')],
                },
            ),
            migrations.CreateModel(
                name='Sample',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('reading', models.CharField(max_length=40)),
                    ('freed_at', models.DateTimeField(null=True)),
                    ('judged', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='sample', to='grinder.judged')),
                    ('tested', models.OneToOneField(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='sample', to='grinder.tested')),
                ],
                options={
                    'constraints': [models.UniqueConstraint(condition=models.Q(('freed_at', None)), fields=('reading',), name='a_sample_counts_once')],
                },
            ),
            migrations.AddIndex(
                model_name='trimtub',
                index=models.Index(condition=models.Q(('closed_at', None)), fields=['started_at'], name='open_trim_tubs'),
            ),
            migrations.AddConstraint(
                model_name='tubin',
                constraint=models.UniqueConstraint(condition=models.Q(('output__isnull', False)), fields=('output', 'again'), name='a_pile_goes_in_once'),
            ),
        ]),
    ]
