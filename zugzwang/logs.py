"""Logging: one line for each event, as text or JSON, with the id of the request that caused it, in the web server and in the
worker.
"""

import json
import logging
from contextvars import ContextVar
from datetime import UTC, datetime

request_id: ContextVar[str] = ContextVar("request_id", default="")
# Standard attributes of a log record; all others were passed with the event.
_USUAL = frozenset(vars(logging.makeLogRecord({}))) | {"message", "asctime", "request_id", "taskName"}


class WithRequest(logging.Filter):
    def filter(self, record: logging.LogRecord) -> bool:
        record.request_id = request_id.get()
        return True


class AsJson(logging.Formatter):
    """One JSON object a line: at, level, logger, message, request_id, extra values, and an error's traceback."""

    def format(self, record: logging.LogRecord) -> str:
        result = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname,
            "logger": record.name,
            "message": record.getMessage(),
            "request_id": getattr(record, "request_id", ""),
            **{name: value for name, value in vars(record).items() if name not in _USUAL and _plain(value)},
        }
        if record.exc_info:
            result["trace"] = self.formatException(record.exc_info)
        return json.dumps(result, ensure_ascii=False)


def _plain(value: object) -> bool:
    return isinstance(value, str | int | float | bool) or value is None
