"""Measures: expressions with a name.

Those that ship stand in `measures.yaml`; people keep others in the ledger.

A file of definitions is a YAML list, one mapping a measure, with the fields of `Measure`; that of
the shipped ones is the model. It reads well beside code: one line a field, the order of the fields
is always the same.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import yaml

from wise_ledger.core.catalogue.items import ALL_TEMPLATES
from wise_ledger.core.errors import BadInput, Problem
from wise_ledger.core.yamltext import FAST, NotYaml, read_yaml

SUBJECTS: Mapping[str, str] = {
    "liquidity": "Liquidity",
    "leverage": "Leverage",
    "coverage": "Coverage",
    "profitability": "Profitability",
    "efficiency": "Efficiency",
    "growth": "Growth",
    "quality": "Quality of earnings",
    "per_share": "Per share",
    "per_employee": "Per employee",
    "valuation": "Valuation",
    "forward": "Forward valuation",
    "estimates": "Estimates and their revisions",
    "returns": "Returns and risk of the price",
    "payout": "Paid out to shareholders",
    "banks": "Banks",
    "insurers": "Insurers",
    "other": "Other",
}


@dataclass(frozen=True)
class Example:
    """A case reckoned by hand: what is given by expression (`revenue`,
    `ago(revenue, 1y)`), and what follows.
    """

    given: Mapping[str, float]
    result: float


@dataclass(frozen=True)
class Measure:
    """An expression under a name: what it means in words,
    which templates of companies it is for, where it is standard.

    `owner` is empty where it ships; `version` and `batch` are of a kept one.
    """

    name: str
    title: str
    formula: str
    meaning: str = ""
    subject: str = "other"
    templates: frozenset[str] = ALL_TEMPLATES
    source: str = ""
    synonyms: tuple[str, ...] = ()
    example: Example | None = field(default=None, compare=False)
    owner: str = ""
    version: int = 0
    batch: int = 0

    @property
    def ships(self) -> bool:
        """Whether it came with the product."""
        return not self.owner


_FIELDS = (
    "name",
    "subject",
    "title",
    "meaning",
    "formula",
    "templates",
    "source",
    "synonyms",
    "example",
)
_LISTS = {"templates": "[bank, insurer]", "synonyms": "[a, b]"}
_TEXTS = ("name", "subject", "title", "meaning", "formula", "source")


def read_measures(text: str, owner: str = "") -> list[Measure]:
    """The measures of a file of definitions; raises `BadInput` with the place of each mistake."""
    try:
        found = read_yaml(text)
    except NotYaml as error:
        at = "file" if error.line is None else f"line {error.line}"
        problem = f"the file is no YAML: {error.problem}"
        raise BadInput(Problem(at, "", problem, "write a list: - name: …")) from None
    return _read(found, owner)


def _read(found: Any, owner: str) -> list[Measure]:
    if not isinstance(found, list):
        raise BadInput(
            Problem("file", type(found).__name__, "the file is no list", "write a list: - name: …")
        )
    problems = [p for n, row in enumerate(found, 1) for p in _problems(f"measure {n}", row)]
    if problems:
        raise BadInput(*problems)
    return [_measure(row, owner) for row in found]


def _problems(at: str, row: Any) -> list[Problem]:
    if not isinstance(row, dict):
        return [
            Problem(
                at, str(row)[:60], "this is no measure", "write - name: … with title and formula"
            )
        ]
    at = f"{at} ({row.get('name', 'without a name')})"
    out = [
        Problem(at, str(key), "a measure has no such field", f"the fields are {', '.join(_FIELDS)}")
        for key in row
        if key not in _FIELDS
    ]
    for name in _TEXTS:
        if name in row and not isinstance(row[name], str):
            out.append(Problem(at, str(row[name])[:60], f"{name} is no text", f'write {name}: "…"'))
        elif name == "subject" and row.get(name, "other") not in SUBJECTS:
            out.append(
                Problem(
                    at,
                    row[name],
                    "there is no such subject",
                    f"the subjects are {', '.join(SUBJECTS)}",
                )
            )
        if name in ("name", "formula") and not row.get(name):
            out.append(Problem(at, "", f"it has no {name}", f"write {name}: …"))
    for name in ("templates", "synonyms"):
        value = row.get(name, [])
        texts = isinstance(value, list) and all(isinstance(v, str) for v in value)
        if not texts or (name == "templates" and set(value) - ALL_TEMPLATES):
            out.append(
                Problem(
                    at,
                    str(value)[:60],
                    f"{name} is no list of them",
                    f"write {name}: {_LISTS[name]}",
                )
            )
    if (example := row.get("example")) is not None and not _is_example(example):
        mend = "write example: {given: {revenue: 100}, result: 0.5}"
        out.append(Problem(at, str(example)[:60], "this is no example", mend))
    return out


def _is_example(value: Any) -> bool:
    if (
        not isinstance(value, dict)
        or set(value) != {"given", "result"}
        or not isinstance(value["given"], dict)
    ):
        return False
    return all(isinstance(v, int | float) for v in (*value["given"].values(), value["result"]))


def _measure(row: Mapping[str, Any], owner: str) -> Measure:
    texts = {name: row[name].strip() for name in _TEXTS if name in row}
    example = row.get("example")
    return Measure(
        **{**texts, "title": texts.get("title") or texts["name"]},
        templates=frozenset(row.get("templates") or ALL_TEMPLATES),
        synonyms=tuple(row.get("synonyms", ())),
        example=None if example is None else Example(example["given"], float(example["result"])),
        owner=owner,
    )


def write_measures(measures: Iterable[Measure]) -> str:
    """A file of definitions, as `read_measures` reads it: by subject and name,
    the same text for the same measures.
    """
    subjects = list(SUBJECTS)
    rows = [_row(m) for m in sorted(measures, key=lambda m: (subjects.index(m.subject), m.name))]
    return "\n".join(map(_lines, rows))


def _lines(row: dict[str, Any]) -> str:
    return yaml.dump(
        [row],
        Dumper=_Lines,
        sort_keys=False,
        allow_unicode=True,
        width=110,
        default_flow_style=None,
    )


class _Lines(yaml.SafeDumper):
    """Texts of several lines stand line by line."""


def _text(dumper: yaml.SafeDumper, text: str) -> yaml.ScalarNode:
    return dumper.represent_scalar(
        "tag:yaml.org,2002:str", text, style="|" if "\n" in text else None
    )


_Lines.add_representer(str, _text)


def _row(measure: Measure) -> dict[str, Any]:
    row: dict[str, Any] = {name: getattr(measure, name) for name in _FIELDS[:5]}
    if measure.templates != ALL_TEMPLATES:
        row["templates"] = sorted(measure.templates)
    row |= {"source": measure.source, "synonyms": list(measure.synonyms)}
    if measure.example is not None:
        row["example"] = {"given": dict(measure.example.given), "result": measure.example.result}
    return {name: value for name, value in row.items() if value}


# Our own text, read at every start: nothing in it has to be looked for first.
_OURS = yaml.load((Path(__file__).parent / "measures.yaml").read_text("utf-8"), FAST)
SHIPPED: Mapping[str, Measure] = {m.name: m for m in _read(_OURS, "")}
