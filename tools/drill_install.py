"""`make drill-install`: follow docs/operating.md in a Debian of its own, command by command: install, look, load, back up,
upgrade, restore. A step that fails ends the drill with what it said.

There is no systemd in a chroot: SYSTEMCTL stands in for it and starts what the units say, as their user and with their settings.
All else is as written. The commands for containers are left out (`make container`).
"""

import re
import sys
import tempfile
from pathlib import Path

from tools import debian

ROOT = Path(__file__).parents[1]
PACKAGES = (
    "python3",
    "python3-venv",
    "nodejs",
    "npm",
    "make",
    "git",
    "nginx-light",
    "curl",
    "openssl",
    "ca-certificates",
    "procps",
)
HOST, ADMINISTRATOR, PASSWORD = "seo.shop.example", "root", "a drill's long password"
SYSTEMCTL = """#!/usr/bin/env python3
import configparser, os, shlex, signal, subprocess, sys, time
from pathlib import Path
runs = Path("/run/drill"); runs.mkdir(exist_ok=True)
def start(unit):
    name, _, instance = unit.partition("@")
    file = Path(f"/etc/systemd/system/{name}{'@' if instance else ''}.service")
    if not file.exists(): return subprocess.run(["nginx"], check=True)
    parser = configparser.RawConfigParser(strict=False); parser.optionxform = str
    parser.read(file); service = parser["Service"]
    env = dict(line.split("=", 1) for line in Path(service["EnvironmentFile"]).read_text().splitlines() if "=" in line)
    words = shlex.split(service["ExecStart"].replace("%i", instance))
    log = open(f"/var/log/{unit}.log", "a")
    process = subprocess.Popen(["setpriv", f"--reuid={service['User']}", f"--regid={service['User']}", "--clear-groups", *words],
        cwd=service["WorkingDirectory"], env={"PATH": os.environ["PATH"], "LANG": "C.UTF-8", **env},
        stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True)
    (runs / unit).write_text(str(process.pid))
def stop(unit):
    pid = int((runs / unit).read_text())
    os.kill(pid, signal.SIGTERM)
    for _ in range(600):
        if not Path(f"/proc/{pid}/cmdline").exists() or not Path(f"/proc/{pid}/cmdline").read_bytes(): return
        time.sleep(0.1)
    sys.exit(f"{unit} did not stop within a minute")
verb, *units = [word for word in sys.argv[1:] if not word.startswith("--")]
if verb == "reload": subprocess.run(["nginx", "-t"], check=True); subprocess.run(["nginx", "-s", "reload"]) if Path("/run/nginx.pid").exists() else start("nginx")
elif verb in ("enable", "start"): [start(unit) for unit in units]
elif verb == "stop": [stop(unit) for unit in units]
elif verb != "daemon-reload": sys.exit(f"{verb}?")
"""
# What a person does next, through nginx and TLS, as the application's own page does it.
USED = r"""
import csv, io, json, time, urllib.request, http.cookiejar, ssl, os
context = ssl.create_default_context(cafile="/etc/ssl/seo.shop.example.pem")
jar = http.cookiejar.CookieJar()
opener = urllib.request.build_opener(urllib.request.HTTPSHandler(context=context), urllib.request.HTTPCookieProcessor(jar))
def ask(path, body=None, kind="application/json"):
    token = next((one.value for one in jar if one.name == "csrftoken"), "")
    head = {"X-CSRFToken": token, "Referer": "https://seo.shop.example/", "Content-Type": kind}
    data = body if body is None or isinstance(body, bytes) else json.dumps(body).encode()
    with opener.open(urllib.request.Request("https://seo.shop.example" + path, data, head)) as answer:
        return json.loads(answer.read() or "null")
ask("/api/session")
ask("/api/session", {"username": "root", "password": os.environ["PASSWORD"]})
site = ask("/api/sites", {"name": "Shop", "address": "https://www.shop.example"})["slug"]
rows = io.StringIO()
writer = csv.writer(rows)
writer.writerow(["day", "page", "query", "clicks", "impressions", "position"])
for day in range(1, 29):
    for number in range(60):
        writer.writerow([f"2026-10-{day:02}", f"https://www.shop.example/{number % 9}", f"kayak {number}", 5, 100 + number, 1 + number % 20])
bound = "drill"
part = f'--{bound}\r\nContent-Disposition: form-data; name="file"; filename="facts.csv"\r\n\r\n{rows.getvalue()}\r\n--{bound}--\r\n'
upload = ask(f"/api/sites/{site}/uploads", part.encode(), f"multipart/form-data; boundary={bound}")["upload"]
job = ask(f"/api/sites/{site}/loads", {"upload": upload, "tables": {}})["id"]
for _ in range(600):
    told = ask(f"/api/sites/{site}/jobs/{job}")
    if told["state"] not in ("waiting", "running"): break
    time.sleep(0.2)
assert told["state"] == "done", told
assert ask(f"/api/sites/{site}/findings/click-curve")["rows"], "no click curve"
print(f"{told['outcome']['loaded']} rows loaded through nginx and a worker")
"""


