"""What the stand-ins promise those who collect from them: whole pages whatever their size, nothing
lost between two visits, nothing from after their clock, 304 for what did not change.
"""

import csv
import io
import json
import re
import unittest
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from datetime import UTC, datetime, timedelta
from functools import cache
from random import Random
from typing import Any
from unittest import mock
from urllib.parse import quote

import httpx

from tests.live import WORLD
from wise_ledger.launch.running import address, bind, running
from wise_ledger.standins import fernmark, oskelby, ostrin, tolvane
from wise_ledger.standins.ostrin.flows import FLOWS

KEY = "a-key-for-tests"
ASKED = (
    "cursor", "changed_since", "since", "ids", "security", "venue", "from", "references", "includeHistory",
    "updatedAfter", "startPeriod", "endPeriod", "detail", "format",
)  # fmt: skip
ODD = (
    "", "x", "-1", "1.5", "9" * 400, "2024-02-30", "0001-01-01", "9999-12-31", "2024-13", "NaN", "\x00", "é", "../..",
    "%", "?", "a,b,,", "²", "٣", "true", "A..B...", "+", "2024-06-30T12:00:00+99:00", "1e400", "\u2028",
)  # fmt: skip
NOW = datetime(2024, 6, 30, 12, tzinfo=UTC)
Row = tuple[Any, ...]


@cache
def opinions() -> oskelby.Opinions:
    return oskelby.make_opinions(WORLD)


@cache
def releases() -> ostrin.Releases:
    return ostrin.make_releases([f for f in FLOWS if f.id == "CONFIDENCE"])


class Served(unittest.TestCase):
    def served(self, app: Any) -> httpx.Client:
        """A stand-in on loopback, and who asks it."""
        stack = ExitStack()
        self.addCleanup(stack.close)
        bound = bind("127.0.0.1", 0, "--port")
        stack.enter_context(running(app, bound))
        return stack.enter_context(
            httpx.Client(base_url=address(bound), headers={"X-Api-Key": KEY}, timeout=30)
        )

    def fernmark(self, page: int = 10) -> httpx.Client:
        many = fernmark.Quota(10**6, 1.0)
        return self.served(fernmark.create_app(WORLD, KEY, quota=many, page=page))

    def oskelby(
        self, clock: Callable[[], datetime] = lambda: NOW, page: int = 20_000
    ) -> httpx.Client:
        return self.served(oskelby.create_app(opinions, clock, KEY, page))

    def ostrin(self, clock: Callable[[], datetime] = lambda: NOW) -> httpx.Client:
        return self.served(ostrin.create_app(releases, clock))


def pages(client: httpx.Client, path: str, **query: str) -> Iterator[dict[str, Any]]:
    """Answers one after the other, as their `next` says."""
    cursor: str | None = "0"
    while cursor is not None:
        answer = client.get(path, params={**query, "cursor": cursor}).json()
        yield answer
        cursor = answer["next"]


def opinion_rows(client: httpx.Client, path: str, **query: str) -> list[Row]:
    found = [page["columns"] for page in pages(client, path, **query)]
    return [row for columns in found for row in zip(*columns.values(), strict=True)]


def observations(client: httpx.Client, key: str = "all", **query: str) -> list[dict[str, str]]:
    answer = client.get(f"/rest/data/{next(iter(releases()))}/{key}", params=query)
    return list(csv.DictReader(io.StringIO(answer.text))) if answer.status_code == 200 else []


