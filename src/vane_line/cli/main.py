"""Entry point: parse, run, and turn our errors into exit codes and one line on stderr."""

from __future__ import annotations

import argparse
import errno
import os
import sys
import warnings

from vane_line import __version__
from vane_line.cli import backup, batch, bridge, demo, measure, people, scanner, serve
from vane_line.errors import InputError, VaneLineError

USAGE = 2
FAILED = 1
VECTORS = ("--occlusal", "--facial", "--near", "--path")


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> None:  # type: ignore[override]
        print(f"vane-line: {message}; see vane-line --help.", file=sys.stderr)
        raise SystemExit(USAGE)


def joined(argv: list[str]) -> list[str]:
    """The words with `--occlusal -1,0,0` as one: a vector may begin with a minus, which would look like an option."""
    out: list[str] = []
    for word in argv:
        if out and out[-1] in VECTORS and word[:1] == "-" and word[1:2] in set("0123456789."):
            out[-1] = f"{out[-1]}={word}"
        else:
            out.append(word)
    return out


def main(argv: list[str] | None = None) -> int:
    """Run the command line. Exit codes: 0 done, 2 unusable input, 3 alignment not trusted, 1 our failure."""
    # File names may be in any encoding: what cannot be shown is escaped, never fatal.
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="backslashreplace")
    parser = _Parser(prog="vane-line", description="Measures tooth preparations. The dentist decides.")
    parser.add_argument("--version", action="version", version=f"vane-line {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    for module in (measure, bridge, batch, demo, scanner, serve, backup, people):
        module.add_parser(commands)
    args = parser.parse_args(joined(sys.argv[1:] if argv is None else argv))
    # What numbers cannot be told is null in the answer, with its reason; a line of numpy's about it helps nobody.
    warnings.simplefilter("ignore", RuntimeWarning)
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
    except OSError as error:
        if error.errno != errno.ENOSPC:
            raise
        return _unwritten(error)
    except KeyboardInterrupt:
        print("vane-line: stopped; nothing was written.", file=sys.stderr)
        return 130


def _unwritten(error: OSError) -> int:
    print(f"vane-line: the answer could not be written ({error.strerror}); make room and ask again.", file=sys.stderr)
    return FAILED


def entry() -> None:
    """For the console script. Ends at once where nothing is left to be done: to take a whole pipeline down piece by
    piece, its scans and search trees, costs a third of a second."""
    code = main()
    try:
        sys.stdout.flush()
    except BrokenPipeError:
        pass  # who read it has left
    except OSError as error:
        code = code or _unwritten(error)
    sys.stderr.flush()
    if sys.argv[1:2] not in (["measure"], ["bridge"]):
        raise SystemExit(code)
    os._exit(code)
