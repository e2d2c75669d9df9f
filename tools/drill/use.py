"""A person's first steps in a new installation, through nginx and TLS: sign in, add a site, load a table, open a finding. Run
by the install drill; PASSWORD is the administrator's.
"""

import csv
import http.cookiejar
import io
import json
import os
import ssl
import sys
import time
import urllib.error
import urllib.request
from typing import Any

ADDRESS, CERTIFICATE = "https://seo.shop.example", "/etc/ssl/seo.shop.example.pem"
BOUND = "drill"
jar = http.cookiejar.CookieJar()
opener = urllib.request.build_opener(
    urllib.request.HTTPSHandler(context=ssl.create_default_context(cafile=CERTIFICATE)),
    urllib.request.HTTPCookieProcessor(jar),
)


def ask(path: str, body: Any = None, kind: str = "application/json") -> Any:
    token = next((one.value for one in jar if one.name == "csrftoken"), None) or ""
    head = {"X-CSRFToken": token, "Referer": f"{ADDRESS}/", "Content-Type": kind}
    data = body if body is None or isinstance(body, bytes) else json.dumps(body).encode()
    try:
        with opener.open(urllib.request.Request(f"{ADDRESS}{path}", data, head)) as answer:
            return json.loads(answer.read() or "null")
    except urllib.error.HTTPError as error:
        sys.exit(f"{path}: {error.code} {error.read().decode()[:500]}")


def facts() -> str:
    rows = io.StringIO()
    writer = csv.writer(rows)
    writer.writerow(["day", "page", "query", "clicks", "impressions", "position"])
    for day in range(1, 29):
        for number in range(60):
            page = f"https://www.shop.example/{number % 9}"
            writer.writerow([f"2026-10-{day:02}", page, f"kayak {number}", 5, 100 + number, 1 + number % 20])
    return rows.getvalue()


def main() -> None:
    ask("/api/session")
    ask("/api/session", {"username": "root", "password": os.environ["PASSWORD"]})
    site = ask("/api/sites", {"name": "Shop", "address": "https://www.shop.example", "slug": "drill"})["slug"]
    head = f'--{BOUND}\r\nContent-Disposition: form-data; name="file"; filename="facts.csv"\r\n\r\n'
    form = f"{head}{facts()}\r\n--{BOUND}--\r\n".encode()
    upload = ask(f"/api/sites/{site}/uploads", form, f"multipart/form-data; boundary={BOUND}")["upload"]
    job = ask(f"/api/sites/{site}/loads", {"upload": upload, "tables": {}})["id"]
    result = ask(f"/api/sites/{site}/jobs/{job}")
    while result["state"] in ("waiting", "running"):
        time.sleep(0.2)
        result = ask(f"/api/sites/{site}/jobs/{job}")
    assert result["state"] == "done", result
    assert ask(f"/api/sites/{site}/findings/pages")["rows"], "no page is listed"
    print(f"{result['outcome']['loaded']} rows were loaded through nginx and a worker, and their pages are listed.")


if __name__ == "__main__":
    main()
