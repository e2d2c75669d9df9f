"""The kinds of tables, one in each module. Adding a kind is adding its module here."""

from importlib import import_module
from pathlib import Path

from zugzwang.core.facts import grains
from zugzwang.intake.kinds.kind import Kind

_MODULES = (import_module(f"{__name__}.{path.stem}") for path in sorted(Path(__file__).parent.glob("[a-z]*.py")))
_DECLARED: list[Kind] = [module.KIND for module in _MODULES if hasattr(module, "KIND")]
KINDS: dict[str, Kind] = {one.name: one for one in sorted(_DECLARED, key=lambda one: one.order)}
for _kind in KINDS.values():
    grains.declare(_kind.name, _kind.grains, served=_kind.served)
