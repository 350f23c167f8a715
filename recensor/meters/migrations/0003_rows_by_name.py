"""Names of classes alone: the tables keep theirs."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("meters", "0002_profile_versions"), ("bench", "0007_signing_off")]

    operations = [
        migrations.AlterModelTable("Profile", "meters_profile"),
        migrations.RenameModel("Profile", "ProfileRow"),
    ]
