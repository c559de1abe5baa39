"""A crowd of clients in a process of its own: port, token, clients, seconds, a question as JSON.

Prints what they saw.

Plain sockets: a hundred clients of a library cost more than the service that they ask.
"""

import asyncio
import json
import sys
import time


async def main(port: int, token: str, clients: int, seconds: float, question: str) -> None:
    spent: list[tuple[int, float]] = []
    broken: list[str] = []
    end = time.monotonic() + seconds
    asked = (
        f"POST /api/v1/screens HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer {token}\r\n"
        f"Content-Type: application/json\r\nContent-Length: {len(question.encode())}\r\n\r\n{question}"
    ).encode()

    async def ask() -> None:
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        while time.monotonic() < end:
            began = time.monotonic()
            try:
                writer.write(asked)
                head = (await reader.readuntil(b"\r\n\r\n")).decode().lower()
                await reader.readexactly(int(head.split("content-length: ")[1].split("\r\n")[0]))
            except (OSError, EOFError, IndexError) as error:
                broken.append(repr(error))
                return
            status = int(head.split()[1])
            spent.append((status, time.monotonic() - began))
            if status == 503:
                await asyncio.sleep(float(head.split("retry-after: ")[1].split("\r\n")[0]))
        writer.close()

    await asyncio.gather(*(ask() for _ in range(clients)))
    print(json.dumps({"spent": spent, "broken": broken}))


if __name__ == "__main__":
    asyncio.run(
        main(int(sys.argv[1]), sys.argv[2], int(sys.argv[3]), float(sys.argv[4]), sys.argv[5])
    )
