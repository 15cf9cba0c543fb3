"""Entry point: parse, run, and turn our errors into exit codes and one line on stderr."""

from __future__ import annotations

import argparse
import os
import sys

from vane_line.cli import demo, measure, scanner, serve
from vane_line.errors import InputError, VaneLineError

USAGE = 2
FAILED = 1


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> None:  # type: ignore[override]
        print(f"vane-line: {message}; see vane-line --help.", file=sys.stderr)
        raise SystemExit(USAGE)


def main(argv: list[str] | None = None) -> int:
    """Run the command line. Exit codes: 0 done, 2 unusable input, 3 alignment not trusted, 1 our failure."""
    # File names may be in any encoding: what cannot be shown is escaped, never fatal.
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")
    parser = _Parser(prog="vane-line", description="Measures tooth preparations. The dentist decides.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    for module in (measure, demo, scanner, serve):
        module.add_parser(commands)
    args = parser.parse_args(argv)
    try:
        return int(args.run(args))
    except InputError as error:
        print(f"vane-line: {error}", file=sys.stderr)
        return USAGE
    except VaneLineError as error:
        print(f"vane-line: {error}", file=sys.stderr)
        return FAILED
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        print("vane-line: stopped; nothing was written.", file=sys.stderr)
        return 130


def entry() -> None:
    """For the console script."""
    raise SystemExit(main())
