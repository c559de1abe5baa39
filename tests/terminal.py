"""A command as a person sees it: run on a terminal of so many columns."""

import os
import pty
import subprocess
import sys


def on_a_terminal(arguments: list[str], environment: dict[str, str], columns: int) -> str:
    """What `wise-ledger` with these arguments shows,
    with its colours unless the environment forbids them.
    """
    leader, follower = pty.openpty()
    command = [sys.executable, "-m", "wise_ledger.launch.main", *arguments]
    process = subprocess.Popen(
        command,
        stdout=follower,
        stderr=follower,
        env={**os.environ, "COLUMNS": str(columns), **environment},
    )
    os.close(follower)
    shown = b""
    while True:
        try:
            part = os.read(leader, 65536)
        except OSError:  # the other end is closed: the command has ended
            break
        if not part:
            break
        shown += part
    process.wait()
    os.close(leader)
    return shown.decode().replace("\r\n", "\n")
