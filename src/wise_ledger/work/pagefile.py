"""A page as label and value pairs, the instant that a file's name gives,
and a mapping that says what is what.

A mapping for a tree of pages, in YAML:

    captured: "%Y%m%dT%H%M%SZ"       # how the instant stands in the names of files
    time_zone: UTC                   # of names that do not end in Z
    source: kestrel_pages            # under this name the figures are kept
    labels:
      Disclosure score: disclosure_score
      Market value (mn): {item: quoted_value, unit: EUR, scale: 6}
    skip: [Last updated, Contact]    # beginnings of labels that are no figures
"""

import csv
import io
import re
from dataclasses import dataclass, field
from datetime import UTC, datetime
from decimal import Decimal, InvalidOperation
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from lxml import etree, html
from pydantic import Field

from wise_ledger.core.errors import bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.time.instants import end_of_day
from wise_ledger.work.mappingfile import MappingPart, Text, read_mapping, short_for
from wise_ledger.work.termfile import decode

_PARTS = {
    "%Y": r"[0-9]{4}",
    "%m": r"[0-9]{2}",
    "%d": r"[0-9]{2}",
    "%H": r"[0-9]{2}",
    "%M": r"[0-9]{2}",
    "%S": r"[0-9]{2}",
    "%j": r"[0-9]{3}",
}
_NOTHING = {"", "-", "--", "–", "—", "n/a", "na", "none", "nil", "n.a."}
_POWERS = {
    "k": 3,
    "thousand": 3,
    "m": 6,
    "mn": 6,
    "million": 6,
    "bn": 9,
    "billion": 9,
    "tn": 12,
    "trillion": 12,
}
_NUMBER = re.compile(
    r"(?P<money>[A-Z]{3}\s)?(?P<open>\()?(?P<sign>[-−–+])?(?P<digits>[0-9.,'\s\u00a0\u202f]*[0-9])\)?\s*"
    r"(?P<tail>%|x|[A-Za-z]+)?(?P<after>\s[A-Z]{3})?"
)


@dataclass(frozen=True)
class Label:
    """What a label means."""

    item: str
    unit: str | None = None
    scale: int = 0


@dataclass(frozen=True)
class PageShape:
    """What a mapping of pages says."""

    captured: str
    labels: dict[str, Label]
    time_zone: str = "UTC"
    source: str = "files"
    skip: tuple[str, ...] = field(default=())


def read_page_shape(text: str, items: tuple[str, ...]) -> PageShape:
    """A mapping of pages; raises `BadInput` with what is wrong in it.

    `items` are the codes there are.
    """
    shape_given = read_mapping(text, _Pages, "docs/collecting.md")
    if "%Y" not in shape_given.captured or any(
        p not in _PARTS for p in re.findall(r"%.", shape_given.captured)
    ):
        raise bad_input(
            "captured",
            shape_given.captured,
            "this gives no instant",
            f"build it of {' '.join(_PARTS)}",
        )
    try:
        ZoneInfo(shape_given.time_zone)
    except (KeyError, ValueError, OSError):
        mend = "write UTC, or a name of the tz database"
        raise bad_input(
            "time_zone", shape_given.time_zone, "there is no such time zone", mend
        ) from None
    labels = {}
    for label, to in shape_given.labels.items():
        if to.item not in items:
            mend = mend_for(to.item, items)
            raise bad_input(f"labels, {label}", to.item, "there is no such item", mend)
        labels[_plain(label)] = Label(to.item, to.unit, to.scale)
    return PageShape(
        shape_given.captured,
        labels,
        shape_given.time_zone,
        shape_given.source,
        tuple(map(_plain, shape_given.skip)),
    )


class _To(MappingPart):
    item: Text
    unit: Text | None = None
    scale: int = Field(0, ge=-12, le=12)


class _Pages(MappingPart):
    labels: dict[Text, Annotated[_To, short_for("item")]] = Field(min_length=1)
    captured: Text = "%Y-%m-%d"
    time_zone: Text = "UTC"
    source: Text = "files"
    skip: tuple[Text, ...] = ()


def instant_of(name: str, shape: PageShape) -> datetime:
    """The instant of capture in a file's name; a day alone means its end (T2).

    Raises `BadInput`.
    """
    pattern = re.escape(shape.captured)
    for part, digits in _PARTS.items():
        pattern = pattern.replace(re.escape(part), digits)
    found = re.search(rf"(?<![0-9]){pattern}(?![0-9])", name)
    if not found:
        raise bad_input(
            "file name", name, "it gives no instant of capture", f"name it with {shape.captured}"
        )
    try:
        stamp = datetime.strptime(found.group(), shape.captured)  # noqa: DTZ007  # the zone is put beside it below
    except ValueError:
        raise bad_input(
            "file name", name, "there is no such day or time", "rename the file"
        ) from None
    if not {"%H", "%M"} & set(re.findall(r"%.", shape.captured)):
        return end_of_day(stamp.date(), shape.time_zone)
    zone = UTC if shape.captured.endswith("Z") else ZoneInfo(shape.time_zone)
    return stamp.replace(tzinfo=zone).astimezone(UTC)


