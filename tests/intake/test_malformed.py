"""Damaged uploads of every format: each is refused clearly, or read where the damage does not matter; none causes an error."""

import gzip
import io
import random
import zipfile
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from tests.intake.test_formats import LOG, MADE
from zugzwang.data.models import Job, Site
from zugzwang.intake import jobs

pytestmark = pytest.mark.django_db
UPLOADS = 300


def whole_files(folder: Path) -> list[bytes]:
    files = []
    for number, make in enumerate(MADE.values()):
        path = folder / f"made-{number}"
        make(path)
        files.append(path.read_bytes())
    return [*files, LOG.encode(), b'date,title\n2026-11-09,=HYPERLINK("x")\n']


def broken(whole: bytes, chance: random.Random) -> bytes:
    """The file with some damage: cut, bytes changed, doubled, reversed, packed again, or in another encoding."""
    way = chance.randrange(9)
    place = chance.randrange(len(whole))
    if way == 0:
        return whole[:place]
    if way == 1:
        return bytes(chance.randrange(256) if chance.random() < 0.02 else byte for byte in whole)
    if way == 2:
        return whole[place:] + whole
    if way == 3:
        return whole[::-1]
    if way == 4:
        return chance.randbytes(chance.randrange(1, 4_000))
    if way == 5:
        return whole.replace(b",", chance.choice([b"\0", b'"', b"\n", b",,", b"=1+1,"]))
    if way == 6:
        return gzip.compress(whole)[:place] if chance.random() < 0.5 else gzip.compress(gzip.compress(whole))
    if way == 7:
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive:
            archive.writestr(chance.choice(["a.csv", "../../b.csv", "/etc/passwd", "c" * 200]), whole)
        return buffer.getvalue() if chance.random() < 0.5 else buffer.getvalue()[:-30]
    return whole.decode("latin-1").encode(chance.choice(["utf-16", "utf-32-be", "cp037"]), "replace")


def test_no_broken_upload_breaks_us(signed_in: Client, site: Site, tmp_path: Path) -> None:
    chance, files = random.Random(20261123), whole_files(tmp_path)
    outcomes: dict[str, int] = {}
    for _ in range(UPLOADS):
        content = broken(chance.choice(files), chance)
        answer = signed_in.post("/api/sites/shop/uploads", {"file": SimpleUploadedFile("file", content)})
        result = answer.json()
        assert answer.status_code in (201, 422), (content[:200], result)
        if answer.status_code == 422:
            assert result["detail"]
            assert result["remedy"] or all(problem["message"] and problem["remedy"] for problem in result["problems"])
            outcomes["refused at once"] = outcomes.get("refused at once", 0) + 1
            continue
        job = jobs.start_load(jobs.Actor(None), "shop", result["upload"], {"keep_good_rows": chance.random() < 0.3})
        jobs.run_job.func(job.id)
        job.refresh_from_db()
        assert job.state in (Job.State.DONE, Job.State.REFUSED), (content[:200], job.outcome)
        outcomes[job.state] = outcomes.get(job.state, 0) + 1
    assert sum(outcomes.values()) == UPLOADS
    assert outcomes["refused at once"] > 50


def test_an_archive_whose_names_are_no_text_is_refused(signed_in: Client, site: Site) -> None:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("größe.csv", b"a,b\n1,2\n")  # the name is marked as UTF-8
    content = buffer.getvalue().replace("ö".encode(), b"\xb2\xff")
    answer = signed_in.post("/api/sites/shop/uploads", {"file": SimpleUploadedFile("file.zip", content)})
    assert answer.status_code == 422
    (problem,) = answer.json()["problems"]
    assert "cannot be opened" in problem["message"]


def test_a_formula_stays_text(signed_in: Client, site: Site) -> None:
    result = signed_in.post(
        "/api/sites/shop/uploads", {"file": SimpleUploadedFile("e.csv", b"date,title\n2026-11-09,=1+1\n")}
    ).json()
    job = jobs.start_load(jobs.Actor(None), "shop", result["upload"], {})
    jobs.run_job.func(job.id)
    assert [event["title"] for event in signed_in.get("/api/sites/shop/events").json()] == ["=1+1"]
