"""The adapter to any service that speaks SDMX REST (version 1.5, SDMX 2.1):
structures as SDMX-ML, data as SDMX-CSV.

A series is a flow and the codes of its dimensions, `HOUSE_PRICES/M.R01.SA`; its title is made of
their names. The instant of a release is the attribute `VALID_FROM` of an observation, or another of
`RELEASED`; where a service has none, it is assumed (T4).
"""

import io
import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import quote

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pc_csv
from lxml import etree

from wise_ledger.core.errors import BadInput
from wise_ledger.core.records.columns import UNSAID
from wise_ledger.core.series.keys import key_problem
from wise_ledger.core.series.periods import code_of, read_period
from wise_ledger.core.time.instants import as_instant, micros, read_cutoff
from wise_ledger.sources.errors import damaged
from wise_ledger.sources.http import MOST_OF_A_FILE, OverHttp, SourceHttp
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.nofilings import NoFilings
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.protocol import CompaniesFound
from wise_ledger.sources.series import ObservationsFound, SeriesFound
from wise_ledger.sources.xml import read_xml

RELEASED = ("VALID_FROM", "RELEASED_AT", "OBS_VALID_FROM", "PUBLISHED_AT")
_AREA, _ADJUSTMENT = (
    ("REF_AREA", "AREA", "REGION", "GEO"),
    ("ADJUSTMENT", "SEASONAL_ADJUST", "S_ADJUST"),
)
_STRUCTURE, _CSV = (
    "application/vnd.sdmx.structure+xml;version=2.1",
    "application/vnd.sdmx.data+csv;version=1.0.0",
)
_NOT_A_KEY = ("TIME_PERIOD",)
_NOT_CODES = ("DATAFLOW", "STRUCTURE", "STRUCTURE_ID", "ACTION")
_UNITS = {"INDEX": "index", "PERCENT": "percent", "PERSONS": "persons", "BALANCE": "balance"}


@dataclass(frozen=True)
class _Flow:
    id: str
    agency: str
    version: str
    title: str
    note: str
    structure: tuple[str, str, str]  # agency, id, version
    dimensions: tuple["_Dimension", ...] = ()
    subject: str = ""


@dataclass(frozen=True)
class _Dimension:
    id: str
    title: str
    codes: dict[str, str] = field(default_factory=dict)


