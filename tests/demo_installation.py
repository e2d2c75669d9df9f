"""The demo as `make demo` makes it, made once for all tests; killed once midway, so that taking it up again is tested, too."""

import fcntl
import hashlib
import shutil
import subprocess
import sys
from pathlib import Path

from tests.installation import ROOT, Installation
from tests.standin_server import free_port

HOSTS = ("www.marrowbank.example", "marrowbank.example", "staging.marrowbank.example", "data.marrowbank.example")


def demo_folder() -> Path:
    """The data folder of a demo that is ready. Read it or copy it; nothing may write into it."""
    hasher = hashlib.sha256()
    for part in ("zugzwang", "demo"):
        for path in sorted((ROOT / part).rglob("*.py")):
            hasher.update(path.read_bytes())
    folder = ROOT / "data" / "tests"
    folder.mkdir(parents=True, exist_ok=True)
    ready = folder / f"demo-{hasher.hexdigest()[:16]}"
    with (folder / "making-demo").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not ready.exists():
            for older in folder.glob("demo-*"):
                shutil.rmtree(older)
            _make(folder / "demo-half").rename(ready)
    return ready


def _make(data: Path) -> Path:
    installation = Installation(data).migrated()
    command = [sys.executable, "manage.py", "demo"]
    # It starts the stand-ins at this address itself, for its crawl.
    standins = f"http://127.0.0.1:{free_port()}"
    mapped = ",".join(f"{host}={standins}" for host in HOSTS)
    env = installation.env | {"PYTHONUNBUFFERED": "1", "ZUGZWANG_HOST_MAP": mapped}
    with subprocess.Popen(command, cwd=ROOT, env=env, stdout=subprocess.PIPE, text=True) as killed:
        assert killed.stdout is not None
        assert any("rows of visits" in line for line in killed.stdout)
        killed.kill()
    result = subprocess.run(command, cwd=ROOT, env=env, check=True, capture_output=True, text=True).stdout
    assert "rows of search-page-query" not in result  # it was loaded before
    assert "rows of events" in result
    return data


def copy_of_demo(data: Path) -> Path:
    shutil.copytree(demo_folder(), data, dirs_exist_ok=True)
    return data
