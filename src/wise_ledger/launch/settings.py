"""Settings from WISE_LEDGER_* in the environment, and from a file `.env` in the working folder."""

from pathlib import Path

from pydantic import Field, SecretStr, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """What `serve` and `demo` need to know; see `.env.example`."""

    model_config = SettingsConfigDict(env_prefix="WISE_LEDGER_", env_file=".env", extra="ignore")

    data: Path = Field(Path("ledger-data"), description="folder of the ledger")
    host: str = Field("127.0.0.1", description="address to bind to")
    port: int = Field(8600, ge=0, le=65535, description="port to bind to; 0 takes any free one")
    fernmark_url: str = Field("", description="Fernmark Data; empty: not offered")
    fernmark_key: SecretStr = Field(SecretStr(""), description="key for Fernmark Data")
    fernmark_timeout: float = Field(20.0, gt=0, description="seconds to wait for each answer")


class SettingsRefused(Exception):
    """A setting that cannot be used, in words."""


def read_settings(**given: object) -> Settings:
    """The settings; those given (not None) go before environment and file. Raises `SettingsRefused`."""
    try:
        return Settings(**{k: v for k, v in given.items() if v is not None})  # type: ignore[arg-type]
    except ValidationError as error:
        lines = [f"WISE_LEDGER_{str(e['loc'][0]).upper()}={e['input']}: {e['msg']}" for e in error.errors()]
        raise SettingsRefused("; ".join(lines)) from None
