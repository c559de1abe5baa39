"""Read the terms to match out of whatever a person has: pasted lines,
CSV in several encodings, a spreadsheet.
"""

import csv
import io
import re
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.words import counted
from wise_ledger.work import BadInput
from wise_ledger.work.celltext import cell_text
from wise_ledger.work.match import MOST_TERMS, Term

# Heads under which people keep what names a company, the clearest first.
_HEADS = (
    "isin", "isin code", "lei", "figi", "sedol", "cusip", "identifier", "id", "code", "symbol", "ticker", "listing",
    "company", "company name", "name", "issuer", "issuer name", "security", "security name", "firm", "stock",
    "instrument", "holding", "constituent", "entity", "entity name", "title", "term",
)  # fmt: skip
_VENUES = ("mic", "venue", "exchange", "market")
_COUNTRIES = ("country", "country code", "domicile")
_DELIMITERS = ",;\t|"
_CODE = re.compile(r"[-+]?[0-9.,]+%?|[A-Z0-9]{1,12}|")  # a number, a code or nothing
MOST_UNPACKED = 100 << 20  # bytes of a spreadsheet
_MOST_CELLS = 2_000_000
# What files begin with that are no text, and are taken for one.
_NO_TEXT = {
    b"\x1f\x8b": ("it is packed (gzip)", "unpack it first"),
    b"BZh91AY&SY": ("it is packed (bzip2)", "unpack it first"),
    b"\xfd7zXZ\x00": ("it is packed (xz)", "unpack it first"),
    b"\x28\xb5\x2f\xfd": ("it is packed (Zstandard)", "unpack it first"),
    b"7z\xbc\xaf\x27\x1c": ("it is packed (7z)", "unpack it first"),
    b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1": ("it is an old workbook", "save it as XLSX or CSV"),
    b"%PDF-": ("it is a PDF", "copy its table into a CSV file or a workbook"),
}
_LOOKED_AT = 50  # lines that a delimiter is found by
_AGREE = 0.9  # of them must have as many cells as most have


@dataclass(frozen=True)
class TermFile:
    """The terms of a file in order; `columns` are its heads (none for plain
    lines), `notes` for the reader.
    """

    columns: tuple[str, ...]
    column: str | None
    terms: tuple[Term, ...]
    notes: tuple[str, ...]


def read_terms(content: bytes, column: str | None = None) -> TermFile:
    """The terms of a file, of the column named or found;
    raises `BadInput` for an empty file or a wrong column.
    """
    notes: list[str] = []
    rows = (
        spreadsheet(content)
        if content[:4] == b"PK\x03\x04"
        else _table(decode(content, notes), column)
    )
    rows = [r for r in rows if any(cell.strip() for cell in r)]
    if not rows:
        raise bad_input(
            "file",
            f"{len(content)} bytes",
            "the file is empty",
            "give one name or identifier a line",
        )
    heads = [_head(cell) for cell in rows[0]]
    has_head = column is not None or (
        len(set(heads) & {*_HEADS, *_VENUES, *_COUNTRIES}) > 0 and len(rows) > 1
    )
    columns = tuple(cell.strip() for cell in rows[0]) if has_head else ()
    place = _place(columns, column) if has_head else 0
    venue, country = (
        _first(heads, _VENUES) if has_head else None,
        _first(heads, _COUNTRIES) if has_head else None,
    )
    body = rows[1:] if has_head else rows
    if len(body) > MOST_TERMS:
        raise bad_input(
            "file",
            counted(len(body), "row"),
            f"at most {MOST_TERMS} rows are taken at once",
            "split the file",
        )

    def cell(row: Sequence[str], at: int | None) -> str | None:
        return row[at].strip() or None if at is not None and at < len(row) else None

    terms = tuple(
        Term(row[place] if place < len(row) else "", cell(row, venue), cell(row, country))
        for row in body
    )
    if has_head and len(columns) > 1:
        notes.append(
            f"read the column {columns[place]}, one of {len(columns)}: {', '.join(c or '?' for c in columns)}"
        )
    elif not has_head:
        several = max(len(r) for r in rows)
        beside = (
            f"; there are {several} columns without a head: name one by --column"
            if several > 1
            else ""
        )
        notes.append(f"read every line as a term, no head was found{beside}")
    return TermFile(columns, columns[place] if has_head else None, terms, tuple(notes))


