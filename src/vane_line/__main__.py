"""`python -m vane_line`."""

from vane_line.cli.main import entry

entry()
