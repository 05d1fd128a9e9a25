"""Log lines as JSON, each with the id of the request it belongs to."""

import json
import logging
from contextvars import ContextVar
from datetime import UTC, datetime
from typing import Any

REQUEST_ID: ContextVar[str] = ContextVar("request_id", default="")


class JsonFormatter(logging.Formatter):
    """One line a record: when, how grave, from where, what, under which request."""

    def format(self, record: logging.LogRecord) -> str:
        """The record as one line of JSON."""
        line: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "logger": record.name,
            "message": record.getMessage(),
        }
        if request := REQUEST_ID.get():
            line["request"] = request
        line |= getattr(record, "told", {})
        if record.exc_info:
            line["traceback"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=True, default=str)
