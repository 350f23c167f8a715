"""Accounts of the demo are marked: of those there are, the ones that still have the published password."""

import django.db.models.deletion
from django.conf import settings
from django.contrib.auth.hashers import check_password
from django.db import migrations, models


def mark(apps, schema_editor):
    """What bears a demo's name and another password is a person's."""
    users = apps.get_model("people", "User").objects.filter(username__in=settings.DEMO_ACCOUNTS)
    marks = apps.get_model("people", "DemoAccount").objects
    for user in users:
        if check_password(settings.DEMO_PASSWORD, user.password):
            marks.create(user=user)


class Migration(migrations.Migration):
    dependencies = [("people", "0001_initial")]

    operations = [
        migrations.CreateModel(
            name="DemoAccount",
            fields=[
                ("user", models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True,
                                              related_name="demo", serialize=False, to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.RunPython(mark, migrations.RunPython.noop),
    ]
