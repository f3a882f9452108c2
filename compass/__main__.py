"""The command line: ``python -m compass diagnose CASE.json``. See docs/case-file.md."""

import argparse
import json
import sys
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from compass.diagnose import diagnose
from compass.files.read_case import CASE_FORMAT, read_case, schema
from compass.files.write_verdict import verdict_to_data
from compass.ground.errors import CaseFileError, Fault

EXIT_BAD_FILE = 2


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line and return its exit code; faults go to standard error, one a line."""
    options = _parser().parse_args(arguments)
    if options.command == "schema":
        _print(schema(options.name), indent=2)
        return 0
    try:
        raw = _read(options.case)
        # Everything is diagnosed before anything is printed: a bad line leaves standard output empty.
        verdicts = _many(raw) if options.lines else [_one(raw)]
    except CaseFileError as error:
        for fault in error.faults:
            print(str(fault).encode("unicode_escape").decode() if not str(fault).isprintable() else fault,
                  file=sys.stderr)  # fmt: skip
        return EXIT_BAD_FILE
    try:
        for verdict in verdicts:
            _print(verdict, indent=None if options.lines else 2)
        sys.stdout.flush()
    except BrokenPipeError:  # the reader has had enough, as with `| head`
        sys.stderr.close()
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="python -m compass", description="Iron Compass without an application.")
    commands = parser.add_subparsers(dest="command", required=True)
    diagnosing = commands.add_parser("diagnose", help=f"read a case file ({CASE_FORMAT}) and print its verdict")
    diagnosing.add_argument("case", help="the case file, or - for standard input")
    diagnosing.add_argument("--lines", action="store_true", help="one case a line in, one verdict a line out")
    printing = commands.add_parser("schema", help="print a JSON Schema")
    printing.add_argument("name", choices=["case-1", "verdict-1"])
    return parser


def _read(name: str) -> bytes:
    if name == "-":
        return sys.stdin.buffer.read()
    try:
        return Path(name).read_bytes()
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or "not a file name"
        raise CaseFileError((Fault(name, f"a file that can be read ({reason})"),)) from error


def _one(raw: bytes | str) -> dict[str, Any]:
    return verdict_to_data(diagnose(read_case(raw)))


def _many(raw: bytes) -> Iterable[dict[str, Any]]:
    body = raw.removesuffix(b"\n")
    lines = body.split(b"\n") if body else []
    verdicts: list[dict[str, Any]] = []
    faults: list[Fault] = []
    for number, line in enumerate(lines, start=1):
        try:
            verdicts.append(_one(line))
        except CaseFileError as error:
            faults += [Fault("", f"line {number}: {fault}") for fault in error.faults]
    if faults:
        raise CaseFileError(tuple(faults))
    return verdicts


def _print(data: dict[str, Any], *, indent: int | None) -> None:
    print(json.dumps(data, indent=indent, ensure_ascii=True, allow_nan=False))


if __name__ == "__main__":
    sys.exit(main())
