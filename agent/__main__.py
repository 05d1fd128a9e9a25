"""``python -m agent CONFIG``: read a networked logger and post its rows to a run, until the run ends."""

import argparse
import sys
from pathlib import Path

from agent.config import ConfigError, read_config
from agent.logging_loop import loop_of
from agent.meter import Meter
from agent.post import StoppedError


def main(arguments: list[str] | None = None) -> int:
    """Run it; 0 where the run ended, 2 where the configuration is wrong."""
    parser = argparse.ArgumentParser(prog="agent", description="a networked logger's rows to a run on a call")
    parser.add_argument("config", help="the configuration, as the run's page shows it")
    parser.add_argument("--rows", type=int, help="stop after so many rows")
    options = parser.parse_args(arguments)
    path = Path(options.config)
    try:
        config = read_config(path.read_text(encoding="utf-8"))
    except (ConfigError, OSError) as error:
        print(f"agent: {error}", file=sys.stderr)
        return 2
    with Meter(config.resource, config.timeout) as meter:
        try:
            loop_of(config, meter, path.parent).run(options.rows)
        except StoppedError as error:
            print(f"agent: {error}")
        except KeyboardInterrupt:
            print("agent: stopped; what is not sent yet is kept and sent the next time.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
