"""Practice as 0001 to 0004 leave it: what a new database is made from, in one step."""

import django.db.models.deletion
import workshop.models.door
import workshop.walls
from django.conf import settings
from django.db import migrations, models

from workshop.migrating import AtOnce, carry_out_deferred
from workshop.row_security import put_up_walls



class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("practice", "0001_bench"),
        ("practice", "0002_rows_of_workshops"),
        ("practice", "0003_walls"),
        ("practice", "0004_keys_carry_the_workshop"),
    ]

    dependencies = [
        ("workshop", "0001_squashed_0022_shop_version"),
    ]

    operations = [
        AtOnce(
            migrations.CreateModel(
                name='MadeExercise',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('title', models.CharField(max_length=80, verbose_name='title')),
                    ('tale', models.CharField(blank=True, max_length=400, verbose_name='what came in')),
                    ('corners', models.JSONField()),
                    ('specs', models.JSONField()),
                    ('at', models.CharField(max_length=3)),
                    ('right', models.JSONField(default=list)),
                    ('asks', models.JSONField(default=list)),
                    ('made_at', models.DateTimeField(auto_now_add=True)),
                    ('retired', models.BooleanField(default=False)),
                    ('made_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ('workshop', models.ForeignKey(db_index=False, default=workshop.walls.here, editable=False, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='workshop.workshop')),
                ],
                options={
                    'ordering': ['-pk'],
                    'indexes': [],
                    'constraints': [],
                },
                bases=(workshop.models.door.Behind, models.Model),
            ),
            migrations.CreateModel(
                name='DrillAnswer',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('code', models.CharField(max_length=40)),
                    ('said', models.CharField(max_length=10)),
                    ('right', models.BooleanField()),
                    ('at', models.DateTimeField(auto_now_add=True)),
                    ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='drill_answers', to=settings.AUTH_USER_MODEL)),
                    ('workshop', models.ForeignKey(db_index=False, default=workshop.walls.here, editable=False, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='workshop.workshop')),
                ],
                options={
                    'ordering': ['-pk'],
                    'indexes': [models.Index(fields=['person', '-at'], name='drill_answer_of_person')],
                    'constraints': [],
                },
                bases=(workshop.models.door.Behind, models.Model),
            ),
            migrations.CreateModel(
                name='DrillCard',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('code', models.CharField(max_length=40)),
                    ('card', models.JSONField()),
                    ('due', models.DateTimeField()),
                    ('seen', models.PositiveIntegerField(default=0)),
                    ('missed', models.PositiveIntegerField(default=0)),
                    ('last_right', models.BooleanField(default=False)),
                    ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='drill_cards', to=settings.AUTH_USER_MODEL)),
                    ('workshop', models.ForeignKey(db_index=False, default=workshop.walls.here, editable=False, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='workshop.workshop')),
                ],
                options={
                    'ordering': ['due', 'pk'],
                    'constraints': [models.UniqueConstraint(fields=('workshop', 'person', 'code'), name='drill_card_once')],
                    'indexes': [],
                },
                bases=(workshop.models.door.Behind, models.Model),
            ),
            migrations.CreateModel(
                name='LatheTry',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('task', models.CharField(max_length=40)),
                    ('seed', models.PositiveBigIntegerField()),
                    ('stand', models.JSONField(default=dict)),
                    ('lines', models.JSONField(default=list)),
                    ('feed', models.CharField(default='finish', max_length=8)),
                    ('marks', models.JSONField(blank=True, null=True)),
                    ('total', models.PositiveSmallIntegerField(blank=True, null=True)),
                    ('minutes', models.FloatField(default=0.0)),
                    ('began_at', models.DateTimeField(auto_now_add=True)),
                    ('ended_at', models.DateTimeField(blank=True, null=True)),
                    ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lathe_tries', to=settings.AUTH_USER_MODEL)),
                    ('workshop', models.ForeignKey(db_index=False, default=workshop.walls.here, editable=False, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='workshop.workshop')),
                ],
                options={
                    'ordering': ['-pk'],
                    'constraints': [models.UniqueConstraint(condition=models.Q(('ended_at', None)), fields=('workshop', 'person', 'task'), name='lathe_one_open_each')],
                    'indexes': [],
                },
                bases=(workshop.models.door.Behind, models.Model),
            ),
            migrations.CreateModel(
                name='Attempt',
                fields=[
                    ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                    ('exercise', models.CharField(max_length=40)),
                    ('seed', models.PositiveBigIntegerField()),
                    ('here', models.CharField(max_length=3)),
                    ('stands', models.JSONField(default=dict)),
                    ('noted', models.JSONField(default=list)),
                    ('chalk', models.JSONField(default=dict)),
                    ('draft', models.JSONField(default=dict)),
                    ('answer', models.JSONField(default=dict)),
                    ('marks', models.JSONField(blank=True, null=True)),
                    ('total', models.PositiveSmallIntegerField(blank=True, null=True)),
                    ('minutes', models.FloatField(default=0.0)),
                    ('began_at', models.DateTimeField(auto_now_add=True)),
                    ('ended_at', models.DateTimeField(blank=True, null=True)),
                    ('person', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='attempts', to=settings.AUTH_USER_MODEL)),
                    ('made', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='attempts', to='practice.madeexercise')),
                    ('workshop', models.ForeignKey(db_index=False, default=workshop.walls.here, editable=False, on_delete=django.db.models.deletion.PROTECT, related_name='+', to='workshop.workshop')),
                ],
                options={
                    'ordering': ['-pk'],
                    'indexes': [models.Index(fields=['person', 'exercise', '-ended_at'], name='attempt_of_person')],
                    'constraints': [models.CheckConstraint(condition=models.Q(models.Q(('ended_at', None), ('total', None)), models.Q(('ended_at__isnull', False), ('total__lte', 100)), _connector='OR'), name='attempt_ended_is_marked'), models.UniqueConstraint(condition=models.Q(('ended_at', None)), fields=('workshop', 'person', 'exercise'), name='attempt_one_open_each')],
                },
                bases=(workshop.models.door.Behind, models.Model),
            ),
        ),
        migrations.RunPython(carry_out_deferred, migrations.RunPython.noop),
        put_up_walls("practice"),
    ]
