"""Names of classes alone: the tables keep theirs."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("experiments", "0003_meter_in"), ("bench", "0007_signing_off")]

    operations = [
        migrations.AlterModelTable("Sheet", "experiments_sheet"),
        migrations.RenameModel("Sheet", "SheetRow"),
    ]
