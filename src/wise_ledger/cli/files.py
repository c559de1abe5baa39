"""Files that a command reads and writes: whole or not at all,
and plain about what keeps them from it.
"""

import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click

T = TypeVar("T")
PIPED = Path("-")
_ASIDE = ".part"  # behind the name of a file that is being written


class NamedPath(click.Path):
    """A file or folder by its name; what no file can be called is refused in words."""

    def __init__(self, **how: Any) -> None:
        super().__init__(path_type=Path, **how)

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        try:
            path: Path = super().convert(value, param, ctx)
            self.beside(path).exists()
        except (OSError, ValueError) as error:  # it is too long, or has what no name can have
            why = error.strerror if isinstance(error, OSError) else "no file can be called this"
            self.fail(f"{ascii(value)[:80]}: {why}; name another", param, ctx)
        return path

    def beside(self, path: Path) -> Path:
        """What must be a name too for this one to be used."""
        return path


class OutputFile(NamedPath):
    """A file to be written: it is refused before anything is asked where it could not be."""

    def __init__(self) -> None:
        super().__init__(dir_okay=False)

    def beside(self, path: Path) -> Path:
        return aside_of(path)

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        path = super().convert(value, param, ctx)
        if not path.parent.is_dir():
            self.fail(
                f"there is no folder {path.parent}: make it, or name another file", param, ctx
            )
        if not os.access(path if path.exists() else path.parent, os.W_OK):
            self.fail(f"{path} may not be written: name another file", param, ctx)
        return path


class PlotFile(OutputFile):
    """A file for a picture, of a kind that can be drawn."""

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        path = super().convert(value, param, ctx)
        if path.suffix.lower() not in (".png", ".svg"):
            self.fail(f"{path.name} is neither .png nor .svg", param, ctx)
        return path


def aside_of(path: Path) -> Path:
    """Where a file is written before it stands in its place."""
    return path.with_name(path.name + _ASIDE)


def is_device(path: Path) -> bool:
    """Whether it is a pipe or a device: written to, never replaced,
    and nothing stands beside it.
    """
    return path.exists() and not path.is_file()


def write_file(path: Path, content: bytes | str) -> None:
    """Write it beside and put it in place: what was there stays where this
    fails, as on a full disk.
    """
    raw = content.encode() if isinstance(content, str) else content
    path = path.resolve()
    if is_device(path):
        _or_refused(path, "written", lambda: path.write_bytes(raw))
        return
    aside = aside_of(path)
    try:
        _or_refused(path, "written", lambda: (aside.write_bytes(raw), aside.replace(path)))
    finally:
        aside.unlink(missing_ok=True)


def read_file(path: Path) -> bytes:
    """The bytes of a file, or for `-` what comes in through a pipe; ends the command where it
    cannot be read.
    """
    return _or_refused(path, "read", sys.stdin.buffer.read if path == PIPED else path.read_bytes)


def read_text(path: Path) -> str:
    """The text of a file in UTF-8; ends the command where it is none."""
    try:
        return read_file(path).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise click.ClickException(
            f"{path} is no text in UTF-8 (byte {error.start}): save it as such"
        ) from None


def _or_refused(path: Path, what: str, work: Callable[[], T]) -> T:
    try:
        return work()
    except OSError as error:
        raise click.ClickException(f"{path} cannot be {what}: {error.strerror or error}") from None
