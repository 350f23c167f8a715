from django.db import migrations, models

EFFECTS = ("strike", "restore", "move", "replace", "count", "not count", "explain", "later")
KINDS = ("strike", "move", "replace", "count", "swap", "mend", "shift", "change", "switch", "revise", "explain", "undo")


def words(names):
    return [(name, name.title()) for name in names]


class Migration(migrations.Migration):
    """More words for what an act is and does; no column changes."""

    dependencies = [("bench", "0009_kept_assessments")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField("actline", "effect", models.CharField(choices=words(EFFECTS), max_length=12)),
                migrations.AlterField("actrow", "kind", models.CharField(choices=words(KINDS), max_length=12)),
            ]
        )
    ]
