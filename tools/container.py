"""`make container`: build deploy/Containerfile on a local Debian, and check that the image serves, works and keeps its data.
Needs root, debootstrap and buildah. buildah runs the commands in a chroot (`--isolation=chroot`) with the machine's
network.
"""

import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from urllib.error import URLError

from tools import debian

ROOT = Path(__file__).parents[1]
BASE, IMAGE = "localhost/zugzwang-base", "localhost/zugzwang"
STORE = ("--storage-driver=vfs",)
SERVE_SECONDS = 120
USER = "10001"  # of deploy/Containerfile


def buildah(*words: str) -> str:
    return debian.run(["buildah", *STORE, *words]).strip()


def build(scratch: Path) -> None:
    print(f"→ A Debian ({debian.SUITE}) as the base image", flush=True)
    debian.make(scratch / "base")
    made = buildah("from", "scratch")
    buildah("add", made, str(debian.packed(scratch / "base", scratch / "base.tar")), "/")
    # In the base alone, for this try: an image that is given away is built on Debian's own.
    buildah("config", *(f"--env={name}={value}" for name, value in debian.told().items()), made)
    buildah("commit", "--rm", made, BASE)
    print("→ The image of deploy/Containerfile", flush=True)
    mounts = [f"--volume={one}:{one}:ro" for one in debian.local_sources()]
    file = ["--build-arg", f"BASE={BASE}", "--file", str(ROOT / "deploy" / "Containerfile")]
    ignored = f"--ignorefile={ROOT / '.containerignore'}"
    buildah("build", "--isolation=chroot", "--pull=never", ignored, *mounts, *file, "--tag", IMAGE, str(ROOT))


def try_it() -> None:
    """Migrate a new database and serve: the server answers, is ready and serves its page; its files belong to its user and are
    still there in the next run.
    """
    current = buildah("from", "--pull=never", IMAGE)
    run = ["buildah", *STORE, "run", "--isolation=chroot", "--env=ZUGZWANG_HOSTS=127.0.0.1", current, "--"]
    debian.run([*run, "python", "manage.py", "migrate", "--verbosity", "0"])
    serving = subprocess.Popen([*run, "python", "manage.py", "serve", "--listen", "127.0.0.1:18080"])
    try:
        for path in ("/healthz", "/readyz", "/"):
            print(f"  {path}: {asked(path)}", flush=True)
        owner = debian.run([*run, "stat", "-c", "%u", "/data/zugzwang.sqlite3"]).strip()
        if owner != USER:
            sys.exit(f"The data in the container belong to user {owner}, not to {USER}.")
    finally:
        serving.terminate()
        serving.wait(60)
        buildah("rm", current)


def asked(path: str) -> str:
    until = time.monotonic() + SERVE_SECONDS
    while True:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:18080{path}", timeout=10) as answer:
                return str(answer.read().decode())[:60].strip().replace("\n", " ")
        except (URLError, ConnectionError):
            if time.monotonic() > until:
                raise
            time.sleep(0.5)


def main() -> None:
    debian.needs("buildah")
    with tempfile.TemporaryDirectory(prefix="container-", dir="/var/tmp") as name:
        build(Path(name))
        print("→ Serving", flush=True)
        try_it()
    print(f"The image {IMAGE} serves.")


if __name__ == "__main__":
    main()
