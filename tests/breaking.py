"""Work that breaks off at any call of ours, as it does where memory or room ends."""

import sys
from types import FrameType, TracebackType
from typing import Any, Self

OURS = "/wise_ledger/"


class Broke(MemoryError):
    """What the call raised."""


class Breaking:
    """While it is open, the `at`-th call of a function of ours raises `Broke`; `where` says which
    it was, if there were so many.

    A call, not a line: between the end of what a lock guards and its release is a line, but nothing
    that could fail.
    """

    def __init__(self, at: int) -> None:
        self._left = at
        self.where: tuple[str, int] | None = None

    def __enter__(self) -> Self:
        self._before = sys.gettrace()
        sys.settrace(self._call)
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> bool:
        sys.settrace(self._before)
        return isinstance(error, Broke)

    def _call(self, frame: FrameType, event: str, given: Any) -> None:
        if OURS in frame.f_code.co_filename:
            self._left -= 1
            if self._left == 0:
                self.where = (frame.f_code.co_filename.rpartition(OURS)[2], frame.f_lineno)
                raise Broke
