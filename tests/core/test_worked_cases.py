"""The worked cases in tests/cases/: each states the rules it holds (see its `rules`)."""

import json
import math
import unittest
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Any

import numpy as np

from tests.core.small_ledger import SmallLedger
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.errors import BadInput
from wise_ledger.core.estimates.consensus import Basis, consensus
from wise_ledger.core.estimates.contributions import MAX_AGE, YEAR, Actuals, Contributions, target
from wise_ledger.core.estimates.estimates import Estimates, Measure
from wise_ledger.core.fiscal.labels import Period, calendar_label, fiscal_label
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.functions.across import numbers_of
from wise_ledger.core.language.units import PURE, TEXT
from wise_ledger.core.language.vocabulary import Vocabulary
from wise_ledger.core.market.factors import Factors
from wise_ledger.core.records.columnkinds import SERIES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.records.limits import Limits
from wise_ledger.core.series.periods import Frequency, code_of, read_period
from wise_ledger.core.series.steps import Change, Step, ToFrequency, transformed
from wise_ledger.core.series.vintages import Vintages
from wise_ledger.core.time.instants import micros, read_cutoff
from wise_ledger.core.time.periods import NO_END, as_date, day
from wise_ledger.core.timelines.keys import Mark

CASES = Path(__file__).parents[1] / "cases"


class GivenValues:
    """A ground whose fields are the values that a case gives by name; there are no items."""

    def __init__(self, given: dict[str, Any]) -> None:
        by_company = {k: v for k, v in given.items() if isinstance(v, dict) and "missing" not in v}
        self.names = list(dict.fromkeys(c for v in by_company.values() for c in v)) or ["one"]
        self.companies, self.limits = len(self.names), Limits()
        self.given = {
            k: [v[c] for c in self.names] if k in by_company else [v] for k, v in given.items()
        }
        texts = {k for k, v in self.given.items() if isinstance(v[0], str)}
        self.vocabulary = Vocabulary({}, {k: TEXT if k in texts else PURE for k in self.given})

    def field(self, name: str, members: Any, cutoffs: Any) -> Values:
        cells = self.given[name]
        missing = [isinstance(c, dict) for c in cells]
        reason = [
            Reason[c["missing"].upper()] if m else 0 for c, m in zip(cells, missing, strict=True)
        ]
        value = [math.nan if m else c for c, m in zip(cells, missing, strict=True)]
        return Values.known(np.array([value]).T, np.array([reason], np.uint8).T)

    def groups(self, name: str, members: Any, cutoffs: Any) -> Values:
        return numbers_of(self.field(name, members, cutoffs))

    def ask(self, expression: str) -> dict[str, Any]:
        step = plan(expression, self.vocabulary)
        values, _ = Evaluation(self, np.arange(self.companies), np.array([0])).run(step)  # type: ignore[arg-type]
        return {n: cell(values, i, step.unit.kind == "truth") for i, n in enumerate(self.names)}


def cell(values: Values, row: int, truth: bool = False) -> Any:
    if reason := values.reason[row, 0]:
        return "unknown" if truth else {"missing": Reason(reason).code}
    return bool(values.value[row, 0]) if truth else float(values.value[row, 0])


