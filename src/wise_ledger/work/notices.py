"""Telling people and programs that a run ended: by mail,
and by a signed call of an address of theirs.
"""

import hashlib
import hmac
import json
import smtplib
import socket
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from email.message import EmailMessage
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_network
from typing import Any

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
    """How messages go out; without `smtp_host` there is no mail, `secret` signs calls,
    `public_url` is linked to.

    Programs are called at `hosts` alone: names, addresses and networks. A name that points to a
    private, loopback or link-local address is called only where that address is among them too.
    """

    smtp_host: str = ""
    smtp_port: int = 25
    sender: str = "wise-ledger@localhost"
    secret: str = ""
    public_url: str = "http://127.0.0.1:8600"
    hosts: tuple[str, ...] = ()

    def check(self, target: str) -> None:
        """Refuse what is neither `mailto:name@host` nor an http address of a
        host that may be called.

        Raises `BadInput`.
        """
        if target.startswith("mailto:"):
            address = target.removeprefix("mailto:")
            whole = address.count("@") == 1 and all(address.split("@"))
            if whole and address.isprintable() and not set(address) & set(" ,;<>"):
                return
        elif target.startswith(("http://", "https://")):
            try:
                url = httpx.URL(target)
                known = url.host and not url.userinfo
            except (httpx.InvalidURL, ValueError, UnicodeError):
                known = False
            if known:
                if not self._named(url.host):
                    mend = "add it to WISE_LEDGER_NOTICE_HOSTS, or name one that is"
                    raise bad_input(
                        "notify", target[:200], f"{url.host} is not a host that may be called", mend
                    )
                return
        raise bad_input(
            "notify",
            target[:200],
            "nobody can be notified there",
            "write mailto:name@host or an http address",
        )

    def place(self, url: httpx.URL) -> str:
        """The address to call for a URL, looked up and looked at now; raises `OSError`."""
        if not self._named(url.host):
            raise OSError("its host is not one that may be called")
        port = url.port or (443 if url.scheme == "https" else 80)
        found = {
            str(entry[4][0])
            for entry in socket.getaddrinfo(url.host, port, type=socket.SOCK_STREAM)
        }
        for address in sorted(found):
            if not (ip_address(address).is_global or self._named(address)):
                raise OSError(
                    "its host has an address of an inner network, which is not named in the settings"
                )
        return sorted(found)[0]

    def _named(self, host: str) -> bool:
        if host.lower() in self.hosts:
            return True
        try:
            own = ip_address(host.strip("[]"))
        except ValueError:
            return False
        return any(own in network for network in _networks(self.hosts))


def _networks(hosts: tuple[str, ...]) -> Iterator[IPv4Network | IPv6Network]:
    for host in hosts:
        with suppress(ValueError):
            yield ip_network(host)


def signature(secret: str, body: bytes) -> str:
    """What proves that a call is ours: `sha256=` and the HMAC (RFC 2104) of its body."""
    return "sha256=" + hmac.new(secret.encode(), body, hashlib.sha256).hexdigest()


def notify(ledger: Ledger, post: Post, digest: Digest, targets: tuple[str, ...]) -> list[Delivery]:
    """Send a run's digest to each target, trying a few times; what became of it is kept."""
    out = []
    for target in targets:
        channel, send = ("mail", _mail) if target.startswith("mailto:") else ("call", _call)
        tries, state, reason = 0, "sent", ""
        try:
            for attempt in Retrying(
                stop=stop_after_attempt(_TRIES), wait=wait_exponential(0.2, max=2)
            ):
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
    message["Subject"] = (
        f"Wise Ledger: run {digest.run} of {digest.source} {digest.state.replace('_', ' ')}"
    )
    message.set_content(f"{digests.in_words(digest)}\n\n{_link(post, digest)}\n")
    with smtplib.SMTP(post.smtp_host, post.smtp_port, timeout=_SECONDS) as server:
        server.send_message(message)


def _call(post: Post, target: str, digest: Digest) -> None:
    if not post.secret:
        raise OSError("no secret to sign calls with is set: set WISE_LEDGER_NOTICE_SECRET")
    message = {
        "event": "run_ended",
        "run": digest.run,
        "source": digest.source,
        "state": digest.state,
    }
    message |= {"counts": digest.content["counts"], "link": _link(post, digest)}
    body = json.dumps(message).encode()
    url = httpx.URL(target)
    place = post.place(url)
    headers = {
        "Content-Type": "application/json",
        SIGNATURE: signature(post.secret, body),
        "Host": url.netloc.decode(),
    }
    # The address that was looked at is the one that is called, whatever its
    # name points to a moment later.
    there = url.copy_with(host=f"[{place}]" if ":" in place else place)
    try:
        how: dict[str, Any] = {
            "content": body,
            "headers": headers,
            "extensions": {"sni_hostname": url.host},
        }
        own = httpx.Client(timeout=_SECONDS, trust_env=False, verify=url.scheme != "http")
        with own as client, client.stream("POST", there, **how) as answer:
            taken = answer.is_success
    except httpx.TransportError:
        raise OSError("it cannot be reached") from None
    if not taken:  # what came back is nobody's business here
        raise OSError("it did not take the notice")
