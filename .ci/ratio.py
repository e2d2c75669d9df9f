"""Count lines of tests and of code, without blank lines, comments and generated files."""

import subprocess
from pathlib import Path

CODE = ["zugzwang/**/*.py", "zugzwang/*.py", "demo/*.py", "manage.py", "web/src/**/*.ts", "web/src/**/*.tsx", "web/src/*"]
TESTS = ["tests/**/*.py", "tests/*.py", "web/src/**/*.test.ts", "web/src/**/*.test.tsx"]


def lines(patterns: list[str], *without: str) -> int:
    listed = subprocess.run(
        ["git", "ls-files", "-co", "--exclude-standard", "--", *patterns], capture_output=True, text=True, check=True
    )
    total = 0
    for name in sorted(set(listed.stdout.split())):
        if any(part in name for part in without) or not name.endswith((".py", ".ts", ".tsx", ".css")):
            continue
        total += sum(
            1 for line in Path(name).read_text().splitlines() if line.strip() and not line.strip().startswith(("#", "//"))
        )
    return total


code = lines(CODE, "migrations", "generated", ".test.")
tests = lines(TESTS)
share_of_both, share_of_code = tests / (tests + code), tests / code
print(f"{tests:,} lines of tests to {code:,} of code: {share_of_both:.0%} of both together, {share_of_code:.0%} of the code")
