"""A hostile proxy between the service and a source, and values that no source should say."""

import asyncio
import gzip
import json
from contextlib import ExitStack
from random import Random
from typing import Any

import httpx

from wise_ledger.launch.running import address, bind, running

DEEP: Any = 1
for _ in range(60):
    DEEP = [DEEP]
VALUES: tuple[Any, ...] = (
    None, True, 0, -1, 13, 10**9, 10**30, 1.5, -0.0, "", " ", "March", "²", "1e999999", "-", "\x00", "\ud800",
    "é" * 5000, "9999-12-31", "0001-01-01T00:00:00+14:00", "2024-02-30", "2023-12-31T23:59:60Z", "2999-01-01T00:00:00Z",
    "=HYPERLINK(1)", "../../lists", "http://127.0.0.1:9/", "<script>", [], {}, [None], {"a": {"b": []}}, DEEP,
)  # fmt: skip
RAW = (
    b"1e999999",
    b"NaN",
    b"-Infinity",
    b"1" * 400,
    b"[" * 100_000,
    b'"\\ud800"',
    b"1E+400",
    b"0.1e-999",
)
LINES = ("endless", "bomb", "drip", "cursors", "cut", "not gzip", "302", "empty", "html", "null")


def mutated(body: Any, random: Random, times: int) -> bytes:
    """JSON in which some nodes are other values;
    some of which no JSON library of ours would write.
    """
    marks: dict[str, bytes] = {}
    for _ in range(times):
        body = _changed(body, random, marks)
    text = json.dumps(body).encode()
    for mark, raw in marks.items():
        text = text.replace(json.dumps(mark).encode(), raw)
    return text


def _changed(node: Any, random: Random, marks: dict[str, bytes]) -> Any:
    if isinstance(node, dict) and node and random.random() < 0.92:
        key = random.choice(list(node))
        if random.random() < 0.05:
            return {k: v for k, v in node.items() if k != key}
        return {**node, key: _changed(node[key], random, marks)}
    if isinstance(node, list) and node and random.random() < 0.92:
        n = random.randrange(len(node))
        more = [node[n]] if random.random() < 0.05 else []
        return [*node[:n], _changed(node[n], random, marks), *more, *node[n + 1 :]]
    if random.random() < 0.15:
        mark = f"mark {len(marks)} of raw bytes"
        marks[mark] = random.choice(RAW)
        return mark
    return random.choice(VALUES)


class HostileProxy:
    """Answers as the source does, but for what `random` puts out of joint;
    `rate` of the answers are touched.
    """

    def __init__(self, stack: ExitStack, to: str, random: Random) -> None:
        self._to = httpx.AsyncClient(base_url=to, timeout=20, verify=False)
        self._random = random
        self.rate = 0.0
        self.only = ""  # in paths that have this
        self.line: str | None = None  # a fault of the line, in place of values
        self.touched = 0
        bound = bind("127.0.0.1", 0, "--port")
        self.url = address(bound)
        stack.enter_context(running(self, bound))

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            return
        headers = [
            (k, v)
            for k, v in scope["headers"]
            if k not in (b"host", b"connection", b"accept-encoding")
        ]
        query = scope["query_string"].decode()
        path = scope["raw_path"].decode() + (f"?{query}" if query else "")
        found = await self._to.get(path, headers=headers)
        body, kept = (
            found.content,
            {k: v for k, v in found.headers.items() if k in ("content-type", "etag")},
        )
        if self._random.random() < self.rate and found.status_code == 200 and self.only in path:
            self.touched += 1
            if self.line is not None:
                await self._fault(self.line, body, send)
                return
            if body[:1] in (b"{", b"["):
                body = mutated(json.loads(body), self._random, self._random.randint(1, 3))
            elif body:
                n = self._random.randrange(len(body))
                body = body[:n] + bytes([self._random.randrange(256)]) + body[n + 1 :]
        await _answer(send, found.status_code, kept, [body])

    async def _fault(self, kind: str, body: bytes, send: Any) -> None:
        json_ = {"content-type": "application/json"}
        if kind == "endless":
            await _answer(send, 200, json_, (b" " * 65536 for _ in range(1 << 20)))
        elif kind == "bomb":
            packed = gzip.compress(b" " * (200 << 20), 9)
            await _answer(send, 200, json_ | {"content-encoding": "gzip"}, [packed])
        elif kind == "not gzip":
            await _answer(send, 200, json_ | {"content-encoding": "gzip"}, [body])
        elif kind == "drip":
            await send({"type": "http.response.start", "status": 200, "headers": []})
            for _ in range(1000):
                await send({"type": "http.response.body", "body": b" ", "more_body": True})
                await asyncio.sleep(0.3)
        elif kind == "cursors":
            parsed = json.loads(body) if body[:1] == b"{" else {}
            parsed["next"] = f"cursor {self._random.random()}"
            await _answer(send, 200, json_, [json.dumps(parsed).encode()])
        elif kind == "302":
            await _answer(send, 302, {"location": "http://127.0.0.1:9/stolen"}, [b""])
        else:
            parsed = {
                "cut": body[: len(body) // 2],
                "empty": b"",
                "html": b"<html>",
                "null": b"null",
            }[kind]
            await _answer(send, 200, json_, [parsed])


async def _answer(send: Any, status: int, headers: dict[str, str], parts: Any) -> None:
    reported = [(k.encode(), v.encode()) for k, v in headers.items()]
    await send({"type": "http.response.start", "status": status, "headers": reported})
    for part in parts:
        await send({"type": "http.response.body", "body": part, "more_body": True})
    await send({"type": "http.response.body", "body": b""})
