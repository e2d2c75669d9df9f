"""Known vulnerabilities of packages from a local database; ranges as in the OSV format's text (from memory)."""

import json
import zipfile
from pathlib import Path
from typing import Any

import pytest

from tools.known_faults import is_affected, main, pinned


def advisory(name: str, events: list[dict[str, str]], ecosystem: str = "PyPI", **more: Any) -> dict[str, Any]:
    ranges = [{"type": "SEMVER" if ecosystem == "npm" else "ECOSYSTEM", "events": events}]
    return {"id": "X-1", "affected": [{"package": {"ecosystem": ecosystem, "name": name}, "ranges": ranges, **more}]}


@pytest.mark.parametrize(
    ("events", "bad", "sound"),
    [
        ([{"introduced": "0"}, {"fixed": "1.10"}], ["0.1", "1.9.9", "1.10rc1"], ["1.10", "2.0"]),
        ([{"introduced": "2.0"}, {"last_affected": "2.3"}], ["2.0", "2.3"], ["1.9", "2.3.1"]),
        ([{"fixed": "1.2"}, {"introduced": "3.0"}, {"introduced": "0"}], ["1.1", "3.0", "9"], ["1.2", "2.9"]),
        ([{"introduced": "0"}], ["7"], []),
    ],
)
def test_a_range_is_from_introduced_to_before_fixed(events: list[dict[str, str]], bad: list[str], sound: list[str]) -> None:
    result = advisory("Some_Package", events)
    assert [one for one in [*bad, *sound] if is_affected(result, "PyPI", "some-package", one)] == bad
    assert not is_affected(result, "PyPI", "other", bad[0])
    assert not is_affected({**result, "withdrawn": "2026-01-01T00:00:00Z"}, "PyPI", "some-package", bad[0])


def test_npm_orders_as_semantic_versions_do() -> None:
    result = advisory(
        "vite", [{"introduced": "6.0.0"}, {"fixed": "6.0.0-rc.2"}, {"fixed": "6.0.10"}], "npm", versions=["5.0.1"]
    )
    versions = ("5.0.1", "6.0.2", "6.0.10", "6.0.9")
    assert [one for one in versions if is_affected(result, "npm", "vite", one)] == ["5.0.1", "6.0.2", "6.0.9"]


def test_the_packages_that_we_pin_are_looked_up(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    current = pinned()
    (django,), (react,) = current["PyPI", "django"], current["npm", "react"]
    assert main(tmp_path) == 1
    assert "nothing was looked up" in capsys.readouterr().out
    harmless = advisory("django", [{"introduced": "0"}, {"fixed": "1.0"}])
    (tmp_path / "one.json").write_text(json.dumps(harmless))
    assert main(tmp_path) == 0
    with zipfile.ZipFile(tmp_path / "all.zip", "w") as archive:
        archive.writestr("a.json", json.dumps(advisory("Django", [{"introduced": django}])))
        archive.writestr("b.json", json.dumps(advisory("react", [{"introduced": "0"}, {"last_affected": react}], "npm")))
    assert main(tmp_path) == 1
    result = capsys.readouterr().out
    assert f"django {django} (PyPI): X-1" in result
    assert f"react {react} (npm): X-1" in result
    assert f"2 faults known of {len(current)} packages, by 3 advisories." in result
