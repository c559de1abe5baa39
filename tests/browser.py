"""Debian's Chromium for the browser tests: found, installed as root,
or the one command to run is named.
"""

import os
import shutil
import subprocess
import sys

FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip


def path() -> str | None:
    """Where Chromium is."""
    return shutil.which("chromium")


def main() -> None:
    if path():
        return
    if os.geteuid() == 0 and shutil.which("apt-get"):
        print("installing Debian's Chromium for the browser tests …", flush=True)
        quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.STDOUT}
        environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
        subprocess.run(["apt-get", "update"], check=False, env=environment, **quiet)
        subprocess.run(
            ["apt-get", "install", "-y", "chromium"], check=False, env=environment, **quiet
        )
    if not path():
        print(
            "Chromium is missing, so the browser tests will be skipped. Run: sudo apt-get install chromium",
            file=sys.stderr,
        )


if __name__ == "__main__":
    main()