def read_pairs(content: bytes, name: str) -> list[tuple[str, str]]:
    """The label and value pairs of an HTML or CSV page, in order;
    raises `BadInput` for a page that has none.
    """
    if not content.strip():
        raise bad_input("page", name, "it is empty", "capture it again")
    pairs = (
        _of_csv(content)
        if name.lower().endswith((".csv", ".tsv", ".txt"))
        else _of_html(content, name)
    )
    found = [(label.strip().rstrip(":").strip(), value.strip()) for label, value in pairs]
    found = [(label, value) for label, value in found if label]
    if not found:
        raise bad_input(
            "page",
            name,
            "it has no label and value side by side",
            "look at it: is this the page meant?",
        )
    return found


def number_of(text: str) -> tuple[Decimal, str | None] | None:
    """A figure as pages write it, and its currency if it names one;
    None where the page says that there is none.

    Thousands apart, negatives in parentheses, `%`, `x` and `mn` after it. Raises `BadInput` for
    other text.
    """
    plain = text.strip()
    if plain.lower() in _NOTHING:
        return None
    found = _NUMBER.fullmatch(plain)
    if not found:
        raise bad_input("value", text, "this is no number", "map the label to nothing: skip it")
    digits = re.sub(r"[\s'\u00a0\u202f]", "", found["digits"])
    if re.fullmatch(r"[0-9]{1,3}(,[0-9]{3})+(\.[0-9]+)?|[0-9]+(\.[0-9]+)?", digits):
        digits = digits.replace(",", "")
    else:
        raise bad_input(
            "value", text, "its points and commas can be read in two ways", "write 1,234.5"
        )
    try:
        value = Decimal(digits)
    except InvalidOperation:
        raise bad_input("value", text, "this is no number", "write it with digits") from None
    tail = (found["tail"] or "").lower()
    if tail == "%":
        value = value.scaleb(-2)
    elif tail in _POWERS:
        value = value.scaleb(_POWERS[tail])
    elif tail not in ("", "x"):
        raise bad_input(
            "value", text, f"{found['tail']} after a number means nothing here", "skip the label"
        )
    negative = bool(found["open"]) or found["sign"] in ("-", "−", "–")
    money = (found["money"] or found["after"] or "").strip() or None
    return (-value if negative else value), money


def meaning(label: str, shape: PageShape) -> Label | None:
    """What a label means; None where nobody says."""
    return shape.labels.get(_plain(label))


def skipped(label: str, shape: PageShape) -> bool:
    """Whether the mapping says that a label is no figure."""
    return _plain(label).startswith(shape.skip or ("\0",))


def _plain(label: str) -> str:
    return " ".join(label.replace("\u00a0", " ").split()).rstrip(":").strip().casefold()


def _of_csv(content: bytes) -> list[tuple[str, str]]:
    text = decode(content, [])
    head = text.partition("\n")[0]
    delimiter = max(",;\t", key=head.count)
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=delimiter, strict=True))
    except csv.Error as error:
        raise bad_input("page", text[:40], f"this is no CSV: {error}", "capture it again") from None
    return [(row[0], row[1]) for row in rows if len(row) >= 2]


def _of_html(content: bytes, name: str) -> list[tuple[str, str]]:
    if b"<" not in content:
        raise bad_input(
            "page", name, "this is no HTML", "name it .csv if it is CSV, or capture it again"
        )
    if b"<html" in content[:2000].lower() and b"</html" not in content[-2000:].lower():
        raise bad_input("page", name, "it breaks off before its end", "capture it again")
    try:
        tree = html.document_fromstring(content)
    except (etree.ParserError, ValueError) as error:
        raise bad_input("page", name, f"it cannot be read: {error}", "capture it again") from None
    pairs = []
    for element in tree.iter("tr", "dt", "li"):
        if element.tag == "tr":
            cells = [_text(c) for c in element if c.tag in ("td", "th")]
            if len(cells) >= 2:
                pairs.append((cells[0], cells[1]))
        elif element.tag == "dt":
            value = element.getnext()
            if value is not None and value.tag == "dd":
                pairs.append((_text(element), _text(value)))
        elif ":" in (text := _text(element)):
            label, _, value = text.partition(":")
            pairs.append((label, value))
    return pairs


def _text(element: Any) -> str:
    return " ".join("".join(element.itertext()).split())
