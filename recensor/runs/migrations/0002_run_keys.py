"""A key makes starting a run twice harmless; the list of runs goes by the index of their owners."""

from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('bench', '0001_initial'),
        ('experiments', '0001_initial'),
        ('meters', '0001_initial'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AlterModelOptions(
            name='run',
            options={'ordering': ('-id',)},
        ),
        migrations.RemoveIndex(
            model_name='run',
            name='bench_run_owner_i_01e722_idx',
        ),
        migrations.AddField(
            model_name='run',
            name='key',
            field=models.UUIDField(null=True),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.UniqueConstraint(fields=('owner', 'key'), name='one_run_for_each_key'),
        ),
    ]
