#!/usr/bin/env python3
"""A replacement for systemctl in the drill that installs Zugzwang without systemd: starts a unit's command with its user and
settings; stops it with SIGTERM and waits. nginx is started or reloaded directly.
"""

import configparser
import os
import shlex
import signal
import subprocess
import sys
import time
from pathlib import Path

RUNS = Path("/run/drill")
STOP_SECONDS = 60


def start(unit: str) -> None:
    name, at, _ = unit.partition("@")
    parser = configparser.RawConfigParser(strict=False)
    parser.optionxform = str  # type: ignore[assignment, method-assign]
    parser.read(f"/etc/systemd/system/{name}{at}.service")
    service = parser["Service"]
    lines = Path(service["EnvironmentFile"]).read_text().splitlines()
    settings = dict(line.split("=", 1) for line in lines if "=" in line)
    user = service["User"]
    with open(f"/var/log/{unit}.log", "a") as log:
        process = subprocess.Popen(
            ["setpriv", f"--reuid={user}", f"--regid={user}", "--clear-groups", *shlex.split(service["ExecStart"])],
            cwd=service["WorkingDirectory"], env={"PATH": os.environ["PATH"], "LANG": "C.UTF-8", **settings},
            stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True,
        )  # fmt: skip
    RUNS.mkdir(exist_ok=True)
    (RUNS / unit).write_text(str(process.pid))


def stop(unit: str) -> None:
    current = Path("/proc", (RUNS / unit).read_text(), "cmdline")
    os.kill(int(current.parent.name), signal.SIGTERM)
    until = time.monotonic() + STOP_SECONDS
    while current.exists() and current.read_bytes():
        if time.monotonic() > until:
            sys.exit(f"{unit} did not stop within {STOP_SECONDS} seconds")
        time.sleep(0.1)


def reload_nginx() -> None:
    subprocess.run(["nginx", "-t"], check=True)
    current = Path("/run/nginx.pid")
    runs = current.exists() and current.read_text().strip()
    subprocess.run(["nginx", "-s", "reload"] if runs else ["nginx"], check=True)


if __name__ == "__main__":
    verb, *units = [word for word in sys.argv[1:] if not word.startswith("--")]
    for unit in units:
        if verb in ("enable", "start"):
            start(unit)
        elif verb == "stop":
            stop(unit)
        elif (verb, unit) == ("reload", "nginx"):
            reload_nginx()
        else:
            sys.exit(f"this stand-in knows no {verb} of {unit}")
