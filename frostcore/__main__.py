"""``python -m frostcore COMMAND …``: the headless door."""

import signal
import sys

from frostcore.door import main

if hasattr(signal, "SIGPIPE"):
    signal.signal(
        signal.SIGPIPE, signal.SIG_DFL
    )  # who reads only the first lines (``| head``) ends this quietly
sys.exit(main(sys.argv[1:]))
