"""How gunicorn serves Frostline; the address and the number of workers stand on its command line."""

import fcntl
import os
import sys
from typing import Any

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "frostline.settings")

from django.conf import settings

threads = 4
limit_request_line = 8190
control_socket_disable = True
forwarded_allow_ips = ""  # a proxy's word is weighed by frostline.server.middleware alone
worker_tmp_dir = "/dev/shm" if os.path.isdir("/dev/shm") else None  # noqa: S108, PTH112 -- heartbeats, no data
timeout = 60
graceful_timeout = 15
loglevel = "warning"

_held: list[Any] = []


def on_starting(server: object) -> None:
    """Hold the data folder for as long as any process of this server lives: a second server, and whoever
    restores a backup, then knows."""
    place = (settings.DATA_DIR / "running").open("a")
    try:
        fcntl.flock(place, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        sys.exit(f"frostline: a server runs on {settings.DATA_DIR} already; stop it, or set FROSTLINE_DATA.")
    _held.append(place)
