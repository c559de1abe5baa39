"""Asking a source over HTTP: its budget kept, faults tried again, the raw bytes kept,
nothing asked twice in vain.
"""

import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any
from urllib.parse import unquote

import httpx
from tenacity import Retrying, retry_if_exception_type, stop_after_attempt, wait_random_exponential
from tenacity.nap import sleep_using_event

from wise_ledger.core.errors import Problem
from wise_ledger.sources.errors import (
    SourceDamaged,
    SourceRefused,
    SourceUnreachable,
    busy,
    damaged,
    stopped,
    unreachable,
)
from wise_ledger.sources.exactjson import read_json
from wise_ledger.sources.line import Line
from wise_ledger.sources.pacing import Budget, Pace

FAULT_TRIES = 4
QUOTA_TRIES = 40
LONGEST_WAIT = 60.0  # seconds; a source that asks for more is left alone
_LONGEST_REST = 86_400.0  # seconds that it is left alone at most
MOST_BYTES = 64 << 20  # of an answer, unpacked
MOST_OF_A_FILE = 512 << 20  # of one that is a file of columns
_MOST_PAGES = 10_000
_TIMES_AS_LONG = 6  # a whole answer may take, as the wait for its next bytes


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
    most: int


class SourceHttp:
    """JSON over HTTP from one source; `requests` and `bytes` count what was
    asked and came, all threads together.
    """

    def __init__(
        self,
        title: str,
        base_url: str,
        headers: dict[str, str],
        timeout: float,
        budget: Budget | None = None,
    ) -> None:
        self._title = title
        self._stop = threading.Event()
        self._line = Line(self._stop)
        self._client = httpx.Client(
            base_url=base_url,
            headers={"Accept-Encoding": "gzip"} | headers,
            timeout=timeout,
            transport=self._line,
        )
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

    def abandon(self) -> None:
        """Let go of whatever is being waited for, in every thread,
        and ask nothing more: `SourceStopped` is raised.
        """
        self._stop.set()

    def get(
        self,
        path: str,
        etag: str | None = None,
        *,
        read: Callable[[bytes], Any] | None = None,
        accept: str | None = None,
        absent: int | None = None,
        most: int = MOST_BYTES,
        **params: str,
    ) -> Answer:
        """The answer; numbers with a point are kept exact.

        With the `etag` of an earlier answer maybe unchanged.

        `read` reads the bytes where they are no JSON, and raises `ValueError` for what it cannot
        read; `accept` is the media type to ask for; a status of `absent` says that there is
        nothing, an answer without body. An answer of more than `most` bytes is damaged, and so is a
        path that leads elsewhere.
        """
        self._own(path)
        faults = Retrying(
            retry=retry_if_exception_type((SourceUnreachable, SourceDamaged)),
            stop=stop_after_attempt(FAULT_TRIES),
            wait=wait_random_exponential(0.1, max=5),
            sleep=sleep_using_event(self._stop),
            reraise=True,
        )
        headers = ({"If-None-Match": etag} if etag else {}) | ({"Accept": accept} if accept else {})
        return faults(
            self._within_quota, _Asked(path, params, headers, absent, most), read or read_json
        )

    def pages(self, path: str, name: str, **params: str) -> Iterator[dict[str, Any]]:
        """The rows of all pages of a collection."""
        where, cursor = f"{self._title} {path}", ""
        turns = Turns(where)
        while True:
            page = self.get(path, **params, **({"cursor": cursor} if cursor else {})).body
            if not isinstance(page, dict) or not isinstance(page.get(name), list):
                raise damaged(where, page, f"the page has no {name}")
            for row in page[name]:
                if not isinstance(row, dict):
                    raise damaged(where, row, f"a row of {name} is no object")
                yield row
            cursor = turns.to(page.get("next"))
            if not cursor:
                return

    def _own(self, path: str) -> None:
        """Refuse a path that would lead our key to somebody else,
        or out of where the source lives.
        """
        try:
            url = httpx.URL(path)
            elsewhere = bool(url.scheme or url.host) or ".." in unquote(url.path).split("/")
        except (httpx.InvalidURL, UnicodeError):
            elsewhere = True
        if elsewhere or not path.startswith("/"):
            raise damaged(self._title, path, "the source sends us to another place than its own")

    def _within_quota(self, asked: "_Asked", read: Callable[[bytes], Any]) -> Answer:
        quota = Retrying(
            retry=retry_if_exception_type(_OverQuota),
            stop=stop_after_attempt(QUOTA_TRIES),
            sleep=sleep_using_event(self._stop),
            reraise=True,
        )
        try:
            return quota(self._once, asked, read)
        except _OverQuota as over:
            mend = "collect later, or ask the source for more"
            raise busy(
                f"{self._title} {asked.path}",
                f"wait {over.wait:.0f} s",
                "the quota is used up",
                mend,
            ) from None

    def _once(self, asked: "_Asked", read: Callable[[bytes], Any]) -> Answer:
        where = f"{self._title} {asked.path}"
        with self._budget.slot(where, self._stop):
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
        self._line.until(time.monotonic() + _TIMES_AS_LONG * self._timeout)
        try:
            with self._client.stream(
                "GET", asked.path, params=asked.params, headers=asked.headers
            ) as response:
                raw = _whole(response, where, asked.most)
        except httpx.TransportError as error:
            if self._stop.is_set():
                raise stopped(where) from None
            if isinstance(error, httpx.TimeoutException):
                mend = f"it had {self._timeout:g} s: try later, or give it more time"
                raise unreachable(where, "no answer", "the source is too slow", mend) from None
            mend = "check its address and that it runs, then collect again"
            raise unreachable(where, error, "the source cannot be reached", mend) from None
        except httpx.DecodingError as error:
            raise damaged(where, error, "the answer is compressed, and damaged") from None
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
            raise SourceRefused(
                Problem(where, str(response.status_code), "the source refuses our key", mend)
            )
        if response.status_code >= 300:
            raise unreachable(
                where,
                response.status_code,
                "the source answers with an error",
                "collect again later",
            )
        try:
            body = read(raw)
        except (ValueError, RecursionError) as error:
            raise damaged(where, raw, f"the answer is no whole JSON ({error})") from None
        return Answer(raw, body, response.headers.get("ETag"))

    def _seconds(self, retry_after: str) -> float:
        wait = seconds_of(retry_after, datetime.now(UTC))
        if wait > LONGEST_WAIT:
            self._budget.leave_alone(wait)
            mend = "collect after that time"
            raise busy(
                "Retry-After", f"{wait:.0f} s", "the source wants to be left alone for longer", mend
            )
        return wait


