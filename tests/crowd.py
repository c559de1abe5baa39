"""A crowd of clients in a process of its own: url, token, clients, seconds, a question as JSON. Prints what they saw."""

import asyncio
import json
import sys
import time

import httpx


async def main(url: str, token: str, clients: int, seconds: float, question: object) -> None:
    spent: list[tuple[int, float]] = []
    broken: list[str] = []
    end = time.monotonic() + seconds

    async def ask(client: httpx.AsyncClient) -> None:
        while time.monotonic() < end:
            began = time.monotonic()
            try:
                told = await client.post(f"{url}/api/v1/screens", json=question)
            except httpx.HTTPError as error:
                broken.append(repr(error))
                continue
            spent.append((told.status_code, time.monotonic() - began))
            if told.status_code == 503:
                await asyncio.sleep(float(told.headers["retry-after"]))

    limits = httpx.Limits(max_connections=clients, max_keepalive_connections=clients)
    headers = {"Authorization": f"Bearer {token}"}
    async with httpx.AsyncClient(headers=headers, timeout=30, limits=limits) as client:
        await asyncio.gather(*(ask(client) for _ in range(clients)))
    print(json.dumps({"spent": spent, "broken": broken}))


if __name__ == "__main__":
    asyncio.run(main(sys.argv[1], sys.argv[2], int(sys.argv[3]), float(sys.argv[4]), json.loads(sys.argv[5])))