class Sdmx(NoFilings, OverHttp):
    """The SDMX service at `base_url`, known here by `name`;
    each answer must come within `timeout` seconds.
    """

    has_no = ("statements", "identifiers")

    def __init__(
        self, name: str, title: str, base_url: str, timeout: float, budget: Budget | None = None
    ) -> None:
        self.name, self.title = name, title
        self.budget = budget or Budget(Pace())
        self.mapping = TagMapping()
        self._http = SourceHttp(title, base_url, {}, timeout, self.budget)

    def calls(self, filings: int) -> int:
        """None: it has no filings."""
        return 0

    def companies(self, mark: str | None = None) -> CompaniesFound:
        """None: its data are of economies."""
        return CompaniesFound([], None, {})

    def series(self, mark: str | None = None) -> SeriesFound:
        """Every series with what was released since a mark: all vintages,
        where the service keeps them.
        """
        since: dict[str, str] = json.loads(mark) if mark else {}
        after = dict(since)
        described: dict[str, dict[str, str]] = {}
        observations = []
        for flow in self._flows():
            path = f"/rest/data/{quote(flow.agency, '')},{quote(flow.id, '')},{quote(flow.version, '')}/all"
            how = {"includeHistory": "true"} | (
                {"updatedAfter": since[flow.id]} if flow.id in since else {}
            )
            answer = self._http.get(
                path, read=_plain, accept=_CSV, absent=404, most=MOST_OF_A_FILE, **how
            )
            if not answer.raw:
                continue
            found, units = self._read(f"{self.title} {path}", flow, answer.raw)
            observations.append(found)
            described |= {k: _described(flow, k, u) for k, u in zip(found.keys, units, strict=True)}
            given = found.released_at[found.released_at != UNSAID]
            if len(given):
                newest = as_instant(int(given.max()))
                after[flow.id] = max(after.get(flow.id, ""), newest.strftime("%Y-%m-%dT%H:%M:%SZ"))
        return SeriesFound(described, tuple(observations), json.dumps(after))

    # ---- structures

    def _flows(self) -> Iterator[_Flow]:
        """Every flow of data with its dimensions, in the order of the service."""
        root = self._structure("/rest/dataflow/all/all/latest")
        subjects = self._subjects()
        for element in root.iter("{*}Dataflow"):
            of = element.find("{*}Structure/{*}Ref")
            if of is None:
                of = element.find("{*}Structure/Ref")
            id_, agency = element.get("id", ""), element.get("agencyID", "")
            if of is None or not id_:
                raise damaged(
                    f"{self.title} dataflow", id_ or "without id", "the flow names no structure"
                )
            structure = of.get("agencyID", agency), of.get("id", ""), of.get("version", "latest")
            version = element.get("version", "latest")
            flow = _Flow(
                id_,
                agency,
                version,
                _text(element, "Name"),
                _text(element, "Description"),
                structure,
            )
            dimensions = self._dimensions(flow)
            yield _Flow(
                **{**flow.__dict__, "dimensions": dimensions, "subject": subjects.get(id_, "")}
            )

    def _dimensions(self, flow: _Flow) -> tuple[_Dimension, ...]:
        path = "/rest/datastructure/" + "/".join(flow.structure)
        root = self._structure(path, references="children")
        lists: dict[str, tuple[str, dict[str, str]]] = {}
        for codes in root.iter("{*}Codelist"):
            names = {c.get("id", ""): _text(c, "Name") for c in codes.iter("{*}Code")}
            lists[codes.get("id", "")] = _text(codes, "Name"), names
        found = []
        for element in root.iter("{*}Dimension"):
            place = int(element.get("position", len(found) + 1))
            named = next(
                (
                    r.get("id", "")
                    for r in element.iter("{*}Ref", "Ref")
                    if r.get("class") == "Codelist"
                ),
                "",
            )
            title, names = lists.get(named, (element.get("id", ""), {}))
            found.append((place, _Dimension(element.get("id", ""), title, names)))
        if not found:
            raise damaged(f"{self.title} {path}", flow.id, "the structure has no dimensions")
        return tuple(dimension for _, dimension in sorted(found, key=lambda f: f[0]))

    def _subjects(self) -> dict[str, str]:
        """By flow the subject it belongs to, where the service has a scheme of categories."""
        answer = self._http.get(
            "/rest/categoryscheme/all/all/latest", read=_plain, accept=_STRUCTURE, absent=404,
            references="parentsandsiblings",
        )  # fmt: skip
        if not answer.raw:
            return {}
        root = self._parsed("categoryscheme", answer.raw)
        names = {c.get("id", ""): _text(c, "Name") for c in root.iter("{*}Category")}
        out = {}
        for element in root.iter("{*}Categorisation"):
            refs = {r.get("class"): r.get("id", "") for r in element.iter("{*}Ref", "Ref")}
            out[refs.get("Dataflow", "")] = names.get(refs.get("Category", ""), "")
        return out

    def _structure(self, path: str, **params: str) -> Any:
        answer = self._http.get(path, read=_plain, accept=_STRUCTURE, **params)
        return self._parsed(path, answer.raw)

    def _parsed(self, path: str, raw: bytes) -> Any:
        where = f"{self.title} {path}"
        root = read_xml(raw, where, "message")
        if etree.QName(root).localname == "Error":
            words = " ".join(t.text or "" for t in root.iter("{*}Text"))
            raise damaged(where, words[:200], "the service answers with an error")
        if etree.QName(root).localname != "Structure":
            raise damaged(where, etree.QName(root).localname, "this is no message of structures")
        return root

    # ---- data

    def _read(self, where: str, flow: _Flow, raw: bytes) -> tuple[ObservationsFound, list[str]]:
        """The observations of a flow, and the unit of each series."""
        table = _csv(where, raw)
        names = [d.id for d in flow.dimensions if d.id not in _NOT_A_KEY]
        if lacks := next(
            (n for n in (*names, "TIME_PERIOD", "OBS_VALUE") if n not in table.column_names), None
        ):
            raise damaged(
                where, ", ".join(table.column_names)[:200], f"the data have no column {lacks}"
            )
        keys, which = _coded(pc.binary_join_element_wise(*(table[n] for n in names), "."))
        keys = [f"{flow.id}/{key}" for key in keys]
        if bad := next((k for k in keys if key_problem(k)), None):
            raise damaged(where, bad[:80], f"a key cannot be used: {key_problem(bad)}")
        labels, place = _coded(table["TIME_PERIOD"])
        try:
            codes = np.array([code_of(*read_period(label)) for label in labels], np.int32)
        except BadInput as error:
            raise damaged(
                where, error.problems[0].value, f"TIME_PERIOD: {error.problems[0].problem}"
            ) from None
        power, units, bases, base = 0.0, [""] * len(keys), ("",), np.full(len(which), -1, np.int64)
        if "UNIT_MULT" in table.column_names:
            power = _numbers(where, table, "UNIT_MULT", empty=0.0)
        if "UNIT_MEASURE" in table.column_names:
            given, of = _coded(table["UNIT_MEASURE"])
            first = np.unique(which, return_index=True)[1]
            units = [_UNITS.get(given[of[row]], given[of[row]]) for row in first]
        if "BASE_PER" in table.column_names:
            words, base = _coded(table["BASE_PER"])
            bases = tuple(map(_base, words))
            base = np.where(np.array([not w for w in words])[base], -1, base)
        value = _numbers(where, table, "OBS_VALUE", empty=np.nan) * 10.0**power
        released = self._released(where, table)
        return ObservationsFound(
            tuple(keys), which, codes[place], value, released, bases, base
        ), units

    def _released(self, where: str, table: pa.Table) -> Any:
        name = next((n for n in RELEASED if n in table.column_names), None)
        if name is None:
            return np.full(len(table), UNSAID, np.int64)
        texts, which = _coded(table[name])
        out = []
        for text in texts:
            try:
                out.append(micros(read_cutoff(text, name)) if text else UNSAID)
            except BadInput as error:
                raise damaged(where, text, f"{name}: {error.problems[0].problem}") from None
        return np.array(out, np.int64)[which]


