"""Read the terms to match out of whatever a person has: pasted lines, CSV in several encodings, a spreadsheet."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.work import BadInput
from wise_ledger.work.match import MOST_TERMS, Term

# Heads under which people keep what names a company, the most telling first.
_HEADS = (
    "isin",
    "lei",
    "figi",
    "sedol",
    "cusip",
    "identifier",
    "id",
    "code",
    "symbol",
    "listing",
    "company",
    "name",
    "issuer",
)
_VENUES, _COUNTRIES = ("mic", "venue", "exchange"), ("country", "country code")
_DELIMITERS = ",;\t|"


@dataclass(frozen=True)
class TermFile:
    """The terms of a file in order; `columns` are its heads (none for plain lines), `notes` for the reader."""

    columns: tuple[str, ...]
    column: str | None
    terms: tuple[Term, ...]
    notes: tuple[str, ...]


def read_terms(content: bytes, column: str | None = None) -> TermFile:
    """The terms of a file, of the column named or found; raises `BadInput` for an empty file or a wrong column."""
    notes: list[str] = []
    rows = spreadsheet(content) if content[:4] == b"PK\x03\x04" else _table(decode(content, notes))
    rows = [r for r in rows if any(cell.strip() for cell in r)]
    if not rows:
        raise bad_input("file", f"{len(content)} bytes", "the file is empty", "give one name or identifier a line")
    heads = [cell.strip().lower() for cell in rows[0]]
    has_head = column is not None or (len(set(heads) & {*_HEADS, *_VENUES, *_COUNTRIES}) > 0 and len(rows) > 1)
    columns = tuple(cell.strip() for cell in rows[0]) if has_head else ()
    place = _place(columns, column) if has_head else 0
    venue, country = _first(heads, _VENUES) if has_head else None, _first(heads, _COUNTRIES) if has_head else None
    body = rows[1:] if has_head else rows
    if len(body) > MOST_TERMS:
        raise bad_input("file", f"{len(body)} rows", f"at most {MOST_TERMS} rows are taken at once", "split the file")

    def cell(row: Sequence[str], at: int | None) -> str | None:
        return row[at].strip() or None if at is not None and at < len(row) else None

    terms = tuple(Term(row[place] if place < len(row) else "", cell(row, venue), cell(row, country)) for row in body)
    return TermFile(columns, columns[place] if has_head else None, terms, tuple(notes))


def decode(content: bytes, notes: list[str]) -> str:
    """Text of bytes in UTF-8, UTF-16 or Latin-1, also mixed line by line; what was odd goes to `notes`."""
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return content.decode("utf-16")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        # Mixed encodings: each line is read as what it is.
        line = content[: error.start].count(b"\n") + 1
        notes.append(f"line {line} is not UTF-8: such lines were read as Latin-1")
        return "\n".join(_line(raw) for raw in content.removeprefix(b"\xef\xbb\xbf").splitlines())


def _line(raw: bytes) -> str:
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError:
        return raw.decode("latin-1")


def _table(text: str) -> list[list[str]]:
    """Rows of cells: by a delimiter that every line agrees on, else each line is one cell."""
    lines = [line for line in text.splitlines() if line.strip()]
    head = lines[0].lower() if lines else ""
    for delimiter in _DELIMITERS:
        counts = {line.count(delimiter) for line in lines[:50]}
        named = any(part.strip().strip('"') in _HEADS for part in head.split(delimiter))
        if 0 not in counts and (len(counts) == 1 or delimiter == "\t" or named) and (named or delimiter in "\t;|"):
            csv.field_size_limit(4_000_000)
            return list(csv.reader(io.StringIO(text), delimiter=delimiter))
    return [[line.strip().strip('"')] for line in text.splitlines()]


def spreadsheet(content: bytes) -> list[list[str]]:
    """The cells of a workbook's first sheet as written; raises `BadInput`."""
    import openpyxl

    try:
        book = openpyxl.load_workbook(io.BytesIO(content), read_only=True)
        sheet = book.worksheets[0]
        return [[_written(cell) for cell in row] for row in sheet.iter_rows(values_only=True)]
    except Exception as error:  # what a broken spreadsheet raises has no common root
        raise BadInput(Problem("file", str(error)[:80], "the spreadsheet cannot be read", "save it as CSV")) from None


def _written(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return str(value)


def _place(columns: Sequence[str], column: str | None) -> int:
    lower = [c.lower() for c in columns]
    if column is not None:
        if column.strip().lower() not in lower:
            mend = f"the columns are {', '.join(c or 'empty' for c in columns)}"
            raise bad_input("column", column, "the file has no such column", mend)
        return lower.index(column.strip().lower())
    return _first(lower, _HEADS) or 0


def _first(heads: Sequence[str], wanted: Sequence[str]) -> int | None:
    return next((heads.index(w) for w in wanted if w in heads), None)
