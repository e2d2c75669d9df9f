"""`manage.py move_blocks`: put the bytes of blocks and loads where `ZUGZWANG_BLOCKS` says, or back into the database."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import CommandError

from zugzwang.cli.base import ProductCommand
from zugzwang.data.block_store import move, store
from zugzwang.data.in_use import alone
from zugzwang.data.models import Block, LoadPart


class Command(ProductCommand):
    help = "Put the bytes of all blocks and loads into the store that is set, while Zugzwang does not run."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--into-database", action="store_true", help="out of the store; unset ZUGZWANG_BLOCKS afterwards")

    def handle(self, *args: Any, **options: Any) -> None:
        if store() is None:
            raise CommandError("No store is set. Set ZUGZWANG_BLOCKS to the one that the bytes go into, or are in.")
        with alone():
            moved = sum(move(table, options["into_database"]) for table in (Block, LoadPart))
        self.stdout.write(f"{moved:,} rows were moved.")