class Pages(Served):
    def test_pages_of_any_size_are_the_whole(self) -> None:
        random = Random(5)
        paths = {
            "/v1/companies": "companies",
            "/v1/lists/first-look/members": "members",
            "/v1/dividends": "dividends",
        }
        for path, name in paths.items():
            with self.subTest(path):
                whole: list[Any] = []
                for size in (10**6, *random.sample(range(9, 90), 2)):
                    client = self.fernmark(size)
                    found = [row for page in pages(client, path) for row in page[name]]
                    whole = whole or found
                    self.assertEqual(found, whole)
        for kind in ("contributions", "actuals", "consensus", "calendar"):
            with self.subTest(kind):
                whole = opinion_rows(self.oskelby(), f"/v1/{kind}")
                self.assertTrue(whole)
                size = random.randrange(len(whole) // 9 + 1, len(whole))
                self.assertEqual(opinion_rows(self.oskelby(page=size), f"/v1/{kind}"), whole)
        reports = tolvane.make_reports(WORLD)
        for size in random.sample(range(9, len(reports) + 2), 3):
            client = self.served(tolvane.create_app(reports, page=size))
            at, found = "/feed", list[str]()
            while at:
                text = client.get(at).text
                found += re.findall("<id>urn:tolvane:(?!feed)(.+?)</id>", text)
                following = re.search('rel="next" href="(.+?)"', text)
                at = following[1] if following else ""
            self.assertEqual(sorted(found), sorted(r.id for r in reports))

    def test_what_came_since_the_last_visit_is_what_was_missing(self) -> None:
        now = [NOW]
        client = self.oskelby(lambda: now[0])
        statistics = self.ostrin(lambda: now[0])
        for days in (1, 40, 400):
            now[0] = NOW - timedelta(days)
            since = f"{now[0]:%Y-%m-%dT%H:%M:%SZ}"
            before = opinion_rows(client, "/v1/contributions")
            known = observations(statistics, includeHistory="true")
            now[0] = NOW
            self.assertEqual(
                before + opinion_rows(client, "/v1/contributions", since=since),
                opinion_rows(client, "/v1/contributions"),
            )
            new = observations(statistics, includeHistory="true", updatedAfter=since)
            every = observations(statistics, includeHistory="true")
            self.assertCountEqual(map(str, [*known, *new]), map(str, every))

    def test_nothing_is_from_after_the_clock(self) -> None:
        now = [NOW]
        client = self.oskelby(lambda: now[0])
        statistics = self.ostrin(lambda: now[0])
        for days in Random(7).sample(range(4_000), 4):
            now[0] = NOW - timedelta(days)
            at = f"{now[0]:%Y-%m-%dT%H:%M:%SZ}"
            for kind in ("contributions", "actuals", "consensus", "calendar"):
                self.assertLessEqual(
                    max((r[-1] for r in opinion_rows(client, f"/v1/{kind}")), default=""), at
                )
            rows = observations(statistics, includeHistory="true")
            self.assertLessEqual(max((r["VALID_FROM"] for r in rows), default=""), at)

    def test_every_file_of_prices_that_is_listed_can_be_had_on_any_day(self) -> None:
        """A year begins with a holiday: it has no file yet, and none is listed."""
        client, years, random = self.fernmark(), range(2021, 2026), Random(8)
        days = [datetime(y, 1, d, 12, tzinfo=UTC) for y in years for d in (1, 2, 3)]
        days += [NOW - timedelta(random.randrange(900)) for _ in range(4)]
        for at in days:
            with mock.patch.object(type(WORLD), "now", at):
                listed = client.get("/v1/price-files").json()["files"]
                for venue, year in {
                    (f["venue"], f["year"]) for f in listed if f["year"] == at.year
                }:
                    answer = client.get(f"/v1/price-files/{venue}/{year}")
                    self.assertEqual(answer.status_code, 200, (at, venue))

    def test_a_key_of_a_series_stands_for_those_it_fits_and_without_history_the_last_is_given(
        self,
    ) -> None:
        statistics = self.ostrin()
        flow = next(f for f in FLOWS if f.id in releases())
        every = observations(statistics, includeHistory="true")
        names = [d.id for d in flow.dimensions]
        random = Random(9)
        for _ in range(12):
            parts = [
                random.choice(["", *random.sample(sorted({k[n] for k in flow.keys}), 1)])
                for n in range(len(names))
            ]
            if not any(parts):  # dots alone are a step in an address
                continue
            fits = lambda r: all(p in ("", r[n]) for n, p in zip(names, parts, strict=True))  # noqa: B023, E731
            found = observations(statistics, ".".join(parts), includeHistory="true")
            self.assertEqual(found, [r for r in every if fits(r)])
            last = {(*(r[n] for n in names), r["TIME_PERIOD"]): r for r in found}
            self.assertEqual(observations(statistics, ".".join(parts)), list(last.values()))


class Doors(Served):
    def test_only_who_has_the_key_is_answered(self) -> None:
        data, estimates = (
            fernmark.create_app(WORLD, KEY),
            oskelby.create_app(opinions, lambda: NOW, KEY),
        )
        for app in (data, estimates):
            client = self.served(app)
            for route in app.routes:
                path = re.sub("{year.*?}", "2020", re.sub("{mic}|{key}|{name}", "x", route.path))
                with self.subTest(path):
                    stranger = client.get(path, headers={"X-Api-Key": "another"})
                    self.assertEqual(stranger.status_code, 401)
                    self.assertIn(client.get(path).status_code, (200, 404))

    def test_whatever_is_asked_is_answered_or_refused(self) -> None:
        apps = {
            "fernmark": fernmark.create_app(WORLD, KEY, quota=fernmark.Quota(10**6, 1.0)),
            "oskelby": oskelby.create_app(opinions, lambda: NOW, KEY),
            "ostrin": ostrin.create_app(releases, lambda: NOW),
            "tolvane": tolvane.create_app(tolvane.make_reports(WORLD)),
        }
        random, flow = Random(11), next(iter(releases()))
        real: list[str] = [
            WORLD.companies[0]["key"],
            flow,
            "ZALD",
            "all",
            "prices",
            "2020",
            "0",
            "2023-06-30",
        ]

        def pick() -> str:
            return random.choice(real if random.random() < 0.5 else ODD)

        for name, app in apps.items():
            client = self.served(app)
            for route in app.routes:
                for _ in range(30):
                    path = re.sub("{.*?}", lambda _: quote(pick(), safe="") or "x", route.path)
                    asked = {n: pick() for n in ASKED if random.random() < 0.3}
                    answer = client.get(path, params=asked)
                    with self.subTest(name, path=path, asked=asked):
                        self.assertNotEqual(answer.status_code, 500, answer.text[:300])

    def test_what_did_not_change_is_304_and_what_did_is_not(self) -> None:
        data = self.fernmark()
        archive = self.served(tolvane.create_app(tolvane.make_reports(WORLD)))
        report = tolvane.make_reports(WORLD)[0].id
        company = WORLD.companies[0]["key"]
        calls: list[tuple[httpx.Client, str]] = [
            *((data, p) for p in ("/v1/lists", "/v1/venues", "/v1/price-files", "/v1/levels")),
            (data, f"/v1/companies/{company}/filings"),
            *((archive, p) for p in ("/feed", f"/reports/{report}.json")),
        ]
        for client, path in calls:
            with self.subTest(path):
                tag = client.get(path).headers["ETag"]
                again = client.get(path, headers={"If-None-Match": tag})
                self.assertEqual((again.status_code, again.content), (304, b""))
                self.assertEqual(
                    client.get(path, headers={"If-None-Match": '"x"'}).status_code, 200
                )

    def test_a_quota_says_when_to_come_again(self) -> None:
        client = self.served(fernmark.create_app(WORLD, KEY, quota=fernmark.Quota(3, 30.0)))
        answers = [client.get("/v1/venues") for _ in range(5)]
        self.assertEqual([a.status_code for a in answers], [200, 200, 200, 429, 429])
        self.assertTrue(0 < int(answers[-1].headers["Retry-After"]) <= 31)
        self.assertEqual(json.loads(answers[-1].text)["error"], "Too many requests.")


if __name__ == "__main__":
    unittest.main()
