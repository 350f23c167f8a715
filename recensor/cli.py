"""The command line: the core without a server, a database or Django.

``recensor judge FILE...`` prints verdicts as JSON; exit status 0 judged, 2 not valid.
"""

import argparse
import json
import os
import sys
from pathlib import Path

from recensor.core.judgement import assess
from recensor.formats import assessment, run_document
from recensor.formats.place import DocumentError

NOT_VALID = 2


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
    return judge(parser.parse_args(arguments).files)


def judge(files: list[str]) -> int:
    """Print one result, or a line for each of several files."""
    status = 0
    for file in files:
        try:
            judged = assess(run_document.read(_content(file)))
        except (DocumentError, OSError) as error:
            status = NOT_VALID
            message = f"{error.strerror}" if isinstance(error, OSError) else str(error)
            if len(files) == 1:
                print(f"{file}: {message}", file=sys.stderr)
            else:
                print(json.dumps({"file": file, "error": message}, ensure_ascii=False))
            continue
        if len(files) == 1:
            for line in assessment.lines(judged):
                print(line)
        else:
            result = assessment.to_tree(judged)
            print(json.dumps({"file": file, "result": result}, ensure_ascii=False, allow_nan=False))
    return status


def _content(file: str) -> bytes:
    return sys.stdin.buffer.read() if file == "-" else Path(file).read_bytes()


if __name__ == "__main__":
    sys.exit(main())
