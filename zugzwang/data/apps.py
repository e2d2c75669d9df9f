import sys
from pathlib import Path

from django.apps import AppConfig
from django.conf import settings

from zugzwang.data.in_use import hold

STAYING = ("serve", "db_worker", "clock", "runserver")


class StoreConfig(AppConfig):
    name = "zugzwang.data"
    label = "store"

    def ready(self) -> None:
        if sys.argv[1:2] and sys.argv[1] in STAYING:
            # An empty database in its place would hide that a disk is not mounted.
            engine, name = (str(settings.DATABASES["default"][one]) for one in ("ENGINE", "NAME"))
            if "sqlite" in engine and not Path(name).is_file():
                sys.exit(f"There is no database at {name}. Run `make setup`, or look whether its disk is mounted.")
            hold()
