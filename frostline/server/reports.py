"""The hook for error reports: a program of the workshop's own gets each as JSON on its standard input.

It runs beside the answer, for a few seconds at most, and whatever becomes of it changes nothing.
"""

import json
import logging
import subprocess
import threading
from datetime import UTC, datetime

from django.conf import settings

from frostline import __version__
from frostline.server.logs import REQUEST_ID

SECONDS = 10
AT_ONCE = threading.BoundedSemaphore(2)
"""A storm of errors starts no storm of programs."""


class ReportHandler(logging.Handler):
    """Hands every error that was logged to the program that ``FROSTLINE_ON_ERROR`` names."""

    def emit(self, record: logging.LogRecord) -> None:
        """Report one record, where there is a program to report to."""
        if not settings.ERROR_COMMAND or not AT_ONCE.acquire(blocking=False):
            return
        formatter = self.formatter or logging.Formatter()
        report = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="seconds"),
            "version": __version__,
            "request": REQUEST_ID.get(),
            "message": record.getMessage(),
            "traceback": formatter.formatException(record.exc_info) if record.exc_info else "",
        }
        threading.Thread(target=_run, args=(settings.ERROR_COMMAND, json.dumps(report))).start()


def _run(command: str, report: str) -> None:
    try:
        subprocess.run(
            [command], input=report.encode(), timeout=SECONDS, check=True, stdout=subprocess.DEVNULL
        )
    except (OSError, subprocess.SubprocessError) as error:
        logging.getLogger("frostline.reports").warning("%s did not take a report: %s", command, error)
    finally:
        AT_ONCE.release()
