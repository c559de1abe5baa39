"""Load companies, identifiers, listings, list members, facts, rates and splits from files:
one batch or none.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any

from wise_ledger.core.catalogue.items import ALL_TEMPLATES
from wise_ledger.core.errors import BadInput, bad_input
from wise_ledger.core.fiscal.calendar import year_end_month
from wise_ledger.core.identity.schemes import CHECKED, read_identifier
from wise_ledger.core.identity.universe import FOREVER, Stretch
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records import fields as types
from wise_ledger.core.records import kinds
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.core.records.recordkind import RecordKind
from wise_ledger.core.records.records import (
    AttributeRecord,
    IdentifierRecord,
    ListingRecord,
    ListRecord,
    MemberRecord,
    ReceiptRatioRecord,
    SecurityRecord,
)
from wise_ledger.core.time.instants import read_date
from wise_ledger.core.time.periods import day
from wise_ledger.engine.identity import ANY_TYPE
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.batch import BatchWriter
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import NotFound, lists
from wise_ledger.work.columnfile import FileColumns
from wise_ledger.work.kept import check_name
from wise_ledger.work.loadcolumns import load_columns
from wise_ledger.work.loadfacts import COLUMNS as FACT_COLUMNS
from wise_ledger.work.loadfacts import load_facts, observation_lines
from wise_ledger.work.loading import FILES, BadRow, Loaded
from wise_ledger.work.loadkinds import LOADED, load_kind
from wise_ledger.work.loadseries import sdmx_columns, wide_columns
from wise_ledger.work.marketquality import quarantined_of
from wise_ledger.work.reshape import read_shape, reshape
from wise_ledger.work.tablefile import Line, read_table
from wise_ledger.work.templates import COLUMNS

ALWAYS = date(1900, 1, 1)


@dataclass
class _Writing:
    """What the writers of rows share."""

    batch: BatchWriter
    source: int
    snapshot: Snapshot
    new: dict[str, int] = field(default_factory=dict)
    members: dict[str, list[MemberRecord]] = field(default_factory=dict)

    def company(self, text: str) -> int:
        """A company that is known, or came earlier in this file."""
        return self.new[text] if text in self.new else self.snapshot.number(text)


# what a row of a company may say, beside whether it is active
_SAID = (
    "name", "country", "industry", "currency", "template", "fiscal_year_end", "fiscal_year_named_by",
)  # fmt: skip
_CODED = {"industry", "fiscal_year_end"}
# kinds whose rows are looked at beside their neighbours
_JUDGED = frozenset({"prices", "levels", "rates"})


def load_file(
    ledger: Ledger,
    snapshots: Snapshots,
    kind: str,
    content: bytes,
    *,
    accept_good: bool = False,
    shape: str | None = None,
    name: str = "a file",
) -> Loaded:
    """Load a file of a kind; with a bad row nothing is written,
    unless `accept_good` takes the others.

    `shape` is a mapping file (YAML) for facts in a table of another shape.
    """
    if kind not in COLUMNS:
        raise bad_input("kind", kind, "files of this kind are not loaded", mend_for(kind, COLUMNS))
    if shape is not None and kind not in ("facts", "series"):
        problem = "only facts and series are loaded from tables of other shapes"
        raise bad_input("mapping", kind, problem, "leave the mapping out")
    if kind == "facts":
        known = snapshots.at().view.items
        lines, strange = (
            reshape(content, read_shape(shape, known), known)
            if shape
            else (read_table(content, FACT_COLUMNS), [])
        )
        return load_facts(
            ledger,
            snapshots,
            lines,
            content,
            name=name,
            bad_before=strange,
            accept_good=accept_good,
        )
    if kind in COLUMN_KINDS:
        given: bytes | FileColumns = content
        if kind == "series" and shape is not None:
            given = wide_columns(content, shape)
        elif kind == "series" and content.lstrip(b"\xef\xbb\xbf").startswith(
            (b"DATAFLOW,", b"STRUCTURE,")
        ):
            given = sdmx_columns(content)
        found = load_columns(ledger, snapshots, COLUMN_KINDS[kind], given, accept_good=accept_good)
        return _judged(ledger, snapshots, found)
    lines = read_table(content, COLUMNS[kind].split())
    if kind in LOADED:
        return _judged(
            ledger,
            snapshots,
            load_kind(ledger, snapshots, LOADED[kind], lines, accept_good=accept_good),
        )
    snapshot = snapshots.at()
    if kind == "observations":
        lines, strange = observation_lines(lines, snapshot.view.items)
        found = load_facts(
            ledger,
            snapshots,
            lines,
            content,
            name=name,
            bad_before=strange,
            accept_good=accept_good,
        )
        return replace(found, kind=kind)
    bad: list[BadRow] = []
    good: list[Line] = []
    spans: dict[tuple[str, str], list[tuple[Stretch, str]]] = {}
    news = {line.cells.get("company", "") for line in lines} if kind == "companies" else set()
    kept = {entry.name: entry for entry in lists.all_lists(ledger)} if kind == "members" else {}
    for line in lines:
        for name in _CODED & line.cells.keys():  # as a frame has a number beside missing ones
            line.cells[name] = line.cells[name].removesuffix(".0")
        try:
            _check_keeper(kept.get(line.cells.get("list", "")))
            _check(kind, line, snapshot, spans, news)
            if kind == "members" and line.cells["list"] not in kept:
                check_name(line.cells["list"], "list", "steady-earners", at="list")
            _check_records(kind, line.cells, ledger.now())
            good.append(line)
        except BadInput as error:
            bad.append(BadRow.of(line.number, error.problems[0], line.cells))
        except NotFound as error:
            problem = replace(error.problems[0], at="company")
            bad.append(BadRow.of(line.number, problem, line.cells))
    if not good or (bad and not accept_good):
        return Loaded(kind, 0, None, tuple(bad))
    before = ledger.last_batch()
    with ledger.batch("load", f"{len(good)} {kind} from a file") as batch:
        writing = _Writing(batch, batch.source(*FILES), snapshot)
        for line in good:
            _WRITERS[kind](writing, line.cells)
        numbers = {snapshot.ids[n]: n for n in range(len(snapshot.ids))}
        for name, members in writing.members.items():
            batch.add_list(writing.source, ListRecord(name, name, tuple(members)), numbers)
    last = ledger.last_batch()
    return Loaded(kind, len(good), last if last > before else None, tuple(bad))


def _judged(ledger: Ledger, snapshots: Snapshots, found: Loaded) -> Loaded:
    """With how many of the rows cannot be (Q2)."""
    if found.batch is None or found.kind not in _JUDGED:
        return found
    return replace(found, quarantined=quarantined_of(ledger, snapshots, found.batch))


def _check_keeper(info: lists.ListInfo | None) -> None:
    if info is not None and (info.rule or info.kept_by):
        by = info.kept_by or "a rule"
        raise bad_input("list", info.name, f"this list is kept by {by}", "name another list")


def _need(line: Line, *names: str) -> None:
    for name in names:
        if name not in line.cells:
            raise bad_input(name, "", "the cell is empty", "every row needs it")


def _dates(line: Line) -> Stretch:
    since = (
        read_date(line.cells["valid_from"], "valid_from") if "valid_from" in line.cells else ALWAYS
    )
    until = read_date(line.cells["valid_to"], "valid_to") if "valid_to" in line.cells else None
    if until is not None and until < since:
        raise bad_input(
            "valid_to",
            until,
            "it ends before it begins",
            "both dates are included: swap or mend them",
        )
    return Stretch(day(since), FOREVER if until is None else day(until))


def _no_overlap(
    spans: dict[tuple[str, str], list[tuple[Stretch, str]]],
    what: tuple[str, str],
    span: Stretch,
    owner: str,
) -> None:
    for other, whose in spans.setdefault(what, []):
        if whose != owner and span.since <= other.until and other.since <= span.until:
            mend = "end the one before the other begins"
            raise bad_input("valid_from", what[1], f"it names {whose} in these days too", mend)
    spans[what].append((span, owner))


def _shape(line: Line, name: str, fits: Callable[[str], bool], mend: str) -> None:
    if name in line.cells and not fits(line.cells[name]):
        raise bad_input(name, line.cells[name], f"this is no {name.replace('_', ' ')}", mend)


def _check(
    kind: str,
    line: Line,
    snapshot: Snapshot,
    spans: dict[tuple[str, str], list[tuple[Stretch, str]]],
    news: set[str],
) -> None:
    """Refuse a row with the column, the value, the problem and the mend."""
    cells = line.cells
    _need(
        line,
        *{
            "identifiers": ("company", "scheme", "value"),
            "listings": ("company", "symbol", "mic", "currency"),
            "members": ("list", "company"),
            "companies": ("company",),
        }[kind],
    )
    span = _dates(line)
    if kind == "companies":
        _check_company(line, snapshot)
        return
    number = snapshot.number(cells["company"])
    owner = snapshot.universe.name(number, FOREVER - 1) or cells["company"]
    if kind == "identifiers":
        scheme = cells["scheme"].lower()
        if scheme in CHECKED:
            reading = read_identifier(f"{scheme}:{cells['value']}")
            if reading is not None and reading.problem:
                raise bad_input(
                    "value", cells["value"], reading.problem, "check it against where it came from"
                )
        known = snapshot.universe.by_value.get((scheme, cells["value"]), [])
        for other in known:
            name = snapshot.universe.name(other.company, FOREVER - 1) or snapshot.ids[other.company]
            spans.setdefault((scheme, cells["value"]), []).append((other.span, name))
        _no_overlap(spans, (scheme, cells["value"]), span, owner)
    elif kind == "listings":
        _shape(
            line,
            "mic",
            lambda v: len(v) == 4 and v.isupper(),
            "write the four capitals of ISO 10383",
        )
        _shape(
            line,
            "currency",
            lambda v: len(v) == 3 and v.isupper(),
            "write the three capitals of ISO 4217",
        )
        _shape(
            line, "security_type", lambda v: v in ANY_TYPE, f"write {', '.join(sorted(ANY_TYPE))}"
        )
        _shape(
            line,
            "primary",
            lambda v: v.lower() in ("yes", "no", "true", "false", "1", "0"),
            "write yes or no",
        )
        _no_overlap(spans, (cells["mic"], cells["symbol"].upper()), span, owner)


def _check_company(line: Line, snapshot: Snapshot) -> None:
    _shape(
        line, "country", lambda v: len(v) == 2 and v.isupper(), "write the two capitals of ISO 3166"
    )
    _shape(
        line,
        "currency",
        lambda v: len(v) == 3 and v.isupper(),
        "write the three capitals of ISO 4217",
    )
    _shape(
        line, "template", lambda v: v in ALL_TEMPLATES, f"write {', '.join(sorted(ALL_TEMPLATES))}"
    )
    _shape(
        line,
        "fiscal_year_end",
        lambda v: year_end_month(v) is not None,
        "write the month, 1 to 12",
    )
    _shape(line, "fiscal_year_named_by", lambda v: v in ("start", "end"), "write start or end")
    _shape(line, "status", lambda v: v in ("active", "inactive"), "write active or inactive")
    reading = read_identifier(line.cells["company"])
    if reading is not None and reading.problem:
        raise bad_input(
            "company", line.cells["company"], reading.problem, "check it against where it came from"
        )
    if line.cells.get("status") == "inactive":
        _need(line, "status_date")
        read_date(line.cells["status_date"], "status_date")
    into = line.cells.get("status_cause", "").partition("merged into ")[2].strip()
    if into and into.casefold() in (
        line.cells["company"].casefold(),
        line.cells.get("name", "").casefold(),
    ):
        raise bad_input(
            "status_cause",
            into,
            "a company cannot be merged into itself",
            "name the company that took it",
        )
    try:
        snapshot.number(line.cells["company"])
    except NotFound:
        _need(line, "name")  # a new company


def _span(cells: Mapping[str, str]) -> tuple[date, date | None]:
    since = read_date(cells["valid_from"], "valid_from") if "valid_from" in cells else ALWAYS
    return since, read_date(cells["valid_to"], "valid_to") if "valid_to" in cells else None


def _own_key(text: str) -> tuple[str, str]:
    """The scheme and value by which a company is known from a file on."""
    reading = read_identifier(text)
    return (reading.scheme, reading.value) if reading else (FILES[0], text)


def _attributes(cells: Mapping[str, str]) -> list[AttributeRecord]:
    """What a row says of a company."""
    since, _ = _span(cells)
    records = [AttributeRecord(name, cells[name], since) for name in _SAID if name in cells]
    if cells.get("status") == "active":
        records.append(AttributeRecord("active", "yes", since))
    elif "status" in cells:
        ended = read_date(cells["status_date"], "status_date")
        records.append(AttributeRecord("active", "yes", since))
        records.append(AttributeRecord("active", "no", ended))
        records.append(AttributeRecord("end_cause", cells.get("status_cause", "not given"), ended))
    return records


def _identifier(cells: Mapping[str, str]) -> IdentifierRecord:
    scheme = cells["scheme"].lower()
    reading = read_identifier(f"{scheme}:{cells['value']}") if scheme in CHECKED else None
    return IdentifierRecord(scheme, reading.value if reading else cells["value"], *_span(cells))


def _listing(cells: Mapping[str, str]) -> ListingRecord:
    primary = cells.get("primary", "yes").lower() in ("yes", "true", "1")
    return ListingRecord(cells["symbol"], cells["mic"], cells["currency"], *_span(cells), primary)


def _receipt(cells: Mapping[str, str]) -> ReceiptRatioRecord | None:
    if "receipt_ratio" not in cells:
        return None
    return ReceiptRatioRecord(
        _span(cells)[0], types.POSITIVE.read(cells["receipt_ratio"], "receipt_ratio")
    )


def _member(cells: Mapping[str, str], company: str) -> MemberRecord:
    weight = types.NUMBER.read(cells["weight"], "weight") if "weight" in cells else None
    return MemberRecord(company, *_span(cells), weight)


def _records(kind: str, cells: Mapping[str, str]) -> Iterator[tuple[RecordKind, Any]]:
    """What a row becomes, to be looked at as whatever is kept is."""
    if kind == "companies":
        yield from ((kinds.ATTRIBUTES, record) for record in _attributes(cells))
        yield kinds.IDENTIFIERS, IdentifierRecord(*_own_key(cells["company"]), _span(cells)[0])
    elif kind == "identifiers":
        yield kinds.IDENTIFIERS, _identifier(cells)
    elif kind == "listings":
        yield kinds.LISTINGS, _listing(cells)
        if (ratio := _receipt(cells)) is not None:
            yield kinds.RECEIPT_RATIOS, ratio
    else:
        yield kinds.MEMBERS, _member(cells, "")


_HEADS = {
    "ratio": "receipt_ratio",
    "from": "valid_from",
    "to": "valid_to",
    "end_cause": "status_cause",
}


def _check_records(kind: str, cells: Mapping[str, str], now: datetime) -> None:
    """Refuse what the ledger would not keep, with the column of the file."""
    for of, record in _records(kind, cells):
        for problem in of.problems(record, now):
            at = problem.at.rpartition(", ")[2]  # beside the attribute that it is the day of
            if of is kinds.IDENTIFIERS and at not in COLUMNS[kind].split():
                at = "company" if kind == "companies" else "value"  # it is called by its scheme
            raise BadInput(replace(problem, at=_HEADS.get(at, at)))
    if "security" in cells and (wrong := next(types.of_text("security", cells["security"]), None)):
        raise BadInput(wrong)


def _write_company(writing: _Writing, cells: dict[str, str]) -> None:
    text = cells["company"]
    try:
        number = writing.company(text)
    except NotFound:
        number = writing.batch.company(writing.source, *_own_key(text), day(_span(cells)[0]))
        writing.new[text] = number
        if "status" not in cells:
            cells = {**cells, "status": "active"}
    writing.batch.add_attributes(number, writing.source, _attributes(cells))


def _write_identifier(writing: _Writing, cells: dict[str, str]) -> None:
    number = writing.company(cells["company"])
    writing.batch.add_identifiers(number, writing.source, [_identifier(cells)])


def _write_listing(writing: _Writing, cells: dict[str, str]) -> None:
    number = writing.company(cells["company"])
    kind = cells.get("security_type", "ordinary")
    key = cells.get("security", f"{writing.snapshot.ids[number]}-{kind}")
    listing, receipt = _listing(cells), _receipt(cells)
    ratio = None if receipt is None else receipt.ratio
    title = kind.replace("_", " ").capitalize()
    record = SecurityRecord(key, kind, title, ratio, (listing,), ratio_from=listing.valid_from)
    writing.batch.add_securities(number, writing.source, [record])


def _write_member(writing: _Writing, cells: dict[str, str]) -> None:
    number = writing.company(cells["company"])
    record = _member(cells, writing.snapshot.ids[number])
    writing.members.setdefault(cells["list"], []).append(record)


_WRITERS: dict[str, Callable[[_Writing, dict[str, str]], None]] = {
    "companies": _write_company,
    "identifiers": _write_identifier,
    "listings": _write_listing,
    "members": _write_member,
}
