"""Change one place of the code at a time and count how many changes the tests notice.

`make mutants COUNT=60 SEED=1 PART=core`. The mutations are cosmic-ray's, a sample drawn by the seed over the lines of the
modules; each runs the tests that touch its line, which a first run under coverage records. Survivors are printed with their
change.
"""

import argparse
import difflib
import hashlib
import random
import shutil
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator
from coverage import CoverageData

ROOT = Path(__file__).parents[1]
MODULES = ("core", "findings", "plan", "intake", "people")
TESTS = (
    "tests/core",
    "tests/findings",
    "tests/intake",
    "tests/data",
    "tests/api",
    "tests/test_demo.py",
    "tests/test_bounded.py",
)
WORK = ROOT / "data" / "tests" / "mutants"
PATIENCE = 900  # seconds of tests for one change; a change that loops for ever is caught by this
_BINARY = ("Add_Sub", "Sub_Add", "Mul_Div", "Div_Mul", "FloorDiv_Mul", "Mod_Mul", "Pow_Mul")
_COMPARED = ("Lt_LtE", "LtE_Lt", "Gt_GtE", "GtE_Gt", "Lt_GtE", "Gt_LtE", "Eq_NotEq", "NotEq_Eq", "Is_IsNot", "IsNot_Is")
OPERATORS = (
    *(f"core/ReplaceBinaryOperator_{name}" for name in _BINARY),
    *(f"core/ReplaceComparisonOperator_{name}" for name in _COMPARED),
    *(f"core/{name}" for name in ("ReplaceAndWithOr", "ReplaceOrWithAnd", "AddNot", "NumberReplacer", "ZeroIterationForLoop")),
    *(f"core/{name}" for name in ("ReplaceTrueWithFalse", "ReplaceFalseWithTrue", "ReplaceUnaryOperator_Delete_Not")),
)


@dataclass(frozen=True)
class Mutant:
    """One change: the module, the operator and which of its occurrences, and the line."""

    module: str
    operator: str
    occurrence: int
    line: int


def mutants_of(path: Path) -> Iterator[Mutant]:
    tree = get_ast(path.read_text())
    for name in OPERATORS:
        operator = get_operator(name)()
        positions = (start for node in ast_nodes(tree) for start, _ in operator.mutation_positions(node))
        for occurrence, (line, _) in enumerate(positions):
            yield Mutant(str(path.relative_to(ROOT)), name, occurrence, line)


def drawn(count: int, seed: int, parts: tuple[str, ...] = MODULES) -> list[Mutant]:
    paths = [path for part in parts for path in sorted((ROOT / "zugzwang" / part).rglob("*.py"))]
    every = [mutant for path in paths for mutant in mutants_of(path)]
    # One change a line, so that lines with many operators do not fill the sample.
    random.Random(seed).shuffle(every)
    lines: dict[tuple[str, int], Mutant] = {}
    for mutant in every:
        lines.setdefault((mutant.module, mutant.line), mutant)
    return list(lines.values())[:count]


def recorded(tests: tuple[str, ...]) -> CoverageData:
    """Which test touches which line; run anew when code or tests have changed."""
    hasher = hashlib.sha256(" ".join(tests).encode())
    for path in sorted([*(ROOT / "zugzwang").rglob("*.py"), *(ROOT / "tests").rglob("*.py")]):
        hasher.update(path.read_bytes())
    file = WORK / f"coverage-{hasher.hexdigest()[:16]}"
    if not file.exists():
        print("→ Recording which test touches which line", flush=True)
        WORK.mkdir(parents=True, exist_ok=True)
        config = WORK / "coveragerc"
        config.write_text(f"[run]\nsource = zugzwang\ndata_file = {WORK / 'running'}\n")
        cover = ["--cov", f"--cov-config={config}", "--cov-context=test", "--cov-report="]
        subprocess.run([sys.executable, "-m", "pytest", "-n", "2", "--dist", "loadfile", *cover, *tests], cwd=ROOT, check=True)
        (WORK / "running").rename(file)
    data = CoverageData(str(file))
    data.read()
    return data


