"""The entry point: the command line, with the commands that start the service added."""

import os
import sys
from pathlib import Path

from wise_ledger.cli.main import root


def main() -> None:
    """Run `wise-ledger`."""
    # what is closed is read and written nowhere, and lends its number to no other file
    for name, mode in (("stdin", "r"), ("stdout", "w"), ("stderr", "w")):
        if getattr(sys, name) is None:
            setattr(sys, name, Path(os.devnull).open(mode, encoding="utf-8"))  # noqa: SIM115
    try:
        _run()
    except OSError as error:  # a full disk, a file that went away; the command line names its own
        what = f"{error.filename}: " if error.filename else ""
        print(f"Error: {what}{error.strerror or error}", file=sys.stderr)
        # what waits to be written would fail once more, at the very end
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        sys.exit(1)


def _run() -> None:
    root.nouns |= {  # type: ignore[attr-defined]
        "serve": ("wise_ledger.launch.serve", "Serve the ledger: API and console."),
        "backup": ("wise_ledger.launch.backup", "Copy the ledger's file while it is served."),
        "demo": ("wise_ledger.launch.demo", "A ledger of made-up companies to try things on."),
    }
    root(prog_name="wise-ledger")


if __name__ == "__main__":
    main()
