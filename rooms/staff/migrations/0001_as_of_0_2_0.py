"""Everything up to version 0.2.0: a shop of an older version goes through 0.2.0 first."""

import django.contrib.auth.models
import django.contrib.auth.validators
import django.db.models.deletion
import django.utils.timezone
import simple_history.models
import uuid
from django.conf import settings
from django.db import migrations, models

from rooms.common.db.make_tables import MakeTables


class Migration(migrations.Migration):
    replaces = [
        ("staff", "0001_initial"),
        ("staff", "0002_people"),
        ("staff", "0003_one_open_turn"),
        ("staff", "0004_sessions_and_events"),
    ]

    initial = True

    dependencies = [
        ('auth', '0012_alter_user_first_name_max_length'),
    ]

    operations = [
        MakeTables([
            migrations.CreateModel(
                name='Person',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('password', models.CharField(max_length=128, verbose_name='password')),
                    ('last_login', models.DateTimeField(blank=True, null=True, verbose_name='last login')),
                    ('is_superuser', models.BooleanField(default=False, help_text='Designates that this user has all permissions without explicitly assigning them.', verbose_name='superuser status')),
                    ('username', models.CharField(error_messages={'unique': 'A user with that username already exists.'}, help_text='Required. 150 characters or fewer. Letters, digits and @/./+/-/_ only.', max_length=150, unique=True, validators=[django.contrib.auth.validators.UnicodeUsernameValidator()], verbose_name='username')),
                    ('first_name', models.CharField(blank=True, max_length=150, verbose_name='first name')),
                    ('last_name', models.CharField(blank=True, max_length=150, verbose_name='last name')),
                    ('email', models.EmailField(blank=True, max_length=254, verbose_name='email address')),
                    ('is_staff', models.BooleanField(default=False, help_text='Designates whether the user can log into this admin site.', verbose_name='staff status')),
                    ('is_active', models.BooleanField(default=True, help_text='Designates whether this user should be treated as active. Unselect this instead of deleting accounts.', verbose_name='active')),
                    ('date_joined', models.DateTimeField(default=django.utils.timezone.now, verbose_name='date joined')),
                    ('role', models.CharField(choices=[('cutter', 'cutter'), ('manager', 'manager'), ('apprentice', 'apprentice'), ('auditor', 'auditor')], default='cutter', max_length=20)),
                    ('is_under_18', models.BooleanField(default=False)),
                    ('pin', models.CharField(blank=True, editable=False, max_length=128)),
                    ('sign_outs', models.PositiveIntegerField(default=0, editable=False)),
                    ('groups', models.ManyToManyField(blank=True, help_text='The groups this user belongs to. A user will get all permissions granted to each of their groups.', related_name='user_set', related_query_name='user', to='auth.group', verbose_name='groups')),
                    ('user_permissions', models.ManyToManyField(blank=True, help_text='Specific permissions for this user.', related_name='user_set', related_query_name='user', to='auth.permission', verbose_name='user permissions')),
                ],
                options={
                    'ordering': ('first_name', 'pk'),
                },
                managers=[
                    ('objects', django.contrib.auth.models.UserManager()),
                ],
            ),
            migrations.CreateModel(
                name='HistoricalPerson',
                fields=[
                    ('id', models.BigIntegerField(auto_created=True, blank=True, db_index=True, verbose_name='ID')),
                    ('is_superuser', models.BooleanField(default=False, help_text='Designates that this user has all permissions without explicitly assigning them.', verbose_name='superuser status')),
                    ('username', models.CharField(db_index=True, error_messages={'unique': 'A user with that username already exists.'}, help_text='Required. 150 characters or fewer. Letters, digits and @/./+/-/_ only.', max_length=150, validators=[django.contrib.auth.validators.UnicodeUsernameValidator()], verbose_name='username')),
                    ('first_name', models.CharField(blank=True, max_length=150, verbose_name='first name')),
                    ('last_name', models.CharField(blank=True, max_length=150, verbose_name='last name')),
                    ('email', models.EmailField(blank=True, max_length=254, verbose_name='email address')),
                    ('is_staff', models.BooleanField(default=False, help_text='Designates whether the user can log into this admin site.', verbose_name='staff status')),
                    ('is_active', models.BooleanField(default=True, help_text='Designates whether this user should be treated as active. Unselect this instead of deleting accounts.', verbose_name='active')),
                    ('date_joined', models.DateTimeField(default=django.utils.timezone.now, verbose_name='date joined')),
                    ('role', models.CharField(choices=[('cutter', 'cutter'), ('manager', 'manager'), ('apprentice', 'apprentice'), ('auditor', 'auditor')], default='cutter', max_length=20)),
                    ('is_under_18', models.BooleanField(default=False)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical person',
                    'verbose_name_plural': 'historical persons',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='HistoricalTablet',
                fields=[
                    ('id', models.UUIDField(db_index=True, default=uuid.uuid4, editable=False)),
                    ('name', models.CharField(max_length=40)),
                    ('enrolled_at', models.DateTimeField()),
                    ('withdrawn_at', models.DateTimeField(null=True)),
                    ('history_id', models.AutoField(primary_key=True, serialize=False)),
                    ('history_date', models.DateTimeField(db_index=True)),
                    ('history_change_reason', models.CharField(max_length=100, null=True)),
                    ('history_type', models.CharField(choices=[('+', 'Created'), ('~', 'Changed'), ('-', 'Deleted')], max_length=1)),
                    ('enrolled_by', models.ForeignKey(blank=True, db_constraint=False, null=True, on_delete=django.db.models.deletion.DO_NOTHING, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('history_user', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'verbose_name': 'historical tablet',
                    'verbose_name_plural': 'historical tablets',
                    'ordering': ('-history_date', '-history_id'),
                    'get_latest_by': ('history_date', 'history_id'),
                },
                bases=(simple_history.models.HistoricalChanges, models.Model),
            ),
            migrations.CreateModel(
                name='Tablet',
                fields=[
                    ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                    ('name', models.CharField(max_length=40)),
                    ('secret', models.CharField(editable=False, max_length=64)),
                    ('enrolled_at', models.DateTimeField()),
                    ('withdrawn_at', models.DateTimeField(null=True)),
                    ('enrolled_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                ],
                options={
                    'ordering': ('name', 'enrolled_at'),
                },
            ),
            migrations.CreateModel(
                name='SecurityEvent',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('kind', models.CharField(choices=[('in', 'signed in'), ('out', 'signed out'), ('wrong', 'wrong PIN or password'), ('locked', 'locked after wrong tries'), ('refused', 'refused'), ('confirmed', 'password given beside the PIN'), ('pin', 'new PIN'), ('password', 'new password'), ('tablet', 'tablet enrolled'), ('withdrawn', 'tablet withdrawn')], max_length=9)),
                    ('at', models.DateTimeField(db_index=True)),
                    ('address', models.CharField(blank=True, max_length=45)),
                    ('words', models.CharField(blank=True, max_length=200)),
                    ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('person', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('tablet', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='staff.tablet')),
                ],
                options={
                    'ordering': ('-id',),
                },
            ),
            migrations.CreateModel(
                name='Turn',
                fields=[
                    ('id', models.UUIDField(default=uuid.uuid4, editable=False, primary_key=True, serialize=False)),
                    ('since', models.DateTimeField()),
                    ('until', models.DateTimeField(null=True)),
                    ('person', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='turns', to=settings.AUTH_USER_MODEL)),
                    ('tablet', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='turns', to='staff.tablet')),
                ],
                options={
                    'ordering': ('-since',),
                    'indexes': [models.Index(fields=['person', '-since'], name='staff_turn_person__835407_idx')],
                    'constraints': [models.UniqueConstraint(condition=models.Q(('until', None)), fields=('tablet',), name='one_open_turn_a_tablet')],
                },
            ),
        ]),
    ]
