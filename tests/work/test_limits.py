"""Limits that people set, at every door: what no source dates is known by the lags that stand (T4),
what is old is stale by theirs (F12), an estimate stands as long as they say (E2), as of each batch
(T7), and what comes again is the same (T8).
"""

from datetime import date, timedelta
from typing import Any

from tests.live import Live
from tests.service.anyfiles import Row, file_of
from wise_ledger.client import InputRefused, NotThere

YEARS = (2019, 2020, 2021)
LAGS = {("desk", "year"): 75, ("desk", "other"): 20, ("page", "year"): 130, ("page", "other"): 60}
COLUMNS = ["revenue.q", "revenue.fy", "revenue", "total_assets", "growth(revenue, 1y)"]
DAYS = [str(date(2020, 1, 31) + timedelta(9 * n)) for n in range(110)]


def figures(company: str, *, dated: bool) -> list[Row]:
    """Quarters, years and balances out of two sources; either none of them says when it was
    published, or all say what the lags of the test come to.
    """
    spans = [
        (f"{y}-{q * 3 - 2:02d}-01", str(date(y + q // 4, q % 4 * 3 + 1, 1) - timedelta(1)), "other")
        for y in YEARS
        for q in (1, 2, 3)
    ]
    spans += [(f"{y}-01-01", f"{y}-12-31", "year") for y in YEARS]
    balances = [("", f"{y}-12-31", "year") for y in YEARS] + [("", "2021-06-30", "other")]
    out = []
    for n, (start, end, lag) in enumerate([*spans, *balances]):
        source = "desk" if n % 3 else "page"
        published = str(date.fromisoformat(end) + timedelta(LAGS[source, lag]))
        item = "revenue" if start else "total_assets"
        row = {"company": company, "item": item, "period_start": start, "period_end": end}
        row |= {"value": 1000 + 7 * n, "unit": "USD", "source": source}
        out.append({**row, "published_at": published if dated else ""})
    # restated later, by a source that says when
    return [*out, {**out[-1], "value": 5, "published_at": "2022-05-05"}]


class AtEveryDoor(Live):
    def setUp(self) -> None:
        about = [
            {"company": key, "name": f"{key} Works", "country": "XA", "valid_from": "2015-01-01"}
            | {"fiscal_year_end": "12", "template": "industrial"}
            for key in ("UNDATED", "DATED")
        ]
        self.ledger.load("companies", file_of(about))
        self.files = [file_of(figures(key, dated=key == "DATED")) for key in ("UNDATED", "DATED")]
        for file in self.files:
            self.ledger.load("facts", file)

    def told(self, key: str, **how: Any) -> list[Any]:
        """What every door says of a company, but that publications are assumed."""
        ledger, who = self.ledger, f"files:{key}"
        frame = ledger.panel([who], COLUMNS, DAYS, progress=False, **how).frame()
        beside = [c for c in frame.columns if c == "name" or c.endswith(".marks")]
        out: list[Any] = [frame.drop(columns=beside).reset_index(drop=True).to_csv(index=False)]
        for on in DAYS[::20]:
            screened = ledger.screen(
                "revenue > 0 USD", companies=[who], known_on=on, show=COLUMNS, **how
            )
            out += [
                [row.verdict, [(c.value, c.reason) for c in row.cells]]
                for row in screened.answer.companies
            ]
            laid = ledger.statement(who, "income", "quarter", on, **how)
            out.append(
                [
                    laid.answer.columns,
                    [[(c.value, c.reason) for c in r.cells] for r in laid.answer.lines],
                ]
            )
        asked = {"company": who, "known_on": "2023-12-31", **how}
        restated = ledger.restatements(**asked).restatements
        out += [(r.item, r.old, r.new, r.published_at) for r in restated]
        explained = ledger.explain(
            who, "total_assets", "2023-12-31", period_end="2021-12-31", **how
        )
        out += [fact.published_at for one in explained.answer.inputs for fact in one.facts]
        out += [version.known_from for version in explained.answer.versions]
        return out

    def kept(self, key: str) -> list[Any]:
        """What is said of the figures kept of a company."""
        page = [self.ledger.company(f"files:{key}", on).holdings for on in DAYS[::10]]
        months = self.live.http("GET", "/facts/publications", params={"company": f"files:{key}"})
        return [page, {name: months.json()[name] for name in ("months", "first")}]

    def test_what_no_source_dates_is_known_by_the_lags_and_as_before_by_earlier_batches(
        self,
    ) -> None:
        before = self.ledger.limits().batch
        usual = self.told("UNDATED")
        self.assertNotEqual(usual, self.told("DATED"))
        for (source, lag), days in LAGS.items():
            self.ledger.set_limit(f"lag_of_{lag}", days, "Ada", source=source, why="as it is known")
        self.assertEqual(self.told("UNDATED"), self.told("DATED"))
        self.assertEqual(self.kept("UNDATED"), self.kept("DATED"))
        self.assertEqual(self.told("UNDATED", recorded_by=before), usual)
        self.assertIsNone(self.ledger.load("facts", self.files[0]).batch)  # T8
        stood = self.ledger.limits().frame()
        own = stood[stood["source"].notna()]
        self.assertEqual(dict(zip(zip(own.source, own.name), own.days)), {  # noqa: B905
            (source, f"lag_of_{lag}"): days for (source, lag), days in LAGS.items()
        })  # fmt: skip
        self.assertEqual(set(own.who) | set(own.why), {"Ada", "as it is known"})
        for source, lag in LAGS:
            self.ledger.set_limit(f"lag_of_{lag}", None, "Ada", source=source)
        self.assertEqual(self.told("UNDATED"), usual)
        self.assertEqual(self.ledger.limits().rows(), self.ledger.limits(recorded_by=before).rows())

    def test_what_is_old_is_stale_by_the_limit_of_its_batch(self) -> None:
        def last() -> list[str]:
            frame = self.ledger.panel(
                ["files:DATED"], ["revenue.fy"], DAYS, progress=False, **how
            ).frame()
            stale = frame["revenue.fy.reason"] == "stale"
            return [d for d, old in zip(DAYS, stale, strict=True) if old]

        how: dict[str, Any] = {"recorded_by": self.ledger.limits().batch}
        usual = last()
        shown = self.live.command("limits", "set", "stale_after", "200", "--who", "Ada")
        self.assertIn("200", shown.stdout)
        self.addCleanup(self.live.command, "limits", "usual", "stale_after", "--who", "Ada")
        self.assertEqual(last(), usual)
        how = {}
        after = {d for d in last() if d >= "2022-04-15"}  # as far as the year 2021 is the newest
        self.assertEqual(after, {d for d in DAYS if d > str(date(2021, 12, 31) + timedelta(200))})
        self.assertIn("stale after 200 days", self.ledger.check("revenue").periods[0])

    def test_an_estimate_stands_so_many_days_e2(self) -> None:
        rows = [
            {"company": "DATED", "measure": "eps", "period_end": "2022-12-31", "period_kind": "fy"}
            | {"contributor": f"House {n}", "value": n, "currency": "USD", "published_at": day}
            for n, day in enumerate(("2022-02-01", "2022-03-20", "2022-05-01"))
        ]
        self.assertEqual(self.ledger.load("estimates", file_of(rows)).bad, [])
        before, asked = self.ledger.limits().batch, ("files:DATED", "2022-05-10")
        how: dict[str, Any] = {}

        def counts() -> list[Any]:
            found = self.ledger.estimates(*asked, **how)
            told = [found.max_age, [p.consensus.count for p in found.periods]]
            shown = ["estimate(eps, fy1, count)", "estimate(eps, fy1)"]
            frame = self.ledger.panel([asked[0]], shown, [asked[1]], progress=False, **how).frame()
            return [*told, *frame[shown].iloc[0].tolist()]

        self.assertEqual(counts(), [120, [3], 3, 1])
        self.ledger.set_limit("estimate_stands", 60, "Ada")
        self.addCleanup(self.ledger.set_limit, "estimate_stands", None, "Ada")
        self.assertEqual(counts(), [60, [2], 2, 1.5])
        longer = self.ledger.estimates(*asked, max_age=120)
        self.assertEqual([p.consensus.count for p in longer.periods], [3])
        how = {"recorded_by": before}
        self.assertEqual(counts(), [120, [3], 3, 1])

    def test_what_cannot_be_a_limit_is_refused_with_the_mend(self) -> None:
        before = self.ledger.limits()
        for name, days, how, problem, mend in (
            ("stale_aftr", 5, {}, "there is no limit of this name", "did you mean stale_after?"),
            ("stale_after", 0, {}, "this limit is 1 to 36,500 days", "give a whole number of days"),
            (
                "lag_of_year",
                4000,
                {},
                "this limit is 0 to 3,660 days",
                "give a whole number of days",
            ),
            ("stale_after", 5, {"source": "desk"}, "one for all sources", "leave the source out"),
            ("lag_of_year", 5, {"source": "dsk"}, "nothing from a source", "did you mean desk?"),
        ):
            with self.assertRaises((InputRefused, NotThere)) as refused:
                self.ledger.set_limit(name, days, "Ada", **how)
            (error,) = refused.exception.problems
            self.assertIn(problem, error.problem)
            self.assertIn(mend, error.mend)
        with self.assertRaises(InputRefused):
            self.ledger.set_limit("stale_after", 5, " ")
        self.assertEqual(self.ledger.limits(), before)
