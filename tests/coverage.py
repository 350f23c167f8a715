"""What the tests of the core and the formats reach: ``python -m tests.coverage``; fails below a package's floor."""

import json
import sys
import tempfile
import unittest
from collections import Counter
from pathlib import Path

import coverage

CORE = Path(__file__).resolve().parents[1] / "recensor" / "core"

# Percent of lines and branches that are reached in each package of the core. A floor only ever rises.
FLOORS = {
    "boards": 94,
    "circuit": 95,
    "editing": 80,
    "entries": 94,
    "errors": 100,
    "examples": 85,
    "faults": 97,
    "figures": 90,
    "graph": 95,
    "judgement": 95,
    "lengths": 100,
    "meters": 95,
    "plan": 94,
    "quantity": 95,
    "record": 95,
    "resistors": 95,
    "safety": 95,
    "sentences": 97,
    "simulation": 90,
    "slips": 95,
    "solving": 95,
    "sweeps": 88,
    "uncertainty": 95,
}


def main() -> int:
    """Run the tests, print each package's share, and say which lie below their floor."""
    measured = coverage.Coverage(source=[str(CORE)], branch=True, data_file=None)
    measured.start()
    suites = [unittest.TestLoader().discover(f"tests/{part}", top_level_dir=".") for part in ("core", "formats")]
    passed = unittest.TextTestRunner().run(unittest.TestSuite(suites)).wasSuccessful()
    measured.stop()
    reached, there = Counter[str](), Counter[str]()
    for file, summary in summaries(measured).items():
        package = Path(file).resolve().relative_to(CORE).parts[0].removesuffix(".py")
        reached[package] += summary["covered_lines"] + summary["covered_branches"]
        there[package] += summary["num_statements"] + summary["num_branches"]
    shares = {package: 100.0 * reached[package] / there[package] for package in sorted(+there)}
    for package, share in shares.items():
        print(f"{package:14} {share:5.1f} %, floor {FLOORS.get(package, 'none: give it one')}")
    below = [package for package, share in shares.items() if share < FLOORS.get(package, 101)]
    print(f"Below the floor: {', '.join(below) or 'none'}")
    return int(bool(below) or not passed)


def summaries(measured: coverage.Coverage) -> dict[str, dict[str, int]]:
    """The figures of every file."""
    with tempfile.NamedTemporaryFile() as report:
        measured.json_report(outfile=report.name)
        files = json.loads(Path(report.name).read_text(encoding="utf-8"))["files"]
    return {name: file["summary"] for name, file in files.items()}


if __name__ == "__main__":
    sys.exit(main())
