"""Fields and stored words follow the glossary (docs/voice.md)."""

from typing import Any

from django.db import migrations

_FIELDS = {"wanted_title": "new_title", "wanted_description": "new_description"}


def _follow(apps: Any, editor: Any) -> None:
    get = apps.get_model
    for before, after in _FIELDS.items():
        get("store", "MoveChange").objects.filter(field=before).update(field=after)
    get("store", "TopicEdit").objects.filter(kind="apart").update(kind="split")
    for site in get("store", "Site").objects.exclude(rules={}):
        site.rules = _rules(site.rules)
        site.save(update_fields=["rules"])
    for change in get("store", "RuleChange").objects.all():
        change.before, change.after = _rules(change.before), _rules(change.after)
        change.save(update_fields=["before", "after"])


def _rules(rules: Any) -> Any:
    result = {"separate" if name == "apart" else name: value for name, value in rules.items()}
    if result.get("slash") == "apart":
        result["slash"] = "separate"
    return result


class Migration(migrations.Migration):
    dependencies = (("store", "0027_plain_words"),)

    operations = (
        migrations.RenameField("connection", "asked_at", "requested_at"),
        migrations.RenameField("job", "cancel_asked", "cancel_requested"),
        migrations.RenameField("move", "wanted_title", "new_title"),
        migrations.RenameField("move", "wanted_description", "new_description"),
        migrations.RenameField("report", "asked_at", "requested_at"),
        migrations.RenameField("reportsending", "asked_at", "requested_at"),
        migrations.AlterModelOptions("report", {"ordering": ["-requested_at", "-id"]}),
        migrations.AlterModelOptions("reportsending", {"ordering": ["-requested_at", "-id"]}),
        migrations.RunPython(_follow, migrations.RunPython.noop, elidable=True),
    )
