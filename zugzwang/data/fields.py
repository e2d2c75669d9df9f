"""A JSON field for any database: PostgreSQL stores no NUL in text, and foreign data may contain one."""

from typing import Any

from django.db import models
from django.db.backends.base.base import BaseDatabaseWrapper


def without_nul(value: Any) -> Any:
    if isinstance(value, str):
        return value.replace("\0", "\ufffd")
    if isinstance(value, dict):
        return {without_nul(key): without_nul(one) for key, one in value.items()}
    return [without_nul(one) for one in value] if isinstance(value, list | tuple) else value


class JSONField(models.JSONField):
    def deconstruct(self) -> Any:
        name, _, args, kwargs = super().deconstruct()
        return name, "django.db.models.JSONField", args, kwargs

    def get_db_prep_value(self, value: Any, connection: BaseDatabaseWrapper, prepared: bool = False) -> Any:
        return super().get_db_prep_value(without_nul(value), connection, prepared)
