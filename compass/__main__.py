"""The command line: ``python -m compass diagnose CASE.json``. See docs/case-file.md."""

import argparse
import json
import os
import sys
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from compass.diagnose import diagnose
from compass.files.read_case import CASE_FORMAT, read_case, schema
from compass.files.write_verdict import verdict_to_data
from compass.ground.errors import Fault, FaultyFileError

EXIT_BAD_FILE = 2
_MOST_PROCESSES = 256


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command line and return its exit code; faults go to standard error, one a line."""
    options = _parser().parse_args(arguments)
    if options.command == "schema":
        _say([json.dumps(schema(options.name), indent=2, ensure_ascii=True)])
        return 0
    try:
        raw = _read(options.case)
        # Everything is diagnosed before anything is printed: a bad line leaves standard output empty.
        verdicts = _many(raw, processes=options.jobs) if options.lines else [_one(raw, indent=2)]
    except FaultyFileError as error:
        for fault in error.faults:
            print(str(fault).encode("unicode_escape").decode() if not str(fault).isprintable() else fault,
                  file=sys.stderr)  # fmt: skip
        return EXIT_BAD_FILE
    _say(verdicts)
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="python -m compass", description="Iron Compass without an application.")
    commands = parser.add_subparsers(dest="command", required=True)
    diagnosing = commands.add_parser("diagnose", help=f"read a case file ({CASE_FORMAT}) and print its verdict")
    diagnosing.add_argument("case", help="the case file, or - for standard input")
    diagnosing.add_argument("--lines", action="store_true", help="one case a line in, one verdict a line out")
    diagnosing.add_argument(
        "--jobs",
        type=_processes,
        default=1,
        metavar="N",
        help="with --lines: share the lines among N processes (0: one a core); the same output in the same order",
    )
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
        raise FaultyFileError.of(name, "a file that can be read ({reason})", reason=reason) from error


def _processes(text: str) -> int:
    if not text.isdecimal() or int(text) > _MOST_PROCESSES:
        raise argparse.ArgumentTypeError(f"a whole number from 0 to {_MOST_PROCESSES}, not {text!r}")
    return int(text) or len(os.sched_getaffinity(0))


def _one(raw: bytes | str, *, indent: int | None = None) -> str:
    verdict = verdict_to_data(diagnose(read_case(raw)))
    return json.dumps(verdict, indent=indent, ensure_ascii=True, allow_nan=False)


def _line(line: bytes) -> str | tuple[Fault, ...]:
    """Return the verdict on one line, or its faults: what another process can hand back."""
    try:
        return _one(line)
    except FaultyFileError as error:
        return error.faults


def _many(raw: bytes, *, processes: int) -> list[str]:
    body = raw.removesuffix(b"\n")
    lines = body.split(b"\n") if body else []
    if processes > 1 and len(lines) > 1:
        with ProcessPoolExecutor(min(processes, len(lines))) as pool:
            answers = list(pool.map(_line, lines, chunksize=max(1, min(16, len(lines) // processes))))
    else:
        answers = [_line(line) for line in lines]
    faults = [
        Fault("", "line {number}: {fault}", {"number": number, "fault": fault})
        for number, answer in enumerate(answers, start=1)
        if not isinstance(answer, str)
        for fault in answer
    ]
    if faults:
        raise FaultyFileError(tuple(faults))
    return [answer for answer in answers if isinstance(answer, str)]


def _say(texts: Iterable[str]) -> None:
    """Print texts, a line each; a reader that has had enough, as with ``| head``, is no fault."""
    try:
        for text in texts:
            print(text)
        sys.stdout.flush()
    except BrokenPipeError:
        # What is still buffered goes nowhere: the interpreter's own flush at the end must not fail either.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


if __name__ == "__main__":
    sys.exit(main())
