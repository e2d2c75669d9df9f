"""`make drill-install`: follow docs/operating.md in a clean Debian, command by command: install, check, load, back up,
upgrade, restore. A failed step ends the drill with its output. A chroot has no systemd, so tools/drill/systemctl.py
replaces it. Container commands are left out (`make container`).
"""

import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from tools import debian

ROOT = Path(__file__).parents[1]
DRILL = ROOT / "tools" / "drill"
PACKAGES = "python3 python3-venv nodejs npm make git nginx-light curl openssl ca-certificates procps"
UNITS = "zugzwang-web zugzwang-worker@1 zugzwang-worker@2 zugzwang-clock"
HOST, ADMINISTRATOR, PASSWORD = "seo.shop.example", "root", "a drill's long password"


def commands(section: str) -> list[str]:
    """The commands in the fenced blocks of a section of docs/operating.md; a here-document counts as one."""
    text = (ROOT / "docs" / "operating.md").read_text().split(f"## {section}\n")[1].split("\n## ")[0]
    found: list[str] = []
    for block in re.findall(r"```\n(.*?)```", text, re.S):
        if not block.startswith("podman"):
            found += re.findall(r"^(?:[^\n]*<<END\n.*?^END|[^\n]+)$", block, re.S | re.M)
    return [command if "<<END" in command else command.partition("  #")[0].rstrip() for command in found]


def follow(folder: Path, section: str) -> None:
    """Run each command as written, in the folder where the previous one ended."""
    at = "/root"
    for command in commands(section):
        print(f"  {command.splitlines()[0]}", flush=True)
        written = command.replace("git clone …", "git clone --quiet /checkout")
        if written.endswith("createsuperuser"):
            written += f" --noinput --username {ADMINISTRATOR} --email root@shop.example"
        if written.startswith("curl"):
            written += " --silent --show-error --retry 60 --retry-delay 1 --retry-all-errors"
        result = debian.chroot(folder, f"cd {at}\n{written}\npwd > /tmp/at", DJANGO_SUPERUSER_PASSWORD=PASSWORD)
        at = (folder / "tmp" / "at").read_text().strip()
        if written.startswith("curl"):
            print(f"    {result.strip().splitlines()[-1]}")


def prepare(folder: Path) -> None:
    """What the document assumes: a host name, a certificate, systemctl."""
    debian.make(folder, PACKAGES.split())
    debian.mount(folder, [(ROOT, "/checkout")])
    shutil.copy(DRILL / "systemctl.py", folder / "usr" / "local" / "bin" / "systemctl")
    (folder / "usr" / "local" / "bin" / "systemctl").chmod(0o755)
    with (folder / "etc" / "hosts").open("a") as hosts:
        hosts.write(f"\n127.0.0.1 {HOST}\n")
    files = f"-keyout /etc/ssl/{HOST}.key -out /etc/ssl/{HOST}.pem"
    made = f"openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN={HOST} -addext subjectAltName=DNS:{HOST} {files}"
    debian.chroot(folder, f"git config --global safe.directory '*'; rm -f /etc/nginx/sites-enabled/default; {made}")


def end(folder: Path) -> None:
    """Stop everything that still runs in it."""
    for entry in (folder / "run" / "drill").glob("*"):
        subprocess.run(["pkill", "-KILL", "-g", entry.read_text()], check=False)
    nginx = folder / "run" / "nginx.pid"
    if nginx.exists() and (number := nginx.read_text().strip()):
        subprocess.run(["kill", number], check=False)


def main() -> None:
    debian.needs("debootstrap")
    folder = Path(tempfile.mkdtemp(prefix="drill-install-", dir=sys.argv[1] if len(sys.argv) > 1 else "/var/tmp"))
    try:
        print(f"→ A Debian ({debian.SUITE}) in {folder}", flush=True)
        prepare(folder)
        print("→ Installing it as a service", flush=True)
        follow(folder, "Installing it as a service")
        print("→ Using it", flush=True)
        print("  " + debian.chroot(folder, "python3 /checkout/tools/drill/use.py", PASSWORD=PASSWORD).strip())
        print("→ Upgrades", flush=True)
        follow(folder, "Upgrades")
        print("→ Restoring the backup", flush=True)
        newest = "$(ls /var/backups/zugzwang/*.tar | tail -1)"
        restored = f"zugzwang-manage restore {newest} --replace && zugzwang-manage verify"
        print("  " + debian.chroot(folder, f"systemctl stop {UNITS} && {restored}").strip().replace("\n", "\n  "))
        print("The drill is over: everything worked as written.")
    finally:
        end(folder)
        debian.remove(folder)


if __name__ == "__main__":
    main()
