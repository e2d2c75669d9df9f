"""A text service (docs/services.md): one request within a time limit. Nothing waits for it."""

import json
import threading
from dataclasses import asdict, dataclass

import httpx

from zugzwang.core.drafts.help import HelpRequest, HelpTask, Proposed, checked
from zugzwang.core.facts.grains import TEXT_SERVICE
from zugzwang.data.models import Connection, Site
from zugzwang.data.sealing import opened
from zugzwang.errors import Busy, Invalid
from zugzwang.intake.outside import client, send
from zugzwang.intake.services import ServiceFailed

ANSWER_SECONDS = 30.0
REPLY_MAX_BYTES = 1_000_000
AT_ONCE = 2  # waiting requests for one process; more would delay everyone else
BY_MAX = 200
_turns = threading.BoundedSemaphore(AT_ONCE)


@dataclass(frozen=True)
class Helped:
    """`by`: the service's own name."""

    task: HelpTask
    by: str
    proposals: list[Proposed]


def connection_of(site: Site) -> Connection | None:
    return Connection.objects.filter(site=site, source=TEXT_SERVICE).first()


def ask_for_help(site: Site, request: HelpRequest) -> Helped:
    """Checked suggestions of the site's text service. Raises ServiceFailed with the problem; nothing is retried
    automatically."""
    connection = connection_of(site)
    if connection is None:
        raise Invalid("No text service is connected.", "Connect one: open a draft, then Proposals.", "task")
    if not _turns.acquire(blocking=False):
        raise Busy("The text service is busy.", "Continue writing, and try again in a minute.")
    try:
        by, proposals = _read(connection.address, _answer(connection, request))
    finally:
        _turns.release()
    return Helped(request.task, by, checked(request.task, proposals, request.query, request.term, request.language))


def _answer(connection: Connection, request: HelpRequest) -> bytes:
    headers = {"content-type": "application/json", "accept": "application/json"}
    if token := opened(connection.token):
        headers["authorization"] = f"Bearer {token}"
    address = f"{connection.address.rstrip('/')}/propose"
    result = json.dumps(asdict(request), ensure_ascii=False).encode()
    try:
        with client(connection.private_allowed) as http:
            http.timeout = httpx.Timeout(ANSWER_SECONDS, connect=5.0)
            reply = send(http, "POST", address, headers, result, REPLY_MAX_BYTES, ANSWER_SECONDS)
    except (httpx.TransportError, httpx.DecodingError) as error:
        why = "did not answer in time" if isinstance(error, httpx.TimeoutException) else "could not be reached"
        raise ServiceFailed(f"The text service {why}.", "Your draft is unchanged. Continue, or try again.") from error
    if reply.status_code in (401, 403):
        raise ServiceFailed(
            "The text service does not accept the token.", "Enter it again: open a draft, then Proposals, Connection."
        )
    if reply.status_code != 200:
        raise ServiceFailed(f"The text service answered {reply.status_code}.", "Your draft is unchanged. Try again later.")
    return reply.content


def _read(address: str, body: bytes) -> tuple[str, list[str]]:
    try:
        result = json.loads(body)
        proposals = result["proposals"]
        if not isinstance(proposals, list) or not all(isinstance(one, str) for one in proposals):
            raise TypeError("not a list of texts")
        return str(result.get("by", ""))[:BY_MAX], proposals
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise ServiceFailed(f"What {address} answered cannot be read.", "docs/services.md describes the answer.") from error
