"""Run the core's tests where Django and the rest of the product cannot be imported."""

import os
import sys
from collections.abc import Sequence
from importlib.abc import MetaPathFinder
from importlib.machinery import ModuleSpec
from pathlib import Path
from types import ModuleType

import pytest

ROOT = Path(__file__).parent.parent
ABSENT = ("django", "ninja", "django_tasks")


class Absent(MetaPathFinder):
    """Makes these modules unimportable."""

    def find_spec(self, name: str, path: Sequence[str] | None, target: ModuleType | None = None) -> ModuleSpec | None:
        ours_outside_core = name.startswith("zugzwang.") and not name.startswith("zugzwang.core")
        if name.partition(".")[0] in ABSENT or ours_outside_core:
            raise ModuleNotFoundError(f"{name} is not there for the core")
        return None


if __name__ == "__main__":
    sys.path.insert(0, str(ROOT))
    sys.meta_path.insert(0, Absent())
    os.environ["PYTEST_DISABLE_PLUGIN_AUTOLOAD"] = "1"
    # Neither our settings for pytest nor plugins nor the tests' conftest: they need Django.
    alone = ["-q", "-W", "error", "-c", "/dev/null", "--rootdir", str(ROOT), "--noconftest", "-p", "no:cacheprovider"]
    # The worked examples in the rules' own texts are run with them.
    sys.exit(pytest.main([*alone, "--doctest-modules", str(ROOT / "tests" / "core"), str(ROOT / "zugzwang" / "core")]))
