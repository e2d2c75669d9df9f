"""A database of an older program (the file next to this test, with that program's answers): it migrates, and the same requests
get the same answers.
"""

import gzip
import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

HERE = Path(__file__).parent
# How the figures are reported, which may be better said, and how sure they are, which rules judge otherwise since.
WORDED = {"advice", "sentence", "sentences", "reasons", "lead_reasons", "evidence", "q_value"}
# What a better position would bring, and all that it is a part of, is forecast by another rule since.
FORECAST = ("headroom", "snippet", "rank", "stake", "gain", "cautious", "could_earn", "worth")
# What that program called otherwise (decision 57).
FINDINGS = {"off-fit": "query-page-mismatch", "topic-folds": "overlapping-pages"}
FIELDS = {
    "at_stake": "opportunity", "at_stake_month": "opportunity_month", "at_stake_itself": "opportunity_itself",
    "stake_share": "opportunity_share", "shown_for": "shared_queries", "unnamed": "anonymised",
    "usual_bounce_rate": "expected_bounce_rate", "usual_sessions": "expected_sessions",
}  # fmt: skip
VALUES = {"relay": "alternating", "double": "double listing", "understudy": "wrong page ranks", "topic fold": "mixed topics"}
ASK = """
import io, json, sys
import django
django.setup()
from django.core.management import call_command
from zugzwang.data.models import Move, MoveChange, SavedView
call_command("migrate", verbosity=0)
answers = {}
for asked in json.loads(sys.stdin.read()):
    out = io.StringIO()
    finding, *options = asked.split()
    call_command("findings", finding, "--site", "shop", *options, stdout=out)
    answers[asked] = json.loads(out.getvalue())["rows"]
states = sorted(Move.objects.values_list("state", flat=True))
changed = list(MoveChange.objects.filter(field="state").values_list("before", "after"))
print(json.dumps({"answers": answers, "states": states, "changed": changed, "views": SavedView.objects.count()}))
"""


def forecast(row: dict[str, Any]) -> set[str]:
    return {name for name in row if any(part in name for part in FORECAST)}


def _same(new: Any, old: Any) -> bool:
    if isinstance(old, dict):
        return all(
            _same(new[FIELDS.get(name, name)], value) for name, value in old.items() if name not in WORDED | forecast(old)
        )
    if isinstance(old, list):
        return len(new) == len(old) and all(_same(*pair) for pair in zip(new, old, strict=True))
    return new == pytest.approx(old) if isinstance(old, float) else new == VALUES.get(old, old)


def _hold(new: list[dict[str, Any]], old: list[dict[str, Any]]) -> bool:
    """Whether every earlier row is still there with its values; new rows are allowed. The order changed with the forecast, and
    rows without a gain are no longer listed.
    """
    of_key = {_key(row): row for row in new}
    both = [(of_key[_key(row)], row) for row in old if _key(row) in of_key]
    return len(both) >= len(old) / 2 and all(_same(*pair) for pair in both)


def _key(row: dict[str, Any]) -> tuple[Any, ...]:
    return tuple(json.dumps(row.get(name)) for name in ("page", "query", "section", "group", "other", "week", "level", "name"))


def test_a_database_of_the_program_before_answers_the_same(tmp_path: Path) -> None:
    result = json.loads(gzip.decompress((HERE / "before_findings_as_data.json.gz").read_bytes()))
    (tmp_path / "zugzwang.sqlite3").write_bytes(gzip.decompress((HERE / "before_findings_as_data.sqlite3.gz").read_bytes()))
    environment = {
        **os.environ,
        "ZUGZWANG_DATA_DIR": str(tmp_path),
        "ZUGZWANG_DATABASE": "",
        "DJANGO_SETTINGS_MODULE": "zugzwang.settings",
    }
    present = {question: question.replace(name := question.split()[0], FINDINGS.get(name, name), 1) for question in result}
    asked = json.dumps(list(present.values()))
    command = [sys.executable, "-c", ASK]
    done = subprocess.run(
        command, env=environment, input=asked, capture_output=True, text=True, check=True, cwd=HERE.parents[1]
    )
    now = json.loads(done.stdout)
    assert len(result) == 36
    for question, rows in result.items():
        if question.split()[0] == "breaks":
            continue  # which weeks are breaks is judged by another rule since
        assert _hold(now["answers"][present[question]], rows), question
    assert now["states"] == ["done", "to do"]
    assert now["changed"] == [["to do", "done"]]
    assert now["views"] == 1
