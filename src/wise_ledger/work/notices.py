"""Telling people and programs that a run ended: by mail, and by a signed call of an address of theirs."""

import hashlib
import hmac
import json
import smtplib
from dataclasses import dataclass
from email.message import EmailMessage

import httpx
from tenacity import RetryError, Retrying, stop_after_attempt, wait_exponential

from wise_ledger.core.errors import bad_input
from wise_ledger.store import schedulekeeping
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.schedulekeeping import Delivery
from wise_ledger.work import digests
from wise_ledger.work.digests import Digest

SIGNATURE = "Wise-Ledger-Signature"
_TRIES = 3
_SECONDS = 10.0


@dataclass(frozen=True)
class Post:
    """How messages go out; without `smtp_host` there is no mail, `secret` signs calls, `public_url` is linked to."""

    smtp_host: str = ""
    smtp_port: int = 25
    sender: str = "wise-ledger@localhost"
    secret: str = ""
    public_url: str = "http://127.0.0.1:8600"


def check_target(target: str) -> None:
    """Refuse what is neither `mailto:name@host` nor an http address; raises `BadInput`."""
    address = target.removeprefix("mailto:")
    if target.startswith("mailto:") and address.count("@") == 1 and not set(address) & set(" \r\n,"):
        return
    if target.startswith(("http://", "https://")) and httpx.URL(target).host:
        return
    raise bad_input("notify", target, "nobody can be notified there", "write mailto:name@host or an http address")


def signature(secret: str, body: bytes) -> str:
    """What proves that a call is ours: `sha256=` and the HMAC (RFC 2104) of its body."""
    return "sha256=" + hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()


def tell(ledger: Ledger, post: Post, digest: Digest, targets: tuple[str, ...]) -> list[Delivery]:
    """Send a run's digest to each target, trying a few times; what became of it is kept."""
    out = []
    for target in targets:
        channel, send = ("mail", _mail) if target.startswith("mailto:") else ("call", _call)
        tries, state, reason = 0, "sent", ""
        try:
            for attempt in Retrying(stop=stop_after_attempt(_TRIES), wait=wait_exponential(0.2, max=2)):
                with attempt:
                    tries += 1
                    send(post, target, digest)
        except RetryError as error:
            state, reason = "failed", str(error.last_attempt.exception())
        delivery = Delivery(digest.run, channel, target, state, reason, tries, ledger.now())
        with ledger.database.write() as connection:
            schedulekeeping.add_delivery(connection, delivery)
        out.append(delivery)
    return out


def _link(post: Post, digest: Digest) -> str:
    return f"{post.public_url}/runs/{digest.run}"


def _mail(post: Post, target: str, digest: Digest) -> None:
    if not post.smtp_host:
        raise OSError("no mail server is set: set WISE_LEDGER_SMTP_HOST")
    message = EmailMessage()
    message["From"], message["To"] = post.sender, target.removeprefix("mailto:")
    message["Subject"] = f"Wise Ledger: run {digest.run} of {digest.source} {digest.state.replace('_', ' ')}"
    message.set_content(f"{digests.in_words(digest)}\n\n{_link(post, digest)}\n")
    with smtplib.SMTP(post.smtp_host, post.smtp_port, timeout=_SECONDS) as server:
        server.send_message(message)


def _call(post: Post, target: str, digest: Digest) -> None:
    if not post.secret:
        raise OSError("no secret to sign calls with is set: set WISE_LEDGER_NOTICE_SECRET")
    said = {"event": "run_ended", "run": digest.run, "source": digest.source, "state": digest.state}
    said |= {"counts": digest.content["counts"], "link": _link(post, digest)}
    body = json.dumps(said).encode()
    headers = {"Content-Type": "application/json", SIGNATURE: signature(post.secret, body)}
    httpx.post(target, content=body, headers=headers, timeout=_SECONDS).raise_for_status()
