"""Names of classes alone: the tables keep theirs."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("reports", "0001_initial")]

    operations = [
        migrations.AlterModelTable("Choice", "reports_choice"),
        migrations.RenameModel("Choice", "SectionChoice"),
    ]