def decode(content: bytes, notes: list[str]) -> str:
    """Text of bytes in UTF-8, UTF-16 or Latin-1, also mixed line by line;
    what was odd goes to `notes`. Raises `BadInput` for what begins as a known kind of file that is
    no text.
    """
    for begins, (problem, mend) in _NO_TEXT.items():
        if content.startswith(begins):
            raise bad_input("file", f"{len(content):,} bytes", problem, mend)
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return content.decode("utf-16", "replace")
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


def _head(cell: str) -> str:
    """A head in one spelling."""
    return " ".join(cell.replace("_", " ").replace("-", " ").replace(".", " ").lower().split())


def _table(text: str, column: str | None) -> list[list[str]]:
    """Rows of cells by the delimiter that the rows agree on, else each line is one cell.

    A comma may be part of a name: it counts only below a head that is known, or that has the column
    asked for, or where all that follows it are numbers and codes.
    """
    csv.field_size_limit(4_000_000)
    best: tuple[int, list[list[str]]] | None = None
    for delimiter in _DELIMITERS:
        try:
            read = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
            rows = [r for r in read if any(c.strip() for c in r)]
        except csv.Error:  # no table by this delimiter
            continue
        if not rows or len(rows[0]) < 2:
            continue
        some = rows[:_LOOKED_AT]
        agree = sum(len(r) == len(rows[0]) for r in some) >= _AGREE * len(some)
        heads = [_head(cell) for cell in rows[0]]
        asked = column is not None and _head(column) in heads
        named = asked or len(set(heads) & {*_HEADS, *_VENUES, *_COUNTRIES}) > 0
        if asked or (agree and (named or delimiter in "\t;|" or _plain_beside(some))):
            score = 4 * asked + 2 * named + agree
            if best is None or score > best[0]:
                best = (score, rows)
    return best[1] if best else [[line.strip().strip('"')] for line in text.splitlines()]


def _plain_beside(rows: Sequence[Sequence[str]]) -> bool:
    """Whether every cell after the first is a number or a short code in most
    rows: no part of a name.
    """
    beside = [cell.strip() for row in rows for cell in row[1:]]
    plain = sum(_CODE.fullmatch(cell) is not None for cell in beside)
    return len(rows) > 1 and plain >= _AGREE * len(beside) - 1


def spreadsheet(content: bytes) -> list[list[str]]:
    """The cells of a workbook's first sheet as written; raises `BadInput`."""
    import openpyxl

    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            unpacked = sum(entry.file_size for entry in packed.infolist())
        if unpacked > MOST_UNPACKED:
            problem = (
                f"unpacked it has {unpacked >> 20:,} MB, and at most {MOST_UNPACKED >> 20} are read"
            )
            raise bad_input("file", f"{len(content):,} bytes", problem, "save it as CSV")
        book = openpyxl.load_workbook(io.BytesIO(content), read_only=True)
        sheet = book.worksheets[0]
        out, cells = [], 0
        for row in sheet.iter_rows(values_only=True):
            cells += len(row)
            if cells > _MOST_CELLS:
                raise bad_input(
                    "file",
                    f"{cells:,} cells",
                    f"at most {_MOST_CELLS:,} are read",
                    "save it as CSV",
                )
            out.append([cell_text(cell) for cell in row])
        return out
    except BadInput:
        raise
    except Exception as error:  # what a broken spreadsheet raises has no common root
        raise BadInput(
            Problem("file", str(error)[:80], "the spreadsheet cannot be read", "save it as CSV")
        ) from None


def _place(columns: Sequence[str], column: str | None) -> int:
    lower = [_head(c) for c in columns]
    if column is not None:
        if _head(column) not in lower:
            mend = f"the columns are {', '.join(c or 'empty' for c in columns)}"
            raise bad_input("column", column, "the file has no such column", mend)
        return lower.index(_head(column))
    return _first(lower, _HEADS) or 0


def _first(heads: Sequence[str], wanted: Sequence[str]) -> int | None:
    return next((heads.index(w) for w in wanted if w in heads), None)
