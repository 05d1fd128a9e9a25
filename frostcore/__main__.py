"""``python -m frostcore COMMAND …``: the headless door."""

import sys

from frostcore.door import main

sys.exit(main(sys.argv[1:]))
