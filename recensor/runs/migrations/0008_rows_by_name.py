"""Names of classes alone: the tables keep theirs."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("bench", "0007_signing_off")]

    operations = [
        migrations.AlterModelTable("Run", "bench_run"),
        migrations.RenameModel("Run", "RunRow"),
        migrations.AlterModelTable("Reading", "bench_reading"),
        migrations.RenameModel("Reading", "ReadingRow"),
        migrations.AlterModelTable("Act", "bench_act"),
        migrations.RenameModel("Act", "ActRow"),
        migrations.AlterModelTable("Signature", "bench_signature"),
        migrations.RenameModel("Signature", "SignatureRow"),
    ]
