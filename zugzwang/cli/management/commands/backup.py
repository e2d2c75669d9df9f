"""`manage.py backup`: write all stored data to one file while Zugzwang runs."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from zugzwang.cli.base import ProductCommand
from zugzwang.data import backup


class Command(ProductCommand):
    help = "Make a backup, read it back, and keep the newest ones; while loads run."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--to", type=Path, metavar="FOLDER", help="default: ZUGZWANG_BACKUP_DIR")
        parser.add_argument("--keep", type=int, metavar="N", help="remove all but the newest N backups there; default: none")
        parser.add_argument("--without-key", action="store_true", help="leave the signing key out: keep it elsewhere")
        parser.add_argument("--check", type=Path, metavar="FILE", help="read a backup, whole, and say whether it is sound")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["check"]:
            result = backup.check(options["check"])
            self.stdout.write(f"{options['check']} is sound: made {result.made_at}, {result.counts['store_site']} sites.")
            return
        folder = options["to"] or backup.folder_of()
        made = backup.back_up(folder, not options["without_key"])
        self.stdout.write(f"{made}: {made.stat().st_size / 1e6:,.1f} MB, verified.")
        for gone in backup.keep_newest(folder, options["keep"] or 0):
            self.stdout.write(f"Removed {gone.name}.")
