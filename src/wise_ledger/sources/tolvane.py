"""The adapter to Tolvane Filings: a regulator's archive with an Atom feed,
its reports in xBRL-JSON.

Companies are known by their LEI (ISO 17442), so that what the archive has joins what other sources
say of them.
"""

import hashlib
import threading
from collections import defaultdict
from collections.abc import Collection
from dataclasses import dataclass
from datetime import UTC, date, datetime
from urllib.parse import parse_qsl

from lxml import etree

from wise_ledger.core.records.records import (
    AttributeRecord,
    CompanyRecord,
    DocumentRecord,
    IdentifierRecord,
)
from wise_ledger.sources.errors import damaged
from wise_ledger.sources.exactjson import read_json
from wise_ledger.sources.http import OverHttp, SourceHttp, Turns
from wise_ledger.sources.mapping import shipped
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.protocol import CompaniesFound, FilingRecord, FilingsFound
from wise_ledger.sources.xbrljson import MOST_BYTES, read_report
from wise_ledger.sources.xml import read_xml

NAME, TITLE = "tolvane", "Tolvane Filings"
_ATOM = "{http://www.w3.org/2005/Atom}"
_LEI = "urn:iso:std:iso:17442"


@dataclass(frozen=True)
class _Entry:
    id: str
    title: str
    company: str
    lei: str
    published: str
    href: str


class Tolvane(OverHttp):
    """Tolvane Filings at `base_url`; each answer must come within `timeout` seconds."""

    name, title = NAME, TITLE

    def __init__(self, base_url: str, timeout: float, budget: Budget | None = None) -> None:
        self.budget = budget or Budget(Pace())
        self.mapping = shipped(NAME)
        self._http = SourceHttp(TITLE, base_url, {}, timeout, self.budget)
        self._reading = threading.Lock()
        self._entries: dict[str, list[_Entry]] | None = None

    def calls(self, filings: int) -> int:
        """One for each report: the feed has named them all."""
        return filings

    def companies(self, mark: str | None = None) -> CompaniesFound:
        """Every company of the feed; none where the feed is as it was at the mark."""
        entries, tag = self._feed(mark)
        if entries is None:
            return CompaniesFound([], mark, {}, mark)
        self._entries = entries
        found = []
        for lei, of in sorted(entries.items()):
            since = min(date.fromisoformat(e.published[:10]) for e in of)
            named = AttributeRecord("name", of[-1].company, since)
            found.append(
                CompanyRecord(lei, of[-1].company, (named,), (IdentifierRecord("lei", lei, since),))
            )
        return CompaniesFound(found, tag, {lei: len(of) for lei, of in entries.items()}, mark)

    def filings(
        self,
        company: CompanyRecord,
        known: Collection[str],
        mark: str | None = None,
        since: date | None = None,
    ) -> FilingsFound:
        """The reports not known yet, oldest first;
        None where the archive has those of the mark, and no other.
        """
        with self._reading:
            if self._entries is None:
                self._entries = self._feed(None)[0] or {}
        of = self._entries.get(company.key, [])
        newest = _mark(of)
        if mark is not None and mark == newest:
            return FilingsFound(None, mark)
        out = []
        template = next(
            (a.value for a in reversed(company.attributes) if a.name == "template"), None
        )
        for entry in of:
            if _key(entry) in known or (since is not None and entry.published[:10] < str(since)):
                continue
            answer = self._http.get(entry.href, read=_plain, most=MOST_BYTES)
            record = self.read(_key(entry), answer.raw, 12, template)
            out.append(
                FilingRecord(_titled(record.document, entry.title), record.facts, record.unmapped)
            )
        return FilingsFound(out, newest or None)

    def read(self, key: str, raw: bytes, year_end: int, template: str | None) -> FilingRecord:
        """A report's raw bytes, read by the mapping of now;
        the key carries the instant of publication.
        """
        id_, _, instant = key.partition("@")
        where = f"{TITLE} report {id_}"
        if len(raw) > MOST_BYTES:
            raise damaged(
                where, f"{len(raw):,} bytes", f"the report is larger than {MOST_BYTES:,} bytes"
            )
        try:
            published = datetime.fromisoformat(instant).astimezone(UTC)
            body = read_json(raw)
        except (ValueError, RecursionError) as error:
            raise damaged(where, raw[:80], f"the report cannot be read ({error})") from None
        report = read_report(body, where, published, self.mapping, template)
        if len(report.entities) > 1:
            raise damaged(
                where,
                ", ".join(sorted(report.entities)),
                "the report speaks of more than one company",
            )
        document = DocumentRecord(key, id_, "annual_report", "application/json", raw, published)
        return FilingRecord(document, report.facts, report.unmapped)

    def _feed(self, mark: str | None) -> tuple[dict[str, list[_Entry]] | None, str | None]:
        """All entries by LEI, oldest first, and the feed's ETag;
        no entries where it is as it was.
        """
        found: dict[str, list[_Entry]] = defaultdict(list)
        turns, tag = Turns(f"{TITLE} /feed"), None
        href = turns.to("/feed")
        while href:
            path, _, query = href.partition("?")
            answer = self._http.get(
                path, etag=mark if tag is None else None, read=_plain, **dict(parse_qsl(query))
            )
            if answer.unchanged:
                return None, mark
            tag = tag or answer.etag or ""
            entries, after = _page(answer.raw, href)
            href = turns.to(after)
            for entry in entries:
                found[entry.lei].append(entry)
        for of in found.values():
            of.sort(key=lambda e: (e.published, e.id))
        return dict(found), tag or None


