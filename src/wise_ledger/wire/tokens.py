"""Models of tokens."""

from datetime import datetime
from typing import ClassVar

from pydantic import ConfigDict, Field

from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Tabled


class TokenInfo(Model):
    """A token, without the secret, which is shown once."""

    id: str
    name: str = Field(description="whose it is, or what for")
    holds: bool = Field(description="whether it opens the door now")
    created_at: datetime
    expires_at: datetime | None = Field(None, description="nothing: it holds until it is revoked")
    revoked_at: datetime | None = None
    last_used_at: datetime | None = None


class TokenList(Tabled):
    """All tokens, the newest first."""

    part: ClassVar[str] = "tokens"

    tokens: list[TokenInfo]


class NewToken(Model):
    """A token to be made."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"name": "Ada's notebook", "days": 90}]}
    )

    name: str = Field(min_length=1, max_length=100, description="whose it is, or what for")
    days: int | None = Field(
        None, ge=1, le=3650, description="for how many days it holds; nothing: until revoked"
    )


class MadeToken(TokenInfo):
    """A token just made, with its secret: it is shown this once."""

    token: str
