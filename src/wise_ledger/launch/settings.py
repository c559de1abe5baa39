"""Settings from WISE_LEDGER_* in the environment, and from a file `.env` in the working folder."""

from pathlib import Path
from typing import Annotated
from urllib.parse import urlsplit

from pydantic import AfterValidator, Field, SecretStr, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict, SettingsError


def _address(text: str) -> str:
    """An address of http or https, or nothing."""
    try:
        found = urlsplit(text)
        good = found.scheme in ("http", "https") and bool(found.hostname) and found.port != 0
    except ValueError:
        good = False
    if text and not good:
        raise ValueError("write an address such as http://127.0.0.1:8601")
    return text


def _titled(text: str) -> str:
    _address(text.partition(" ")[0] or "-")
    return text


Address = Annotated[str, AfterValidator(_address)]
Titled = Annotated[str, AfterValidator(_titled)]  # an address, and after a blank a title
Seconds = Annotated[float, Field(allow_inf_nan=False)]


class Settings(BaseSettings):
    """What `serve` and `demo` need to know; see `.env.example`."""

    model_config = SettingsConfigDict(env_prefix="WISE_LEDGER_", env_file=".env", extra="ignore")

    data: Path = Field(Path("ledger-data"), description="folder of the ledger")
    host: str = Field("127.0.0.1", description="address to bind to")
    port: int = Field(8600, ge=0, le=65535, description="port to bind to; 0 takes any free one")
    fernmark_url: Address = Field("", description="Fernmark Data; empty: not offered")
    fernmark_key: SecretStr = Field(SecretStr(""), description="key for Fernmark Data")
    fernmark_timeout: Seconds = Field(20.0, gt=0, description="seconds to wait for each answer")
    fernmark_per_second: Seconds | None = Field(
        None, gt=0, description="calls a second at most; empty: as it answers"
    )
    fernmark_per_day: int | None = Field(None, gt=0, description="calls a day at most")
    tolvane_url: Address = Field("", description="Tolvane Filings; empty: not offered")
    tolvane_timeout: Seconds = Field(30.0, gt=0, description="seconds to wait for each answer")
    tolvane_per_second: Seconds | None = Field(
        None, gt=0, description="calls a second at most; empty: as it answers"
    )
    oskelby_url: Address = Field("", description="Oskelby Estimates; empty: not offered")
    oskelby_key: SecretStr = Field(SecretStr(""), description="key for Oskelby Estimates")
    oskelby_timeout: Seconds = Field(30.0, gt=0, description="seconds to wait for each answer")
    sdmx: dict[str, Titled] = Field(
        {}, description="SDMX services: by name an address, after it a title; as JSON"
    )
    sdmx_timeout: Seconds = Field(60.0, gt=0, description="seconds to wait for each answer")
    fernmark_at_once: int = Field(4, ge=1, le=32, description="calls at one time")
    memory: int = Field(
        1024, ge=16, description="megabytes of formed figures kept between questions"
    )
    confirm_above: int = Field(
        2_000, ge=0, description="calls that a collection may take without a person's yes"
    )
    hosts: str = Field(
        "", description="names the service is called by besides its own address, with commas; * any"
    )
    open_document: bool = Field(False, description="whether /api/v1/openapi.json needs no token")
    largest_file: int = Field(
        256, ge=1, le=4096, description="megabytes of a file that is loaded, at most"
    )
    at_once: int = Field(4, ge=1, le=40, description="calls that are worked on at one time")
    notice_hosts: str = Field(
        "", description="hosts, addresses and networks that notices may call, with commas"
    )
    smtp_host: str = Field("", description="mail server for notices; empty: no mail")
    smtp_port: int = Field(25, ge=1, le=65535, description="its port")
    mail_from: str = Field("wise-ledger@localhost", description="sender of notices")
    notice_secret: SecretStr = Field(
        SecretStr(""), description="signs the calls that announce a run's end"
    )
    public_url: Address = Field("http://127.0.0.1:8600", description="where notices link to")


class SettingsRefused(Exception):
    """A setting that cannot be used, in words."""


def read_settings(**given: object) -> Settings:
    """The settings; those given (not None) go before environment and file.

    Raises `SettingsRefused`.
    """
    try:
        return Settings(**{k: v for k, v in given.items() if v is not None})  # type: ignore[arg-type]
    except ValidationError as error:
        lines = [
            f"WISE_LEDGER_{str(e['loc'][0]).upper()}={e['input']}: "
            + e["msg"].removeprefix("Value error, ")
            for e in error.errors()
        ]
        raise SettingsRefused("; ".join(lines)) from None
    except SettingsError as error:
        name = str(error).partition('"')[2].partition('"')[0].upper()
        mend = 'write JSON such as {"ostrin": "http://127.0.0.1:8604 Ostrin Statistics"}'
        raise SettingsRefused(f"WISE_LEDGER_{name}: it cannot be read; {mend}") from None
    except UnicodeDecodeError as error:
        raise SettingsRefused(f".env: it is no text in UTF-8 ({error})") from None
