import django.db.models.deletion
from django.db import migrations, models

EFFECTS = ("strike", "restore", "move", "replace", "count", "not count", "explain", "later", "by profile")
KINDS = ("strike", "move", "replace", "count", "swap", "mend", "shift", "change", "switch", "revise", "explain",
         "meter", "undo")  # fmt: skip


def words(names):
    return [(name, name.title()) for name in names]


class Migration(migrations.Migration):
    """An act may say how the meter of readings was found to be."""

    dependencies = [("bench", "0010_why_readings_differ"), ("meters", "0003_rows_by_name")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField("actline", "effect", models.CharField(choices=words(EFFECTS), max_length=12)),
                migrations.AlterField("actrow", "kind", models.CharField(choices=words(KINDS), max_length=12)),
            ]
        ),
        migrations.AddField(
            "actrow",
            "profile",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="found_by",
                to="meters.profilerow",
            ),
        ),
    ]
