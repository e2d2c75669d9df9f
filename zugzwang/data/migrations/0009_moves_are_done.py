from django.db import migrations


def renamed(before, after):
    """Moves that were "made" are "done", on their record too."""

    def rename(apps, schema_editor):
        apps.get_model("store", "Move").objects.filter(state=before).update(state=after)
        changes = apps.get_model("store", "MoveChange").objects.filter(field="state")
        changes.filter(before=before).update(before=after)
        changes.filter(after=before).update(after=after)

    return rename


class Migration(migrations.Migration):
    dependencies = [("store", "0008_versions")]

    operations = [migrations.RunPython(renamed("made", "done"), renamed("done", "made"))]