def read_sdmx_csv(raw: bytes) -> dict[str, list[str]]:
    """A file of SDMX-CSV as rows of observations, column by column: series, period,
    value, released_at, base.

    A key is the flow and the codes of the columns between it and `TIME_PERIOD`. Raises
    `SourceDamaged`.
    """
    where = "file"
    table = _csv(where, raw)
    names = table.column_names
    if lacks := next((n for n in ("TIME_PERIOD", "OBS_VALUE") if n not in names), None):
        raise damaged(where, ", ".join(names)[:200], f"the file has no column {lacks}")
    begin = next(
        (n + 1 for n in reversed(range(names.index("TIME_PERIOD"))) if names[n] in _NOT_CODES), 0
    )
    dimensions = names[begin : names.index("TIME_PERIOD")]
    flows, which = _coded(table[names[0] if names[0] == "DATAFLOW" else names[begin - 1]])
    keys = np.array([_flow_of(f) for f in flows], object)[which].tolist()
    if dimensions:
        codes = pc.binary_join_element_wise(*(table[n] for n in dimensions), ".").to_pylist()
        keys = [f"{f}/{c}" for f, c in zip(keys, codes, strict=True)]
    power = (
        _numbers(where, table, "UNIT_MULT", empty=0.0)
        if "UNIT_MULT" in names
        else np.zeros(len(table))
    )
    value = _numbers(where, table, "OBS_VALUE", empty=np.nan) * 10.0**power
    released = next((n for n in RELEASED if n in names), None)
    bases = table["BASE_PER"].to_pylist() if "BASE_PER" in names else [""] * len(table)
    return {
        "series": keys,
        "period": table["TIME_PERIOD"].to_pylist(),
        "value": ["" if v != v else repr(v) for v in value.tolist()],
        "released_at": table[released].to_pylist() if released else [""] * len(table),
        "base": [_base(b) for b in bases],
    }


