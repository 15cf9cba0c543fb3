"""The command line: `vane-line measure`, `demo`, `serve`."""
