"""`make known-faults OSV=FOLDER`: known vulnerabilities of the pinned packages, from a local database: no network is used.
FOLDER has advisories in the OSV format (Open Source Vulnerability format), as JSON files or ZIP archives, such as the full
exports of “PyPI” and “npm”. Withdrawn advisories are skipped. Exits with 1 if a package is affected.
"""

import json
import re
import sys
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import semver
from packaging.utils import canonicalize_name
from packaging.version import InvalidVersion, Version

ROOT = Path(__file__).parent.parent
Advisory = dict[str, Any]


def pinned() -> dict[tuple[str, str], set[str]]:
    """The pinned packages: (ecosystem, name) → versions."""
    current: dict[tuple[str, str], set[str]] = {}
    for line in (ROOT / "requirements/test.txt").read_text().splitlines():
        if found := re.match(r"([A-Za-z0-9._-]+)(?:\[[^\]]*\])?==([^ ;\\]+)", line):
            current.setdefault(("PyPI", canonicalize_name(found[1])), set()).add(found[2])
    for path, entry in json.loads((ROOT / "web/package-lock.json").read_text())["packages"].items():
        if "node_modules/" in path and "version" in entry:
            current.setdefault(("npm", path.rpartition("node_modules/")[2]), set()).add(entry["version"])
    return current


def advisories(folder: Path) -> Iterator[Advisory]:
    for path in sorted(folder.rglob("*")):
        if path.suffix == ".json":
            yield json.loads(path.read_text())
        elif path.suffix == ".zip":
            with zipfile.ZipFile(path) as archive:
                for name in archive.namelist():
                    if name.endswith(".json"):
                        yield json.loads(archive.read(name))


def is_affected(advisory: Advisory, ecosystem: str, name: str, version: str) -> bool:
    """Whether a version is listed or lies in a range from “introduced” to before “fixed”, or to “last_affected”."""
    if "withdrawn" in advisory:
        return False
    for affected in advisory.get("affected", []):
        package = affected.get("package", {})
        if (package.get("ecosystem"), _name(ecosystem, package.get("name", ""))) != (ecosystem, name):
            continue
        if version in affected.get("versions", []):
            return True
        ranges = [one for one in affected.get("ranges", []) if one["type"] in ("SEMVER", "ECOSYSTEM")]
        if any(_within(ecosystem, version, one["events"]) for one in ranges):
            return True
    return False


def _name(ecosystem: str, name: str) -> str:
    return canonicalize_name(name) if ecosystem == "PyPI" else name


def _within(ecosystem: str, version: str, events: list[dict[str, str]]) -> bool:
    result = [(kind, _order(ecosystem, at)) for event in events for kind, at in event.items() if kind != "limit"]
    own, within = _order(ecosystem, version), False
    if own is None:
        return False
    for kind, at in sorted((one for one in result if one[1] is not None), key=lambda one: (one[1], one[0] != "introduced")):
        if kind == "introduced" and own >= at:
            within = True
        elif (kind == "fixed" and own >= at) or (kind == "last_affected" and own > at):
            within = False
    return within


def _order(ecosystem: str, version: str) -> Any:
    """The sort key of a version; None if it is not a version."""
    if version == "0":
        version = "0.0.0-0" if ecosystem == "npm" else "0.dev0"
    try:
        return semver.Version.parse(version) if ecosystem == "npm" else Version(version)
    except (InvalidVersion, ValueError, TypeError):
        return None


def main(folder: Path) -> int:
    current, known, found = pinned(), 0, []
    for advisory in advisories(folder):
        known += 1
        names = {
            (one["package"]["ecosystem"], _name(one["package"]["ecosystem"], one["package"]["name"]))
            for one in advisory.get("affected", [])
            if "package" in one
        }
        for key in names & current.keys():
            found += [(key, version, advisory) for version in current[key] if is_affected(advisory, *key, version)]
    for (ecosystem, name), version, advisory in found:
        print(f"{name} {version} ({ecosystem}): {advisory['id']} {advisory.get('summary', '')}")
    print(f"{len(found)} faults known of {len(current)} packages, by {known:,} advisories.")
    if not known:
        print(f"There is no advisory in {folder}: nothing was looked up.")
    return 1 if found or not known else 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])) if len(sys.argv) > 1 else "Say where the advisories are: make known-faults OSV=FOLDER")
