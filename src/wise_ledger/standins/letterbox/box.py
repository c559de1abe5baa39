"""Takes mail over SMTP and calls over HTTP, checks the signature of calls,
and keeps both as files.
"""

import hashlib
import hmac
import json
import socket
import threading
from pathlib import Path
from typing import Any

from aiosmtpd.controller import Controller
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route


class Letterbox:
    """Keeps letters in `folder`; `app` is the address that is called,
    `smtp_port` where mail is taken.
    """

    def __init__(self, folder: Path, secret: str, smtp_port: int = 0) -> None:
        self._folder = folder
        self._secret = secret
        self._lock = threading.Lock()
        self.smtp_port = smtp_port or _free_port()
        self._mail = Controller(self, hostname="127.0.0.1", port=self.smtp_port)
        self.app = Starlette(routes=[Route("/notices", self._call, methods=["POST"])])

    def start(self) -> None:
        """Take mail from now on."""
        self._mail.start()

    def stop(self) -> None:
        """Take no more."""
        self._mail.stop(no_assert=True)

    def letters(self) -> list[Path]:
        """What came, in order."""
        return sorted(self._folder.glob("*"))

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:
        """One mail."""
        self._keep(f"to {envelope.rcpt_tos[0]}.eml", envelope.content)
        return "250 kept"

    async def _call(self, request: Request) -> Response:
        body = await request.body()
        expected = "sha256=" + hmac.new(self._secret.encode(), body, hashlib.sha256).hexdigest()
        if not hmac.compare_digest(request.headers.get("Wise-Ledger-Signature", ""), expected):
            return JSONResponse({"error": "The signature is wrong."}, 401)
        self._keep(f"call of run {json.loads(body)['run']}.json", body)
        return JSONResponse({"kept": True})

    def _keep(self, name: str, content: bytes) -> None:
        with self._lock:
            self._folder.mkdir(parents=True, exist_ok=True)
            number = len(list(self._folder.iterdir())) + 1
            (self._folder / f"{number:04d} {name}").write_bytes(content)


def _free_port() -> int:
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        return int(found.getsockname()[1])
