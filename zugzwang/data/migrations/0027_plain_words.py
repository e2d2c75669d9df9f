"""Stored words follow the glossary (docs/voice.md): grades, decisions, links, parts of reports, addresses of saved views."""

from typing import Any

from django.db import migrations, models

_GRADE = {"thin": "too little data"}
_CHOICE = {"leave": "dismiss", "aside": "snooze"}
_LINK = {"taken": "accepted"}
_STATE = {"under way": "in progress", "left alone": "dismissed"}
_DESIGN = {"split": "randomised"}
_KEYS = {
    "untouched": "controls", "came_of_it": "result_clicks", "places_gained": "positions_gained",
    "untouched_before": "controls_before", "untouched_after": "controls_after",
}  # fmt: skip
_PLACES = {"standing": "changes", "wording": "on-page", "intake": "data"}


def _replace(apps: Any, model: str, field: str, words: dict[str, str]) -> None:
    for before, after in words.items():
        apps.get_model("store", model).objects.filter(**{field: before}).update(**{field: after})


def _follow(apps: Any, editor: Any) -> None:
    _replace(apps, "Move", "evidence", _GRADE)
    _replace(apps, "Move", "state", _STATE)
    _replace(apps, "Decision", "choice", _CHOICE)
    _replace(apps, "PlannedLink", "choice", _LINK)
    _replace(apps, "Trial", "design", _DESIGN)
    for view in apps.get_model("store", "SavedView").objects.all():
        place = next((name for name in _PLACES if view.address.startswith(name)), None)
        if place:
            view.address = _PLACES[place] + view.address.removeprefix(place)
            view.save(update_fields=["address"])
    for model, field in (("Move", "outcome"), ("Trial", "verdict")):
        for row in apps.get_model("store", model).objects.exclude(**{field: None}):
            setattr(row, field, {_KEYS.get(name, name): _GRADE.get(str(value), value) for name, value in getattr(row, field).items()})
            row.save(update_fields=[field])
    for model in ("ReportTemplate", "Report"):
        for row in apps.get_model("store", model).objects.all():
            row.parts = [_part(one) for one in row.parts]
            row.save(update_fields=["parts"])


def _part(part: Any) -> Any:
    if isinstance(part, dict):
        return {**part, "name": _PLACES.get(part["name"], part["name"])}
    return _PLACES.get(part, part)


class Migration(migrations.Migration):
    dependencies = (("store", "0026_heartbeats"),)

    operations = (
        migrations.AlterField("move", "evidence", models.CharField(default="too little data", max_length=16)),
        migrations.AlterField(
            "decision",
            "choice",
            models.CharField(
                choices=[
                    ("unite", "Unite"), ("point", "Point"), ("refocus", "Refocus"), ("feed", "Feed"), ("retire", "Retire"),
                    ("accept", "Accept"), ("dismiss", "Dismiss"), ("snooze", "Snooze"),
                ],
                max_length=10,
            ),
        ),
        migrations.AlterField(
            "plannedlink",
            "choice",
            models.CharField(choices=[("accepted", "Accepted"), ("refused", "Refused")], max_length=10),
        ),
        migrations.RenameField("trial", "told", "power"),
        migrations.AlterField(
            "trial",
            "design",
            models.CharField(choices=[("before-after", "Before After"), ("randomised", "Randomised")], max_length=12),
        ),
        migrations.RunPython(_follow, migrations.RunPython.noop, elidable=True),
    )  # fmt: skip
