"""Record the examples of answers that the OpenAPI document shows, from the demo's data:
python tools/examples.py FILE.
"""

import json
import re
import sys
import tempfile
from pathlib import Path
from typing import Any

import httpx

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tools.everycall import every_call, template  # noqa: E402
from wise_ledger.client import WiseLedgerError, connect  # noqa: E402
from wise_ledger.launch.demo import everything  # noqa: E402

_MANY = 2  # entries of an array that an example shows
_LINES = 3  # of a file


class Recording(httpx.HTTPTransport):
    """Keeps the last answer of each call, status and media type."""

    def __init__(self, paths: dict[str, Any]) -> None:
        super().__init__()
        self._paths = paths
        self.kept: dict[str, dict[str, Any]] = {}

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        response = super().handle_request(request)
        media = response.headers.get("content-type", "").partition(";")[0]
        if response.status_code < 300 and media in _SHOWN:
            response.read()
            path, method = template(self._paths, request.url.path), request.method
            kept = self.kept.setdefault(f"{method} {path} {response.status_code}", {})
            kept[media] = _SHOWN[media](response.text)
            answers = self._paths[path][method.lower()]["responses"].get("200", {})
            if media == _JSON and _CSV in answers.get("content", {}):
                kept[_CSV] = _lines(self._as_csv(request))
        return response

    def _as_csv(self, request: httpx.Request) -> str:
        """The same as a file."""
        url = request.url.copy_merge_params({"format": "csv"})
        again = httpx.Request(request.method, url, headers=request.headers, content=request.content)
        response = super().handle_request(again)
        response.read()
        return response.text


def _short(value: Any) -> Any:
    """Little of each array, and nobody's token."""
    if isinstance(value, list):
        return [_short(v) for v in value[:_MANY]]
    if isinstance(value, dict):
        # Seven quantiles are one value: two of them are none.
        return {name: v if name == "quantiles" else _short(v) for name, v in value.items()}
    return re.sub(r"^wl_\S+", "wl_0123456789", value) if isinstance(value, str) else value


def _lines(text: str) -> str:
    return "".join(text.splitlines(keepends=True)[:_LINES])


_JSON, _CSV = "application/json", "text/csv"
_SHOWN = {
    _JSON: lambda text: _short(json.loads(text)),
    _CSV: _lines,
    "text/plain": _lines,
    "text/event-stream": _lines,
    "application/yaml": str,
}


def record(url: str, token: str) -> dict[str, dict[str, Any]]:
    """Every call once, of a demo that runs; what was answered, by call, status and media type."""
    headers = {"Authorization": f"Bearer {token}"}
    document = httpx.get(f"{url}/api/v1/openapi.json", headers=headers, timeout=30).json()
    recording = Recording(document["paths"])
    with connect(url, token, transport=recording) as ledger:
        for call in every_call(ledger):
            try:
                call()
            except WiseLedgerError as error:
                print(error, file=sys.stderr)
    with httpx.Client(transport=recording, base_url=url, headers=headers, timeout=30) as plain:
        for path in ("/health", "/facts/publications?company=AGK@ZALD", "/digests", "/lists/two"):
            plain.get(f"/api/v1{path}")
    return recording.kept


def main() -> None:
    """The examples of a demo that runs for it, as a file."""
    with (
        tempfile.TemporaryDirectory() as folder,
        everything(Path(folder), 0, 0, today="2024-12-31") as (url, token, _),
    ):
        kept = record(url, token)
    lines = (
        f"{json.dumps(call)}: {json.dumps(kept[call], sort_keys=True, ensure_ascii=False)}"
        for call in sorted(kept)
    )
    Path(sys.argv[1]).write_text("{\n" + ",\n".join(lines) + "\n}\n", "utf-8")


if __name__ == "__main__":
    main()
