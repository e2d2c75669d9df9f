import sys

from django.apps import AppConfig

from zugzwang.data.in_use import hold

STAYING = ("serve", "db_worker", "clock", "runserver")


class StoreConfig(AppConfig):
    name = "zugzwang.data"
    label = "store"

    def ready(self) -> None:
        if sys.argv[1:2] and sys.argv[1] in STAYING:
            hold()
