"""Run campaigns, each for so long, on one site that is made for them."""

import argparse
import sys

from campaigns import access, durability, load, odd_input, races
from campaigns.site import served

CAMPAIGNS = {
    "access": access.run,
    "odd-input": odd_input.run,
    "races": races.run,
    "load": load.run,
    "durability": durability.run,
}


def main() -> int:
    """Run them; the status is 1 where something was wrong."""
    parser = argparse.ArgumentParser(prog="python -m campaigns", description="Try to break a running Recensor.")
    parser.add_argument("names", nargs="*", metavar="NAME", help=f"of {', '.join(CAMPAIGNS)}; all without one")
    parser.add_argument("--seconds", type=float, default=120, help="for each campaign (default 120)")
    parser.add_argument("--seed", type=int, default=2026, help="of what is left to chance")
    options = parser.parse_args()
    if unknown := set(options.names) - set(CAMPAIGNS):
        parser.error(f"there is no campaign {', '.join(unknown)}")
    wrong = 0
    with served() as site:
        for name in options.names or CAMPAIGNS:
            report = CAMPAIGNS[name](site, options.seconds, options.seed)
            wrong += len(report.wrong)
            print(report, flush=True)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
