"""The command line in a process of its own, as people run it, but for its code,
which is loaded once for many.

A process that has loaded it waits, and is doubled for each command: loading takes longer than most
commands.
"""

import os
import subprocess
import sys
import tempfile
from multiprocessing import get_context
from pathlib import Path

_LOADED = get_context("forkserver")
_LOADED.set_forkserver_preload(
    ["tests.commands", "wise_ledger.launch.main", "wise_ledger.client", "wise_ledger.cli.screen"]
)
_SECONDS = 120


def run_loaded(*arguments: str, environment: dict[str, str]) -> subprocess.CompletedProcess[str]:
    """What a command said and how it ended."""
    with tempfile.TemporaryDirectory() as folder:
        process = _LOADED.Process(target=_command, args=(arguments, environment, folder))
        process.start()
        process.join(_SECONDS)
        if process.exitcode is None:
            process.kill()
            raise subprocess.TimeoutExpired(arguments, _SECONDS)
        words, wrong = (Path(folder, name).read_text("utf-8") for name in ("out", "err"))
        return subprocess.CompletedProcess(arguments, process.exitcode, words, wrong)


def _command(arguments: tuple[str, ...], environment: dict[str, str], folder: str) -> None:
    from wise_ledger.launch.main import main

    for number, name in ((1, "out"), (2, "err")):
        file = os.open(Path(folder, name), os.O_WRONLY | os.O_CREAT | os.O_APPEND)
        os.dup2(file, number)
    os.environ.clear()
    os.environ.update(environment)
    sys.argv = ["wise-ledger", *arguments]
    main()
