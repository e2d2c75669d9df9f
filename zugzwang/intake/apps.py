from importlib import import_module

from django.apps import AppConfig


class IntakeConfig(AppConfig):
    name = "zugzwang.intake"

    def ready(self) -> None:
        import_module("zugzwang.intake.kinds")  # declares their tables, which stored facts are read by
