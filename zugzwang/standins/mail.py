"""A mail server that delivers nothing: it stores each mail as a file and shows it on a page (/mail).

It simulates a server that is out of order (`Behaviour.mail_refuse`: that many mails are deferred with 451) and, for
addresses that begin with "gone", an unknown recipient (550).
"""

import re
from collections.abc import Callable
from email import message_from_bytes, policy
from email.message import EmailMessage
from html import escape
from pathlib import Path
from typing import Any

from aiosmtpd.controller import Controller

MOST_BYTES = 30_000_000
_STYLE = "<style>body{font:16px/1.5 Georgia,serif;max-width:44rem;margin:2rem auto;padding:0 1rem}li{margin:.4em 0}</style>"


class MailKeeper:
    """What the server does with each mail; `put_off`: whether to defer the next one."""

    def __init__(self, folder: Path, put_off: Callable[[], bool] = lambda: False) -> None:
        self.folder = folder
        self.put_off = put_off
        folder.mkdir(parents=True, exist_ok=True)

    async def handle_RCPT(self, server: Any, session: Any, envelope: Any, address: str, options: list[str]) -> str:  # noqa: N802
        if address.startswith("gone"):
            return "550 No such person here"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:  # noqa: N802
        if self.put_off():
            return "451 Not just now"
        number = len(list(self.folder.glob("*.eml"))) + 1
        while True:
            try:
                with (self.folder / f"{number:06d}.eml").open("xb") as file:
                    file.write(envelope.content)
                return "250 Kept"
            except FileExistsError:
                number += 1


def serve_mail(folder: Path, port: int, put_off: Callable[[], bool] = lambda: False) -> Controller:
    """Start the server on this machine."""
    keeper = MailKeeper(folder, put_off)
    controller = Controller(keeper, hostname="127.0.0.1", port=port, data_size_limit=MOST_BYTES)
    controller.start()
    return controller


def kept_mails(folder: Path) -> list[EmailMessage]:
    """The received mails, oldest first."""
    return [_read(path) for path in sorted(folder.glob("*.eml"))]


def _read(path: Path) -> EmailMessage:
    mail = message_from_bytes(path.read_bytes(), policy=policy.default)
    assert isinstance(mail, EmailMessage)
    return mail


def show(folder: Path, path: str) -> tuple[int, dict[str, str], bytes]:
    """The pages: /mail lists the received mails, /mail/3 shows one, /mail/3/0 returns its first attachment."""
    number, _, attached = path.removeprefix("/mail").strip("/").partition("/")
    if not number:
        return _page("Mails that were sent", _list(folder))
    file = folder / f"{int(number):06d}.eml" if re.fullmatch(r"\d{1,6}", number) else None
    if file is None or not file.is_file():
        return 404, {"Content-Type": "text/plain"}, b"This mail does not exist."
    mail = _read(file)
    files = list(mail.iter_attachments())
    if attached:
        if not re.fullmatch(r"\d{1,3}", attached) or int(attached) >= len(files):
            return 404, {"Content-Type": "text/plain"}, b"There is no such file."
        one = files[int(attached)]
        body = one.get_payload(decode=True)
        return 200, {"Content-Type": one.get_content_type()}, body if isinstance(body, bytes) else b""
    return _page(str(mail["Subject"]), _one(mail, files, int(number)))


def _list(folder: Path) -> str:
    result = []
    for path in sorted(folder.glob("*.eml"), reverse=True)[:500]:
        mail = _read(path)
        about = f"{mail['Date']}, to {mail['To']}"
        result.append(f'<li><a href="/mail/{int(path.stem)}">{escape(str(mail["Subject"]))}</a><br>{escape(about)}</li>')
    return f"<ul>{''.join(result)}</ul>" if result else "<p>None yet.</p>"


def _one(mail: EmailMessage, files: list[Any], number: int) -> str:
    body = mail.get_body(("plain",))
    text = escape(body.get_content()) if body is not None else ""
    text = re.sub(r"(https?://[^\s<]+)", r'<a href="\1">\1</a>', text)
    links = "".join(
        f'<li><a href="/mail/{number}/{at}">{escape(str(one.get_filename()))}</a></li>' for at, one in enumerate(files)
    )
    about = escape(f"From {mail['From']} to {mail['To']}, {mail['Date']}")
    return f"<p>{about}</p><pre style='white-space:pre-wrap;font:inherit'>{text}</pre><ul>{links}</ul>"


def _page(title: str, body: str) -> tuple[int, dict[str, str], bytes]:
    made = f"<!doctype html><meta charset=utf-8><title>{escape(title)}</title>{_STYLE}<h1>{escape(title)}</h1>{body}"
    return 200, {"Content-Type": "text/html; charset=utf-8"}, made.encode()