def _flow_of(text: str) -> str:
    """The flow of `AGENCY:FLOW(VERSION)`."""
    found = re.fullmatch(r"(?:[^:]*:)?(.*?)(?:\([^()]*\))?", text)
    return found[1] if found else text


def _base(text: str) -> str:
    return f"{text}=100" if re.fullmatch(r"[0-9Q-]{4,7}", text) else text


def _csv(where: str, raw: bytes) -> pa.Table:
    """A message of SDMX-CSV, every column as text; one that is cut off, or no table, is damaged."""
    if not raw.startswith((b"DATAFLOW", b"STRUCTURE", b"\xef\xbb\xbfDATAFLOW")):
        raise damaged(where, raw[:80], "this is no SDMX-CSV")
    if not raw.endswith(b"\n"):
        raise damaged(where, raw[-80:], "the message is cut off")
    names = raw.split(b"\n", 1)[0].decode("utf-8", "replace").strip("\r\ufeff").split(",")
    names = [n.partition(":")[0].strip('"') for n in names]
    try:
        return pc_csv.read_csv(
            io.BytesIO(raw),
            pc_csv.ReadOptions(column_names=names, skip_rows=1, block_size=1 << 24),
            convert_options=pc_csv.ConvertOptions(
                column_types=dict.fromkeys(names, pa.string()), strings_can_be_null=False
            ),
        )
    except (pa.ArrowInvalid, UnicodeDecodeError) as error:
        raise damaged(where, error, "the data are garbled, or cut off") from None


def _coded(column: Any) -> tuple[list[str], Any]:
    """The different texts of a column, and which of them each row has."""
    coded = column.combine_chunks().dictionary_encode()
    return coded.dictionary.to_pylist(), np.asarray(coded.indices, np.int64)


def _numbers(where: str, table: pa.Table, name: str, empty: float) -> Any:
    texts, which = _coded(table[name])
    out = np.empty(len(texts))
    for n, text in enumerate(texts):
        try:
            out[n] = float(text) if text and text not in ("NaN", "-") else empty
        except ValueError:
            raise damaged(where, text, f"{name} is no number") from None
    if np.isinf(out).any():
        raise damaged(where, "inf", f"{name} is out of all proportion")
    return out[which]


def _described(flow: _Flow, key: str, unit: str) -> dict[str, str]:
    codes = dict(
        zip((d.id for d in flow.dimensions), key.partition("/")[2].split("."), strict=False)
    )
    names = {d.id: d.codes.get(codes[d.id], codes[d.id]) for d in flow.dimensions if d.id in codes}
    parts = [flow.title or flow.id, *(n for d, n in names.items() if d != "FREQ")]
    dimensions = {
        d.id: [d.title, codes[d.id], names[d.id]] for d in flow.dimensions if d.id in codes
    }
    given = {
        "title": ", ".join(parts), "unit": unit, "subject": flow.subject, "family": flow.title or flow.id,
        "area": _first(names, _AREA), "adjustment": _first(names, _ADJUSTMENT), "source_note": flow.note,
        "dimensions": json.dumps(dimensions, ensure_ascii=False),
    }  # fmt: skip
    return {name: value for name, value in given.items() if value}


def _first(names: dict[str, str], wanted: Sequence[str]) -> str:
    return next((names[w] for w in wanted if w in names), "")


def _text(element: Any, name: str) -> str:
    """The English text of this name, else the first."""
    found = element.findall(f"{{*}}{name}")
    english = [
        f
        for f in found
        if f.get("{http://www.w3.org/XML/1998/namespace}lang", "en").startswith("en")
    ]
    return ((english or found or [None])[0].text or "").strip() if found else ""


def _plain(raw: bytes) -> bytes:
    return raw
