"""`manage.py move_blocks`: move stored blocks and loads to where `ZUGZWANG_BLOCKS` says, or back into the database."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import CommandError

from zugzwang.cli.base import ProductCommand
from zugzwang.data.block_store import move, store
from zugzwang.data.in_use import alone
from zugzwang.data.models import Block, LoadPart


class Command(ProductCommand):
    help = "Move all blocks and loads to the configured object store. Stop Zugzwang first."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument(
            "--into-database", action="store_true", help="move back from the store; unset ZUGZWANG_BLOCKS afterwards"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        if store() is None:
            raise CommandError("No store is configured. Set ZUGZWANG_BLOCKS to the store.")
        with alone():
            moved = sum(move(table, options["into_database"]) for table in (Block, LoadPart))
        self.stdout.write(f"{moved:,} rows were moved.")
