"""A minimal Debian in a folder, made with debootstrap and the machine's own package sources, for drills that install Zugzwang
on a clean system. Needs root and debootstrap. Files and variables that configure the machine's sources are passed on
unchanged.
"""

import os
import shutil
import subprocess
import sys
import tarfile
from collections.abc import Sequence
from pathlib import Path

SUITE = "trixie"
# Where a machine says what its sources of packages are, and whom it trusts.
TOLD_IN = ("/etc/pip.conf", "/etc/xdg/pip", "/etc/npmrc", "/root/.npmrc", "/root/.config/pip", "/root/.config/uv", "/etc/uv",
           "/etc/ssl/certs", "/usr/local/share/ca-certificates", "/usr/share/ca-certificates", "/etc/resolv.conf",
           "/etc/hosts", "/etc/apt/apt.conf.d")  # fmt: skip
VARIABLES = (
    "PIP_",
    "UV_",
    "NPM_",
    "npm_",
    "SSL_",
    "REQUESTS_",
    "NODE_",
    "http_",
    "https_",
    "HTTP_",
    "HTTPS_",
    "no_proxy",
    "NO_PROXY",
)


def told() -> dict[str, str]:
    """Environment variables that configure package sources."""
    return {name: value for name, value in os.environ.items() if name.startswith(VARIABLES)}


def local_sources() -> list[Path]:
    """Local folders that the settings name as package sources."""
    words = " ".join([*told().values(), *(file.read_text() for one in TOLD_IN[:7] for file in _files(Path(one)))])
    named = (word.strip("'\"").removeprefix("file://") for word in words.replace("=", " ").split())
    current = {Path("/", *Path(one).parts[1:3]) for one in named if one.startswith("/")}
    return sorted(one for one in current if one.is_dir() and one.parts[1] == "opt")


def _files(path: Path) -> list[Path]:
    return [path] if path.is_file() else [one for one in path.rglob("*") if one.is_file()] if path.is_dir() else []


def make(folder: Path, packages: Sequence[str] = ()) -> None:
    """Create a Debian with packages in a new folder."""
    needs("debootstrap")
    folder.mkdir(exist_ok=True)
    folder.chmod(0o755)  # it is the root of others than root, too
    words = ["debootstrap", "--variant=minbase", SUITE, str(folder), *([mirror] if (mirror := _mirror()) else [])]
    run(words)
    for one in TOLD_IN:
        source = Path(one)
        if source.is_dir():
            shutil.copytree(source, folder / one[1:], dirs_exist_ok=True, symlinks=True, ignore_dangling_symlinks=True)
        elif source.is_file():
            (folder / one[1:]).parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(source, folder / one[1:])
    if packages:
        chroot(folder, f"apt-get update -qq && apt-get install -y -qq --no-install-recommends {' '.join(packages)}")


def _mirror() -> str:
    """The Debian mirror of this machine."""
    for file in [Path("/etc/apt/sources.list"), *Path("/etc/apt/sources.list.d").glob("*")]:
        for line in file.read_text().splitlines() if file.is_file() else []:
            words = line.split()
            if words and words[0] in ("URIs:", "deb"):
                named = [word for word in words[1:] if word.rstrip("/").endswith("/debian")]
                if named:
                    return named[0]
    return ""


def chroot(folder: Path, command: str, **environment: str) -> str:
    """The output of a shell command in the chroot; a failure ends the drill."""
    env = {"PATH": "/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin", "HOME": "/root", "LANG": "C.UTF-8",
           "DEBIAN_FRONTEND": "noninteractive", **told(), **environment}  # fmt: skip
    return run(["chroot", str(folder), "bash", "-euo", "pipefail", "-c", command], env=env)


def mount(folder: Path, more: Sequence[tuple[Path, str]] = ()) -> None:
    run(["mount", "-t", "proc", "proc", str(folder / "proc")])
    run(["mount", "-t", "tmpfs", "tmpfs", str(folder / "dev" / "shm")])
    for source, target in [*((one, str(one)) for one in local_sources()), *more]:
        at = folder / target.lstrip("/")
        at.mkdir(parents=True, exist_ok=True)
        run(["mount", "--bind", "-o", "ro", str(source), str(at)])


def unmount(folder: Path) -> None:
    for line in reversed(Path("/proc/mounts").read_text().splitlines()):
        if line.split()[1].startswith(f"{folder}/"):
            subprocess.run(["umount", "--lazy", line.split()[1]], check=False)


def remove(folder: Path) -> None:
    """Unmount and delete it; mounted folders of the machine itself are not deleted."""
    unmount(folder)
    if f" {folder}/" in Path("/proc/mounts").read_text():
        sys.exit(f"Something is still mounted in {folder}: unmount it, then delete the folder.")
    shutil.rmtree(folder, ignore_errors=True)


def packed(folder: Path, target: Path) -> Path:
    """The Debian as a tar archive, for an image."""
    with tarfile.open(target, "w") as archive:
        archive.add(folder, arcname=".")
    return target


def needs(program: str) -> None:
    if os.geteuid() != 0 or shutil.which(program) is None:
        sys.exit(f"This needs root and {program}: apt-get install {program}.")


def run(command: Sequence[str], env: dict[str, str] | None = None) -> str:
    done = subprocess.run(command, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False)
    if done.returncode:
        sys.exit(f"{' '.join(command)[:300]}\n{done.stdout[-4_000:]}")
    return done.stdout
