"""The command line: the core without a server, a database or Django.

``recensor judge FILE...`` prints verdicts as JSON, ``recensor plan FILE`` what is still to be read and how; exit
status 0 done, 2 not valid.
"""

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, TypeVar

from recensor.core.faults import Explanation, explain
from recensor.core.judgement import Assessment, assess
from recensor.core.plan import plan as make_plan
from recensor.core.record import Run
from recensor.formats import assessment, run_document
from recensor.formats import plan as plans
from recensor.formats.place import DocumentError

NOT_VALID = 2

Worked = TypeVar("Worked")


def main(arguments: list[str] | None = None) -> int:
    """Run one command and return its exit status."""
    try:
        return _run(arguments)
    except BrokenPipeError:  # whoever read the answer has seen enough
        sys.stdout = open(os.devnull, "w")  # noqa: SIM115
        return 0


def _run(arguments: list[str] | None) -> int:
    parser = argparse.ArgumentParser(prog="recensor", description="The second look at a resistor bench.")
    commands = parser.add_subparsers(dest="command", required=True)
    judge_command = commands.add_parser("judge", help="judge run documents and print the verdicts as JSON")
    judge_command.add_argument("files", nargs="+", metavar="FILE", help="a .run.json document, or - for standard input")
    plan_command = commands.add_parser("plan", help="print the plan of what is still to be read as JSON")
    plan_command.add_argument("files", nargs="+", metavar="FILE", help="a .run.json document, or - for standard input")
    asked = parser.parse_args(arguments)
    return judge(asked.files) if asked.command == "judge" else plan(asked.files)


def judge(files: list[str]) -> int:
    """Print the verdicts on one document, or a line for each of several."""
    return _answer(files, _judged, lambda both: assessment.lines(*both), lambda both: assessment.to_tree(*both))


def _judged(run: Run) -> tuple[Assessment, Explanation]:
    assessed = assess(run)
    return assessed, explain(assessed)


def plan(files: list[str]) -> int:
    """Print the plan of one document, or a line for each of several."""
    return _answer(files, make_plan, plans.lines, plans.to_tree)


def _answer(
    files: list[str],
    work: Callable[[Run], Worked],
    lines: Callable[[Worked], Iterable[str]],
    tree: Callable[[Worked], dict[str, Any]],
) -> int:
    status = 0
    for file in files:
        try:
            worked = work(run_document.read(_content(file)))
        except (DocumentError, OSError) as error:
            status = NOT_VALID
            message = f"{error.strerror}" if isinstance(error, OSError) else str(error)
            if len(files) == 1:
                print(f"{file}: {message}", file=sys.stderr)
            else:
                print(json.dumps({"file": file, "error": message}, ensure_ascii=False))
            continue
        if len(files) == 1:
            for line in lines(worked):
                print(line)
        else:
            print(json.dumps({"file": file, "result": tree(worked)}, ensure_ascii=False, allow_nan=False))
    return status


def _content(file: str) -> bytes:
    return sys.stdin.buffer.read() if file == "-" else Path(file).read_bytes()


if __name__ == "__main__":
    sys.exit(main())