def _plain(raw: bytes) -> bytes:
    return raw


def _key(entry: _Entry) -> str:
    return f"{entry.id}@{entry.published}"


def _mark(of: list[_Entry]) -> str:
    """A mark of all entries: one that comes late may bear an earlier date than the last."""
    return hashlib.sha256("\n".join(sorted(map(_key, of))).encode()).hexdigest() if of else ""


def _titled(document: DocumentRecord, title: str) -> DocumentRecord:
    return DocumentRecord(
        document.key,
        title,
        document.kind,
        document.media_type,
        document.content,
        document.published_at,
    )


def _page(raw: bytes, href: str) -> tuple[list[_Entry], str]:
    """The entries of a page of the feed, and where the next one is."""
    where = f"{TITLE} {href}"
    root = read_xml(raw, where, "feed")
    if root.tag != f"{_ATOM}feed":
        raise damaged(where, root.tag, "this is no Atom feed")
    entries = [_entry(element, where) for element in root.iter(f"{_ATOM}entry")]
    after = next(
        (x.get("href", "") for x in root.findall(f"{_ATOM}link") if x.get("rel") == "next"), ""
    )
    return entries, after


def _entry(element: etree._Element, where: str) -> _Entry:
    def text(path: str) -> str:
        return (element.findtext(path, namespaces={"a": _ATOM.strip("{}")}) or "").strip()

    id_ = text("a:id").rpartition(":")[2]
    lei = next(
        (x.get("term", "") for x in element.findall(f"{_ATOM}category") if x.get("scheme") == _LEI),
        "",
    )
    href = next(
        (x.get("href", "") for x in element.findall(f"{_ATOM}link") if x.get("rel") == "enclosure"),
        "",
    )
    entry = _Entry(id_, text("a:title"), text("a:author/a:name"), lei, text("a:published"), href)
    if not (id_ and lei and href and entry.company):
        raise damaged(
            where,
            id_ or etree.tostring(element)[:80],
            "an entry lacks its id, company, LEI or link",
        )
    try:
        datetime.fromisoformat(entry.published)
    except ValueError:
        raise damaged(
            where, entry.published, f"the entry {id_} has no instant of publication"
        ) from None
    return entry
