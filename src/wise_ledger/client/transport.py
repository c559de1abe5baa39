"""HTTP to the service: token, time-outs, and problems turned into errors."""

import random
import time
from collections.abc import Iterator
from typing import Any, TypeVar

import httpx
from pydantic import BaseModel, ValidationError

from wise_ledger.client.answers import body_of
from wise_ledger.client.errors import ServiceFailed, ServiceUnreachable, error_of, refused
from wise_ledger.client.given import no_text, number
from wise_ledger.wire.problems import ProblemDetails
from wise_ledger.words import whole_number

M = TypeVar("M", bound=BaseModel)
API = "/api/v1"
_HERE = ("localhost", "127.0.0.1", "::1")
_TURNS, _LONGEST_WAIT = 20, 10  # times that a busy service is asked again, seconds between


def _service_at(url: str) -> httpx.URL:
    """An address of a service, with the path that it has behind another, if any;
    raises `InputRefused`.
    """
    mend = "write http://HOST:PORT as `wise-ledger serve` says it, as url or WISE_LEDGER_URL"
    try:
        to = httpx.URL(url.strip())
    except (httpx.InvalidURL, UnicodeError, TypeError, AttributeError):
        raise refused("url", str(url), "this is no address", mend) from None
    if to.scheme not in ("http", "https") or not to.host or (to.port or 1) > 65_535:
        raise refused("url", url, "this is no address of a service", mend)
    if to.query or to.fragment:
        raise refused("url", url, "an address of a service ends with its path", mend)
    return httpx.URL(str(to).rstrip("/").removesuffix(API))


def _sent(token: str) -> str:
    """A token as it can stand in the head of a call; raises `InputRefused`."""
    if not (isinstance(token, str) and token.isascii() and token.isprintable()):
        mend = "copy it whole, as it was shown when it was made: wl_ and what follows"
        raise refused("token", "", "this is no token", mend)
    return token


class Transport:
    """Calls of the API; `http` may be any httpx transport,
    such as one straight into an application.
    """

    def __init__(
        self, url: str, token: str, timeout: float, http: httpx.BaseTransport | None = None
    ) -> None:
        to = _service_at(url)
        self._url = str(to)
        headers = {"Authorization": f"Bearer {_sent(token)}"} if token else {}
        if to.host in _HERE:  # what does not leave the machine is not packed for the way
            headers["Accept-Encoding"] = "identity"
        # Reading whose certificates are believed takes a while: only where there is one to look at.
        how: dict[str, Any] = {"timeout": timeout, "transport": http, "verify": to.scheme != "http"}
        self._client = httpx.Client(base_url=self._url + API, headers=headers, **how)

    def close(self) -> None:
        """Let go of the connections."""
        self._client.close()

    def get(self, path: str, **params: Any) -> bytes:
        """The body of a GET; parameters that are None are left out."""
        return self._send("GET", path, params={k: v for k, v in params.items() if v is not None})

    def paged(
        self, path: str, kind: type[M], part: str, limit: int | None, most: int, /, **params: Any
    ) -> M:
        """An answer whose `part` comes page by page, at most `most` each: so
        many of it, or without a limit all.
        """
        limit, rows = number("limit", limit), list[Any]()
        page: Any = None
        while page is None or (page.next is not None and (limit is None or len(rows) < limit)):
            few = most if limit is None else min(most, limit - len(rows))
            page = body_of(kind, self.get(path, **params, limit=few, cursor=page and page.next))
            rows += getattr(page, part)
        return page.model_copy(update={part: rows})  # type: ignore[no-any-return]

    def post(
        self, path: str, body: Any, headers: dict[str, str] | None = None, **params: Any
    ) -> bytes:
        """The body of a POST."""
        given = {k: v for k, v in params.items() if v is not None}
        return self._send("POST", path, json=body, params=given, headers=headers)

    def ask(self, path: str, body: Any, **params: Any) -> tuple[bool, bytes]:
        """The body of a POST, and whether it is work that was queued (202) in
        the place of an answer.
        """
        given = {k: v for k, v in params.items() if v is not None}
        response = self._response("POST", path, json=body, params=given)
        return response.status_code == httpx.codes.ACCEPTED, self._read(response, "POST", path)

    def put(self, path: str, body: Any) -> bytes:
        """The body of a PUT."""
        return self._send("PUT", path, json=body)

    def patch(self, path: str, body: Any) -> bytes:
        """The body of a PATCH."""
        return self._send("PATCH", path, json=body)

    def delete(self, path: str) -> bytes:
        """The body of a DELETE."""
        return self._send("DELETE", path)

    def events(self, path: str) -> Iterator[tuple[str, str]]:
        """Server-sent events as they come: kind and data."""
        try:
            with self._client.stream("GET", path, timeout=None) as response:
                if not response.is_success:
                    response.read()
                    self._read(response, "GET", path)
                kind = ""
                for line in response.iter_lines():
                    name, _, value = line.partition(": ")
                    if name == "event":
                        kind = value
                    elif name == "data":
                        yield kind, value
        except httpx.TransportError as error:
            raise self._unreachable(error) from None

    def send_bytes(self, path: str, content: bytes, **params: Any) -> bytes:
        """The body of a POST of raw bytes."""
        given = {k: v for k, v in params.items() if v is not None}
        return self._send("POST", path, content=content, params=given)

    def _send(self, method: str, path: str, **how: Any) -> bytes:
        return self._read(self._response(method, path, **how), method, path)

    def _response(self, method: str, path: str, **how: Any) -> httpx.Response:
        try:
            response = self._client.request(method, path, **how)
            for _ in range(_TURNS):  # the service has its hands full, and stored nothing
                wait = whole_number(response.headers.get("Retry-After", ""))
                if response.status_code != 503 or wait is None:
                    break
                time.sleep(min(wait, _LONGEST_WAIT) * random.uniform(0.5, 1.5))
                response = self._client.request(method, path, **how)
        except httpx.TimeoutException:
            detail = f"{method} {path} had no answer in time; ask for less, or give `connect` a longer timeout."
            raise ServiceFailed("The service is too slow", detail) from None
        except (httpx.TransportError, httpx.UnsupportedProtocol) as error:
            raise self._unreachable(error) from None
        except UnicodeEncodeError as error:
            raise no_text(error.object) from None
        except (TypeError, ValueError) as error:  # of what is to be sent as JSON
            raise refused("", str(error)[:80], "this cannot be sent", "see help()") from None
        return response

    def _unreachable(self, error: Exception) -> ServiceUnreachable:
        detail = f"Nothing answers at {self._url} ({error}). Start it with `wise-ledger serve`, or set WISE_LEDGER_URL."
        return ServiceUnreachable("The service cannot be reached", detail)

    def _read(self, response: httpx.Response, method: str, path: str) -> bytes:
        if response.is_success:
            return response.content
        try:
            problem = ProblemDetails.model_validate_json(response.content)
        except ValidationError:
            detail = f"{method} {path} answered {response.status_code}; is {self._url} a Wise Ledger service?"
            raise ServiceFailed("The answer cannot be read", detail) from None
        raise error_of(problem)