def seconds_of(retry_after: str, now: datetime) -> float:
    """How long a source wants to be left alone: seconds, or until a date (RFC 9110);
    at most a day, 1 s if unclear.
    """
    text = retry_after.strip()
    if text.isascii() and text.isdigit():
        return min(float(text[:12]), _LONGEST_REST)
    try:
        until = parsedate_to_datetime(text)
    except ValueError:
        return 1.0
    until = until if until.tzinfo else until.replace(tzinfo=UTC)
    return min(max((until - now).total_seconds(), 0.0), _LONGEST_REST)


def _whole(response: httpx.Response, where: str, most: int) -> bytes:
    """The body, unpacked, as long as it is not too much."""
    out = bytearray()
    for part in response.iter_bytes():
        out += part
        if len(out) > most:
            raise damaged(
                where, f"{most >> 20} MB and more", "the answer is larger than any of ours is"
            )
    return bytes(out)


class Turns:
    """Pages by cursor: each once, and not for ever."""

    def __init__(self, where: str) -> None:
        self._where = where
        self._seen: set[str] = set()

    def to(self, cursor: object) -> str:
        """The cursor of the next page, empty after the last; raises `SourceDamaged`."""
        if cursor is None or cursor == "":
            return ""
        if not isinstance(cursor, str):
            raise damaged(self._where, cursor, "the cursor is no text")
        if cursor in self._seen:
            raise damaged(self._where, cursor, "the source hands out the same page again and again")
        if len(self._seen) >= _MOST_PAGES:
            raise damaged(
                self._where, cursor, f"the source hands out page after page, {_MOST_PAGES:,} by now"
            )
        self._seen.add(cursor)
        return cursor


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

    def abandon(self) -> None:
        """Let go of whatever is being waited for, in every thread."""
        self._http.abandon()