def tests_of(mutant: Mutant, data: CoverageData) -> list[str]:
    """The tests that touch the line; of a line run at import, those that touch the module."""
    contexts = data.contexts_by_lineno(str(ROOT / mutant.module))
    names = {one.partition("|")[0] for one in contexts.get(mutant.line, [])} - {""}
    if not names:
        names = {one.partition("|")[0] for every in contexts.values() for one in every} - {""}
    return sorted(names)


def change_of(mutant: Mutant) -> tuple[str, str]:
    """The module's text before and after."""
    before = (ROOT / mutant.module).read_text()
    after = mutate_code(before, get_operator(mutant.operator)(), mutant.occurrence)
    assert after is not None
    return before, str(after)


def caught(mutant: Mutant, tests: list[str], copy: Path) -> bool:
    before, after = change_of(mutant)
    (copy / mutant.module).write_text(after)
    names = copy / "names.txt"
    names.write_text("\n".join(tests))
    command = [sys.executable, "-m", "pytest", "-x", "-q", "--no-header", f"@{names}"]
    env = {"ZUGZWANG_DATA_DIR": str(copy / "data"), "PATH": f"{Path(sys.executable).parent}:/usr/bin:/bin:/usr/sbin"}
    try:
        result = subprocess.run(command, cwd=copy, env=env, capture_output=True, timeout=PATIENCE, check=False)
    except subprocess.TimeoutExpired:
        return True
    finally:
        (copy / mutant.module).write_text(before)
    return result.returncode != 0


def copies(count: int) -> "Queue[Path]":
    """Copies of the tree, each to be changed in turn."""
    free: Queue[Path] = Queue()
    names = subprocess.run(["git", "ls-files", "-z"], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split("\0")
    for number in range(count):
        copy = WORK / f"copy-{number}"
        shutil.rmtree(copy, ignore_errors=True)
        for name in filter(None, names):
            (copy / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(ROOT / name, copy / name)
        for name in ("web/dist", "web/collected", "web/src/api"):
            shutil.copytree(ROOT / name, copy / name, dirs_exist_ok=True)
        (copy / "data").mkdir()
        free.put(copy)
    return free


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--count", type=int, default=60)
    options.add_argument("--seed", type=int, default=1)
    options.add_argument("--least", type=float, default=0.85, help="share to be caught")
    options.add_argument("--part", choices=MODULES, help="only this part; core is tested by its own tests alone")
    chosen = options.parse_args()
    parts = (chosen.part,) if chosen.part else MODULES
    data = recorded(("tests/core",) if parts == ("core",) else TESTS)
    free = copies(2)
    survivors: list[Mutant] = []

    def tried(mutant: Mutant) -> None:
        copy = free.get()
        tests = tests_of(mutant, data)
        noticed = bool(tests) and caught(mutant, tests, copy)
        free.put(copy)
        print(
            f"{'caught' if noticed else 'ESCAPED'}  {mutant.module}:{mutant.line} {mutant.operator} ({len(tests)} tests)",
            flush=True,
        )
        if not noticed:
            survivors.append(mutant)

    sample = drawn(chosen.count, chosen.seed, parts)
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(tried, sample))
    for mutant in survivors:
        before, after = change_of(mutant)
        print(
            "\n".join(difflib.unified_diff(before.split("\n"), after.split("\n"), mutant.module, "changed", n=1, lineterm=""))
        )
    share = 1 - len(survivors) / len(sample)
    noticed = len(sample) - len(survivors)
    print(f"{noticed} of {len(sample)} changes are caught: {share:.0%}, {chosen.least:.0%} are wanted")
    return 0 if share >= chosen.least else 1


if __name__ == "__main__":
    sys.exit(main())
