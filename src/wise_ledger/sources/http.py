"""Asking a source over HTTP: its quota obeyed, faults tried again, the raw bytes kept."""

import json
from collections.abc import Iterator
from decimal import Decimal
from typing import Any

import httpx
from tenacity import RetryCallState, Retrying, retry_if_exception_type, stop_after_attempt, wait_random_exponential

from wise_ledger.core.errors import Problem
from wise_ledger.sources.errors import SourceDamaged, SourceRefused, SourceUnreachable, busy, damaged, unreachable

FAULT_TRIES = 4
QUOTA_TRIES = 40
LONGEST_WAIT = 60.0  # seconds; a source that asks for more is left alone


class _OverQuota(Exception):
    def __init__(self, wait: float) -> None:
        self.wait = wait


class SourceHttp:
    """JSON over HTTP from one source; `tries` counts the requests made."""

    def __init__(self, title: str, base_url: str, headers: dict[str, str], timeout: float) -> None:
        self._title = title
        self._client = httpx.Client(base_url=base_url, headers=headers, timeout=timeout)
        self._timeout = timeout
        self.tries = 0

    def close(self) -> None:
        """Let go of the connections."""
        self._client.close()

    def get(self, path: str, **params: str) -> tuple[bytes, Any]:
        """The raw bytes and what they say; numbers with a point are kept exact."""
        faults = Retrying(
            retry=retry_if_exception_type((SourceUnreachable, SourceDamaged)),
            stop=stop_after_attempt(FAULT_TRIES),
            wait=wait_random_exponential(0.1, max=5),
            reraise=True,
        )
        return faults(self._within_quota, path, params)

    def pages(self, path: str, name: str) -> Iterator[dict[str, Any]]:
        """The rows of all pages of a collection."""
        cursor, seen = "", set[str]()
        while True:
            _, page = self.get(path, **({"cursor": cursor} if cursor else {}))
            if not isinstance(page, dict) or not isinstance(page.get(name), list):
                raise damaged(f"{self._title} {path}", page, f"the page has no {name}")
            yield from page[name]
            cursor = page.get("next") or ""
            if not cursor:
                return
            if cursor in seen:
                raise damaged(f"{self._title} {path}", cursor, "the source hands out the same page again and again")
            seen.add(cursor)

    def _within_quota(self, path: str, params: dict[str, str]) -> tuple[bytes, Any]:
        quota = Retrying(
            retry=retry_if_exception_type(_OverQuota),
            stop=stop_after_attempt(QUOTA_TRIES),
            wait=_as_asked,
            reraise=True,
        )
        try:
            return quota(self._once, path, params)
        except _OverQuota as over:
            mend = "collect later, or ask the source for more"
            raise busy(f"{self._title} {path}", f"wait {over.wait:.0f} s", "the quota is used up", mend) from None

    def _once(self, path: str, params: dict[str, str]) -> tuple[bytes, Any]:
        where = f"{self._title} {path}"
        self.tries += 1
        try:
            response = self._client.get(path, params=params)
        except httpx.TimeoutException:
            mend = f"it had {self._timeout:g} s: try later, or give it more time"
            raise unreachable(where, "no answer", "the source is too slow", mend) from None
        except httpx.TransportError as error:
            mend = "check its address and that it runs, then collect again"
            raise unreachable(where, error, "the source cannot be reached", mend) from None
        if response.status_code == 429:
            raise _OverQuota(_seconds(response.headers.get("Retry-After", "")))
        if response.status_code in (401, 403):
            mend = "check the key in the settings, or ask the source for a new one"
            raise SourceRefused(Problem(where, str(response.status_code), "the source refuses our key", mend))
        if response.status_code >= 400:
            raise unreachable(where, response.status_code, "the source answers with an error", "collect again later")
        try:
            return response.content, json.loads(response.content, parse_float=Decimal, parse_constant=_no_number)
        except ValueError as error:
            raise damaged(where, response.text, f"the answer is no whole JSON ({error})") from None


def _no_number(constant: str) -> Any:
    raise ValueError(f"{constant} is no number")


def _seconds(retry_after: str) -> float:
    wait = float(retry_after) if retry_after.isdigit() else 1.0
    if wait > LONGEST_WAIT:
        mend = "collect after that time"
        raise busy("Retry-After", f"{wait:.0f} s", "the source wants to be left alone for longer", mend)
    return wait


def _as_asked(state: RetryCallState) -> float:
    failed = state.outcome.exception() if state.outcome else None
    return failed.wait if isinstance(failed, _OverQuota) else 0.0
