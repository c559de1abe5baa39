"""What every question about time shares: reading the cut-off, and the ETag of an answer."""

import hashlib
from datetime import datetime

from fastapi import Response
from pydantic import BaseModel

from wise_ledger.work.dates import read_cutoff


def cutoff(known_on: str) -> datetime:
    """The cut-off that a `known_on` means (T3); raises `BadInput`."""
    return read_cutoff(known_on, "known_on")


def tag(response: Response, answer: BaseModel) -> None:
    """Name the answer by its content, so that the same question of the same ledger has the same ETag (T7)."""
    tag_bytes(response, answer.model_dump_json().encode())


def tag_bytes(response: Response, body: bytes) -> None:
    """The same, for an answer that is written already."""
    response.headers["ETag"] = f'"{hashlib.sha256(body).hexdigest()[:24]}"'
