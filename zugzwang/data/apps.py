import os
import pwd
import sys
from pathlib import Path

from django.apps import AppConfig
from django.conf import settings

from zugzwang.data.in_use import hold, take_turns

STAYING = ("serve", "db_worker", "clock", "runserver")
WITHOUT_DATA = ("collectstatic", "openapi", "check", "help")


class StoreConfig(AppConfig):
    name = "zugzwang.data"
    label = "store"

    def ready(self) -> None:
        command = next(iter(sys.argv[1:2]), "")
        if command not in WITHOUT_DATA:
            check_owner(Path(settings.DATA_DIR))
        if command == "migrate":
            take_turns("migrating")
        if command in STAYING:
            # An empty database there would hide that a disk is not mounted.
            engine, name = (str(settings.DATABASES["default"][one]) for one in ("ENGINE", "NAME"))
            if "sqlite" in engine and not Path(name).is_file():
                sys.exit(f"There is no database at {name}. Run `make setup`, or check that its disk is mounted.")
            hold()


def check_owner(data: Path) -> None:
    """Exit with a message where root works on another user's data: the owner could not read or replace what root wrote."""
    if os.geteuid() == 0 and data.is_dir() and (owner := data.stat().st_uid) != 0:
        try:
            name = pwd.getpwuid(owner).pw_name
        except KeyError:
            name = f"the user {owner}"
        sys.exit(
            f"The data in {data} belong to {name}. Run this as {name}: files written there by root would be unusable. "
            "deploy/zugzwang-manage does so."
        )