class WorkedCases(unittest.TestCase):
    def same(self, found: Any, expected: Any, where: str) -> None:
        if isinstance(expected, int | float) and not isinstance(expected, bool):
            self.assertIsInstance(found, int | float, where)
            self.assertTrue(
                math.isclose(found, expected, rel_tol=1e-9, abs_tol=1e-12), f"{where}: {found}"
            )
        else:
            self.assertEqual(found, expected, where)

    def check_periods(self, case: dict[str, Any]) -> None:
        for ask in case["asks"]:
            start = ask["period_start"] and date.fromisoformat(ask["period_start"])
            period = Period(start, date.fromisoformat(ask["period_end"]))
            found = {
                "span_months": "odd" if period.span < 0 else period.span,
                "nominal_end": str(period.nominal_end),
                "label": fiscal_label(
                    period.span,
                    period.nominal_end,
                    ask["fiscal_year_end"],
                    ask["fiscal_year_named_by"],
                ),
                "calendar": calendar_label(period),
            }
            self.assertEqual(found, ask["expect"], str(ask))

    def check_given(self, case: dict[str, Any]) -> None:
        ground = GivenValues(case["given"])
        for ask in case["asks"]:
            expected = ask["expect"]
            if isinstance(expected, dict) and "error" in expected:
                with self.assertRaises(BadInput, msg=ask["expression"]) as caught:
                    ground.ask(ask["expression"])
                problem = caught.exception.problems[0]
                self.assertTrue(problem.at and problem.mend, ask["expression"])
                self.assertIn(expected["error"] or "", problem.problem)
                continue
            found = ground.ask(ask["expression"])
            by_company = isinstance(expected, dict) and "missing" not in expected
            for name, value in (expected if by_company else {"one": expected}).items():
                self.same(found[name], value, f"{ask['expression']} of {name}")

    def check_ledger(self, case: dict[str, Any]) -> None:
        ledger = SmallLedger.of_case(case["given"])
        for ask in case["asks"]:
            where = f"{ask.get('expression')} known on {ask['known_on']}"
            cutoffs = np.array([micros(read_cutoff(ask["known_on"], "known_on"))])
            view = ledger.view(recorded_by=ask.get("recorded_by"))
            if "restatements" in ask:
                statement = view.timeline(ITEMS[ask["restatements"]], "fy", False)
                self.assertEqual(
                    statement.key[statement.changed() & (statement.at <= cutoffs[0])].tolist(),
                    ask["expect"],
                    where,
                )
                continue
            step = plan(ask["expression"], view.vocabulary)
            company = np.array([ledger.names.index(ask.get("company"))])
            values, ends = Evaluation(view, company, cutoffs, currency=ask.get("currency")).run(
                step
            )
            found, expected = cell(values, 0), ask["expect"]
            if "missing" in expected:
                self.same(found, expected, where)
                continue
            self.same(found, expected["value"], where)
            if "nominal_end" in expected:
                self.assertEqual(
                    ends[0, 0] != NO_END and str(as_date(ends[0, 0])),
                    expected["nominal_end"],
                    where,
                )
            marks = {m.name.lower() for m in Mark if m & int(values.marks[0, 0]) and m.name}
            self.assertEqual(marks, {expected["mark"]} if expected.get("mark") else set(), where)

    def check_consensus(self, case: dict[str, Any]) -> None:
        given = case["given"]
        rows = given["contributions"]
        houses = sorted({r["contributor"] for r in rows})
        value = [math.nan if r["value"] is None else r["value"] for r in rows]
        of = standing_contributions(
            [END] * len(rows),
            [houses.index(r["contributor"]) for r in rows],
            [instant(r) for r in rows],
            value,
            max_age=given["max_age_days"],
        )
        for ask in case["asks"]:
            at, expected = (
                np.array([micros(read_cutoff(ask["known_on"], "known_on"))]),
                ask["expect"],
            )
            found = consensus(of, PLAIN, of.key[:1], at, np.array([-1]))
            if "missing" in expected:
                self.assertEqual(Reason(found.reason[0]).code, expected["missing"], ask["known_on"])
                continue
            for name, wanted in expected.items():
                number, why = found.of(name)
                got = {"missing": Reason(why[0]).code} if why[0] else float(number[0])
                self.same(got, wanted, f"{name} known on {ask['known_on']}")

    def check_horizons(self, case: dict[str, Any]) -> None:
        given = case["given"]
        reported = [
            (day(date.fromisoformat(a["period_end"])), instant(a), a["value"])
            for a in given["actuals"]
        ]
        ends, at, values = (np.array(c) for c in zip(*reported, strict=True))
        actuals = Actuals.of(
            target(np.zeros(len(ends), int), ends), at, values, np.full(len(ends), -1, np.int16)
        )
        means = given["consensus_mean"]
        long_ago = [micros(read_cutoff("2022-12-01", ""))] * len(means)
        of = standing_contributions(
            list(means), [0] * len(means), long_ago, list(means.values()), actuals, 10_000
        )
        december = lambda members, cutoffs: np.full((len(members), len(cutoffs)), 12)  # noqa: E731
        estimates = Estimates(
            {"eps": Measure({YEAR: of}, {YEAR: actuals})}, lambda _: PLAIN, december
        )
        one, no_currency = np.array([0]), np.full((1, 1), -1)
        for ask in case["asks"]:
            at, expected = (
                np.array([micros(read_cutoff(ask["known_on"], "known_on"))]),
                ask["expect"],
            )
            if "surprise" in ask:
                for how, wanted in expected.items():
                    found = estimates.surprise("eps", how, one, at, no_currency)
                    self.same(cell(found, 0), wanted, how)
                continue
            found = estimates.estimate("eps", ask["horizon"], "mean", one, at, no_currency)
            where = f"{ask['horizon']} known on {ask['known_on']}"
            self.same(cell(found, 0), expected.get("value", expected), where)
            if "period_end" in expected:
                end = estimates.period(YEAR, int(ask["horizon"][-1]), one, at)[0, 0]
                self.assertEqual(str(as_date(int(end))), expected["period_end"], where)

    def check_vintages(self, case: dict[str, Any]) -> None:
        rows = case["given"]["observations"]
        at = [micros(read_cutoff(r["released_at"], "released_at")) for r in rows]
        book = Vintages.of(
            RecordColumns.of(
                SERIES,
                series=[0] * len(rows),
                period=[code_of(*read_period(r["period"])) for r in rows],
                value=[r["value"] for r in rows],
                released_at=at,
                known_at=at,
            )
        )
        for ask in case["asks"]:
            line = book.line(0, micros(read_cutoff(ask["known_on"], "known_on")))
            steps: list[Step] = []
            if "frequency" in ask:
                steps.append(
                    ToFrequency(
                        Frequency[ask["frequency"]], ask["aggregate"], ask.get("incomplete", False)
                    )
                )
            if "transform" in ask:
                steps.append(Change(ask["transform"]["change_over"], ask["transform"]["as_"]))
            found = transformed(line, steps)
            self.assertEqual(found.labels, list(ask["expect"]), str(ask))
            for place, wanted in enumerate(ask["expect"].values()):
                why = found.reason[place]
                got = {"missing": Reason(why).code} if why else float(found.value[place])
                self.assertTrue(
                    got == wanted or math.isclose(got, wanted, rel_tol=1e-9), f"{ask}: {got}"
                )