def commands(section: str) -> list[str]:
    """The commands of the fenced blocks of a section of docs/operating.md, a here-document as one."""
    text = (ROOT / "docs" / "operating.md").read_text().split(f"## {section}\n")[1].split("\n## ")[0]
    found: list[str] = []
    for block in re.findall(r"```\n(.*?)```", text, re.S):
        if block.startswith("podman"):
            continue
        for whole in re.findall(r"^(?:.*<<END\n.*?^END|.+)$", block, re.S | re.M) if "<<END" in block else block.splitlines():
            found += [whole] if "<<END" in whole else [line.partition("  #")[0].rstrip() for line in whole.splitlines()]
    return [command for command in found if command]


def follow(folder: Path, section: str) -> None:
    """Each block in one shell, as a person has it: a `cd` holds for what comes behind it."""
    at = "/root"
    for command in commands(section):
        print(f"  {command.splitlines()[0]}", flush=True)
        written = command.replace("git clone …", "git clone --quiet /checkout")
        if "createsuperuser" in written:
            written += f" --noinput --username {ADMINISTRATOR} --email root@shop.example"
        if written.startswith("curl"):
            written = written.replace("curl ", "curl --silent --show-error --retry 60 --retry-delay 1 --retry-all-errors ")
        told = debian.chroot(folder, f"cd {at}\n{written}\npwd > /tmp/at", DJANGO_SUPERUSER_PASSWORD=PASSWORD)
        at = (folder / "tmp" / "at").read_text().strip()
        if written.startswith("curl"):
            print(f"    {told.strip()}")


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="drill-install-", dir=sys.argv[1] if len(sys.argv) > 1 else "/var/tmp"))
    try:
        print(f"→ A Debian ({debian.SUITE}) in {folder}", flush=True)
        debian.make(folder, PACKAGES)
        debian.mount(folder, [(ROOT, "/checkout")])
        (folder / "usr/local/bin/systemctl").write_text(SYSTEMCTL)
        (folder / "usr/local/bin/systemctl").chmod(0o755)
        with (folder / "etc/hosts").open("a") as hosts:
            hosts.write(f"\n127.0.0.1 {HOST}\n")
        debian.chroot(
            folder,
            f"git config --global safe.directory '*'; rm -f /etc/nginx/sites-enabled/default; openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN={HOST} -addext subjectAltName=DNS:{HOST} -keyout /etc/ssl/{HOST}.key -out /etc/ssl/{HOST}.pem",
        )
        print("→ Installing it as a service", flush=True)
        follow(folder, "Installing it as a service")
        print("→ Using it", flush=True)
        (folder / "tmp/used.py").write_text(USED)
        print("  " + debian.chroot(folder, "python3 /tmp/used.py", PASSWORD=PASSWORD).strip())
        print("→ Upgrades", flush=True)
        follow(folder, "Upgrades")
        print("→ Restoring the backup", flush=True)
        units = "zugzwang-web zugzwang-worker@1 zugzwang-worker@2 zugzwang-clock"
        print(
            debian.chroot(
                folder,
                f"systemctl stop {units}; zugzwang-manage restore $(ls /var/backups/zugzwang/*.tar | tail -1) --replace; zugzwang-manage verify",
            )
        )
        print("The drill is over: everything worked as written.")
    finally:
        for pid in (folder / "run/drill").glob("*"):
            debian.subprocess.run(["pkill", "-KILL", "-g", pid.read_text()], check=False)
        debian.subprocess.run(["pkill", "-f", f"nginx.*{folder.name}"], check=False)
        if (folder / "run/nginx.pid").exists():
            debian.subprocess.run(["kill", (folder / "run/nginx.pid").read_text().strip()], check=False)
        debian.unmount(folder)
        debian.shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
