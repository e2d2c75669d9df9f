from django.db import migrations, models

import zugzwang.data.models


class Migration(migrations.Migration):
    dependencies = [("store", "0007_moves_of_decisions")]

    operations = [
        migrations.AlterField(
            model_name="site",
            name="data_version",
            field=models.BigIntegerField(default=zugzwang.data.models.next_version),
        ),
        migrations.AddField(
            model_name="site",
            name="plan_version",
            field=models.BigIntegerField(default=zugzwang.data.models.next_version),
        ),
    ]
