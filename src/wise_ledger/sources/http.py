"""Asking a source over HTTP: its budget kept, faults tried again, the raw bytes kept, nothing asked twice in vain."""

import json
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

import httpx
from tenacity import Retrying, retry_if_exception_type, stop_after_attempt, wait_random_exponential

from wise_ledger.core.errors import Problem
from wise_ledger.sources.errors import SourceDamaged, SourceRefused, SourceUnreachable, busy, damaged, unreachable
from wise_ledger.sources.pacing import Budget, Pace

FAULT_TRIES = 4
QUOTA_TRIES = 40
LONGEST_WAIT = 60.0  # seconds; a source that asks for more is left alone


class _OverQuota(Exception):
    def __init__(self, wait: float) -> None:
        self.wait = wait


@dataclass(frozen=True)
class Answer:
    """The raw bytes and what they say; without body where nothing changed since `etag`."""

    raw: bytes
    body: Any
    etag: str | None

    @property
    def unchanged(self) -> bool:
        """The source says that it is as it was."""
        return not self.raw


@dataclass(frozen=True)
class _Asked:
    """A request, as it is repeated."""

    path: str
    params: dict[str, str]
    headers: dict[str, str]
    absent: int | None


class SourceHttp:
    """JSON over HTTP from one source; `requests` and `bytes` count what was asked and came, all threads together."""

    def __init__(
        self, title: str, base_url: str, headers: dict[str, str], timeout: float, budget: Budget | None = None
    ) -> None:
        self._title = title
        self._client = httpx.Client(base_url=base_url, headers=headers, timeout=timeout)
        self._timeout = timeout
        self._budget = budget or Budget(Pace())
        self._count = threading.Lock()
        self._mine = threading.local()
        self.requests = 0
        self.bytes = 0

    @property
    def tries(self) -> int:
        """Requests made by this thread, those repeated included."""
        return getattr(self._mine, "tries", 0)

    def close(self) -> None:
        """Let go of the connections."""
        self._client.close()

    def get(
        self, path: str, etag: str | None = None, *, read: Callable[[bytes], Any] | None = None,
        accept: str | None = None, absent: int | None = None, **params: str,
    ) -> Answer:  # fmt: skip
        """The answer; numbers with a point are kept exact. With the `etag` of an earlier answer maybe unchanged.

        `read` reads the bytes where they are no JSON, and raises `ValueError` for what it cannot read; `accept` is the
        media type to ask for; a status of `absent` says that there is nothing, an answer without body.
        """
        faults = Retrying(
            retry=retry_if_exception_type((SourceUnreachable, SourceDamaged)),
            stop=stop_after_attempt(FAULT_TRIES),
            wait=wait_random_exponential(0.1, max=5),
            reraise=True,
        )
        headers = ({"If-None-Match": etag} if etag else {}) | ({"Accept": accept} if accept else {})
        return faults(self._within_quota, _Asked(path, params, headers, absent), read or read_json)

    def pages(self, path: str, name: str, **params: str) -> Iterator[dict[str, Any]]:
        """The rows of all pages of a collection."""
        cursor, seen = "", set[str]()
        while True:
            page = self.get(path, **params, **({"cursor": cursor} if cursor else {})).body
            if not isinstance(page, dict) or not isinstance(page.get(name), list):
                raise damaged(f"{self._title} {path}", page, f"the page has no {name}")
            for row in page[name]:
                if not isinstance(row, dict):
                    raise damaged(f"{self._title} {path}", row, f"a row of {name} is no object")
                yield row
            cursor = page.get("next") or ""
            if not cursor:
                return
            if not isinstance(cursor, str):
                raise damaged(f"{self._title} {path}", cursor, "the cursor is no text")
            if cursor in seen:
                raise damaged(f"{self._title} {path}", cursor, "the source hands out the same page again and again")
            seen.add(cursor)

    def _within_quota(self, asked: "_Asked", read: Callable[[bytes], Any]) -> Answer:
        quota = Retrying(
            retry=retry_if_exception_type(_OverQuota),
            stop=stop_after_attempt(QUOTA_TRIES),
            reraise=True,
        )
        try:
            return quota(self._once, asked, read)
        except _OverQuota as over:
            mend = "collect later, or ask the source for more"
            raise busy(f"{self._title} {asked.path}", f"wait {over.wait:.0f} s", "the quota is used up", mend) from None

    def _once(self, asked: "_Asked", read: Callable[[bytes], Any]) -> Answer:
        where = f"{self._title} {asked.path}"
        with self._budget.slot(where):
            self._mine.tries = self.tries + 1
            with self._count:
                self.requests += 1
            try:
                answer = self._answer(where, asked, read)
            except (SourceUnreachable, SourceDamaged, SourceRefused):
                self._budget.failed()
                raise
            self._budget.answered()
            return answer

    def _answer(self, where: str, asked: "_Asked", read: Callable[[bytes], Any]) -> Answer:
        try:
            response = self._client.get(asked.path, params=asked.params, headers=asked.headers)
        except httpx.TimeoutException:
            mend = f"it had {self._timeout:g} s: try later, or give it more time"
            raise unreachable(where, "no answer", "the source is too slow", mend) from None
        except httpx.DecodingError as error:
            raise damaged(where, error, "the answer is compressed, and damaged") from None
        except httpx.TransportError as error:
            mend = "check its address and that it runs, then collect again"
            raise unreachable(where, error, "the source cannot be reached", mend) from None
        with self._count:
            self.bytes += response.num_bytes_downloaded
        if response.status_code == asked.absent:
            return Answer(b"", None, None)
        if response.status_code == 304 and (etag := asked.headers.get("If-None-Match")):
            return Answer(b"", None, etag)
        if response.status_code == 429:
            wait = self._seconds(response.headers.get("Retry-After", ""))
            self._budget.hold(wait)  # all connections wait, each in its next turn
            raise _OverQuota(wait)
        if response.status_code in (401, 403):
            mend = "check the key in the settings, or ask the source for a new one"
            raise SourceRefused(Problem(where, str(response.status_code), "the source refuses our key", mend))
        if response.status_code >= 300:
            raise unreachable(where, response.status_code, "the source answers with an error", "collect again later")
        try:
            body = read(response.content)
        except (ValueError, RecursionError) as error:
            raise damaged(where, response.text, f"the answer is no whole JSON ({error})") from None
        return Answer(response.content, body, response.headers.get("ETag"))

    def _seconds(self, retry_after: str) -> float:
        wait = float(retry_after) if retry_after.isdigit() else 1.0
        if wait > LONGEST_WAIT:
            self._budget.leave_alone(wait)
            mend = "collect after that time"
            raise busy("Retry-After", f"{wait:.0f} s", "the source wants to be left alone for longer", mend)
        return wait


class OverHttp:
    """What every adapter over HTTP says of its connection."""

    _http: SourceHttp

    @property
    def tries(self) -> int:
        """Requests made by this thread, those repeated included."""
        return self._http.tries

    @property
    def requests(self) -> int:
        """Requests made in all."""
        return self._http.requests

    @property
    def bytes(self) -> int:
        """Bytes that came over the line in all."""
        return self._http.bytes

    def close(self) -> None:
        """Let go of the connections."""
        self._http.close()


def read_json(raw: bytes) -> Any:
    """What JSON says, numbers with a point exact; raises `ValueError`, also for NaN and infinities."""
    return json.loads(raw, parse_float=Decimal, parse_constant=_no_number)


def _no_number(constant: str) -> Any:
    raise ValueError(f"{constant} is no number")