END = "2022-12-31"
PLAIN = Basis(Factors.of(()), np.empty(0, np.int64), 0, lambda source, *_: np.ones(len(source)))


def instant(row: dict[str, Any]) -> int:
    return micros(read_cutoff(row["published_at"], "published_at"))


def standing_contributions(
    ends: list[str],
    houses: list[int],
    at: list[int],
    values: list[float],
    actuals: Actuals | None = None,
    max_age: int = MAX_AGE,
) -> Contributions:
    days = np.array([day(date.fromisoformat(e)) for e in ends])
    return Contributions.of(
        target(np.zeros(len(days), int), days),
        np.array(houses),
        np.array(at),
        np.array(values, np.float64),
        np.full(len(days), -1, np.int16),
        actuals or Actuals.none(),
        max_age,
    )


def _add(path: Path) -> None:
    def test(self: WorkedCases) -> None:
        case = json.loads(path.read_text("utf-8"))
        given = case["given"]
        check: Callable[[Any], None] = self.check_ledger if "facts" in given else self.check_given
        own = {
            "periods": self.check_periods,
            "consensus": self.check_consensus,
            "horizons": self.check_horizons,
        }
        own["vintages"] = self.check_vintages
        own.get(path.stem, check)(case)

    test.__doc__ = f"{path.stem}: {json.loads(path.read_text('utf-8'))['title']}"
    setattr(WorkedCases, f"test_{path.stem}", test)


for _path in sorted(CASES.glob("*.json")):
    _add(_path)


class EveryCase(unittest.TestCase):
    def test_every_case_is_run(self) -> None:
        stems = {p.stem for p in CASES.glob("*.json")}
        self.assertEqual(len(stems), 26)

    def test_the_copy_is_that_of_the_design(self) -> None:
        shared = Path(__file__).parents[3] / "shared" / "cases"
        for path in sorted(shared.glob("*.json")):
            self.assertEqual((CASES / path.name).read_bytes(), path.read_bytes(), path.name)
