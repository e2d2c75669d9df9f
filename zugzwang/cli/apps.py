from django.apps import AppConfig


class CliConfig(AppConfig):
    name = "zugzwang.cli"
