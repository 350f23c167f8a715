"""The command line: the core without a server or a database.

``recensor judge FILE...`` prints verdicts as JSON, ``recensor plan FILE`` what is still to be read and how,
``recensor check FILE...`` whether signatures are of these data, ``recensor report FILE --to NAME`` writes a report or
a table. Exit status 0 done, 1 a signature is of other data, 2 not valid.
"""

import argparse
import json
import os
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, TypeVar

from recensor.core.errors import Refused
from recensor.core.faults import Explanation, explain
from recensor.core.judgement import Assessment, assess
from recensor.core.plan import plan as make_plan
from recensor.core.record import Run
from recensor.formats.documents import assessment, run_document
from recensor.formats.documents import plan as plans
from recensor.formats.documents.checksum import checksum, printed
from recensor.formats.documents.reader import DocumentError, load

OTHER_DATA, NOT_VALID = 1, 2

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
    check_command = commands.add_parser("check", help="print checksums, and whether signatures are of these data")
    check_command.add_argument("files", nargs="+", metavar="FILE", help="a .run.json document, or - for standard input")
    report_command = commands.add_parser("report", help="write a run as a report, a table or an archive")
    report_command.add_argument("file", metavar="FILE", help="a .run.json document, or - for standard input")
    report_command.add_argument("--to", required=True, metavar="NAME", type=Path,
                                help="what to write: .pdf .html .csv .xlsx .ods .json or .zip")  # fmt: skip
    report_command.add_argument("--paper", choices=("a4", "letter"), default="a4", help="for .pdf (default a4)")
    asked = parser.parse_args(arguments)
    if asked.command == "report":
        return report(asked.file, asked.to, letter=asked.paper == "letter")
    return {"judge": judge, "plan": plan, "check": check}[asked.command](asked.files)


def judge(files: list[str]) -> int:
    """Print the verdicts on one document, or a line for each of several."""
    return _answer(files, _judged, lambda both: assessment.lines(*both), lambda both: assessment.to_tree(*both))


def _judged(run: Run) -> tuple[Assessment, Explanation]:
    assessed = assess(run)
    return assessed, explain(assessed)


def plan(files: list[str]) -> int:
    """Print the plan of one document, or a line for each of several."""
    return _answer(files, make_plan, plans.lines, plans.to_tree)


def check(files: list[str]) -> int:
    """Print each document's checksum and what its signatures are of."""
    status = 0
    for file in files:
        try:
            content = _content(file)
            run, tree = run_document.read(content), load(content)
        except (DocumentError, OSError) as error:
            print(f"{file}: {_said(error)}", file=sys.stderr)
            status = NOT_VALID
            continue
        digits = checksum(tree) if isinstance(tree, dict) else ""
        print(f"{file}: {printed(digits)}")
        for signature in run.signed:
            fits = signature.checksum == digits
            status = status or (0 if fits else OTHER_DATA)
            print(f"  {signature.by}, {signature.signed_as}: {'of these data' if fits else 'OF OTHER DATA'}")
        if not run.signed:
            print("  not signed")
    return status


def report(file: str, to: Path, *, letter: bool = False) -> int:
    """Write one document in the form that the name's ending says."""
    from recensor.reports import command  # only now: templates and what makes PDF take their time

    try:
        command.write(run_document.read(_content(file)), to, letter=letter)
    except (Refused, OSError) as error:
        print(f"{file}: {_said(error)}", file=sys.stderr)
        return NOT_VALID
    return 0


def _said(error: Exception) -> str:
    return f"{error.filename}: {error.strerror}" if isinstance(error, OSError) else str(error)


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
