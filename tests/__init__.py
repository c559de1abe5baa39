"""Tests; `python -m tests` runs them all."""

import atexit
import shutil
from functools import cache
from pathlib import Path
from tempfile import mkdtemp

from hypothesis import settings

from wise_ledger.store import database

# How long one example takes says more of what else the machine does than of the code.
settings.register_profile("suite", deadline=None)
settings.load_profile("suite")

_made_by_migrations = database._make


@cache
def _new_ledger() -> Path:
    path = Path(mkdtemp()) / "ledger.sqlite"
    atexit.register(shutil.rmtree, path.parent)
    _made_by_migrations(path)
    return path


def _copied(path: Path) -> None:
    shutil.copy(_new_ledger(), path)


# Hundreds of tests begin with a new ledger: the migrations make one a process,
# the others are copies of it.
database._make = _copied
