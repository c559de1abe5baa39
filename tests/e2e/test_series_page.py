"""The page of series: found by slips, laid side by side, as they stood, vintages,
compared, kept.
"""

from datetime import UTC, datetime

from playwright.sync_api import expect

from tests.e2e.pages import Moving
from wise_ledger.launch.running import address, bind, running
from wise_ledger.sources.sdmx import Sdmx
from wise_ledger.standins.ostrin import create_app, make_releases
from wise_ledger.standins.ostrin.flows import FLOWS

GDP = "OUTPUT/Q.XA.TOTAL.VOLUME"


class Series(Moving):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        made = make_releases([f for f in FLOWS if f.id in ("OUTPUT", "HOUSE_PRICES")])
        bound = bind("127.0.0.1", 0, "--source-port")
        served = running(create_app(lambda: made, lambda: datetime(2024, 6, 30, tzinfo=UTC)), bound)
        served.__enter__()
        cls.addClassCleanup(served.__exit__, None, None, None)
        cls.live.desk.runs.sources["ostrin"] = lambda: Sdmx(
            "ostrin", "Ostrin Statistics", address(bound), 30.0
        )  # type: ignore[index]
        run = cls.ledger.collect("ostrin", every=0.05)
        assert run.state == "finished", run

    def test_a_series_is_found_and_reads_as_it_stood_on_the_stamp(self) -> None:
        with self.page("/series?known_on=2019-08-31") as page:
            page.get_by_label("Search the series").fill("outptu aldmoor all branches")
            page.get_by_role("button", name="All branches, volume").first.click()
            expect(
                page.get_by_text("1 series: Output, Aldmoor, All branches, volume")
            ).to_be_visible()
            expect(page.locator(".chart svg path").first).to_be_attached()
            self.accessible(page)
            page.get_by_role("button", name="Table").click()
            first = page.locator("tbody tr").first
            expect(first).to_contain_text("2019Q2")
            then = first.locator("td").nth(0).inner_text()
            self.assertEqual(
                float(then),
                self.ledger.series(GDP, "2019Q2", known_on="2019-08-31").frame()[GDP].iloc[-1],
            )
            page.get_by_label(f"Add a step to {GDP}").fill("growth on a year ago")
            page.keyboard.press("Enter")
            expect(page.get_by_role("columnheader", name="growth on a year ago")).to_be_visible()
            self.says(page, "s", "growth on a year ago")
            page.get_by_role("button", name="Vintages").click()
            expect(page.get_by_text("45 days after its period")).to_be_visible()
            self.fits(page)

    def test_every_view_of_the_page_is_held_under_motion(self) -> None:
        for view in ("chart", "table", "vintages", "compare"):
            key = GDP.replace("XA", "*") if view == "compare" else GDP
            where = f"/series?s={key}&view={view}&known_on=2023-06-30"
            with self.subTest(view), self.page(where, expected="status of 5") as page:
                self.held_under_motion(page)
                self.heads_stay(page)

    def test_a_family_is_one_key_compared_and_kept(self) -> None:
        where = "/series?known_on=2024-06-28&family=House+prices&adjustment=seasonally+adjusted"
        with self.page(where, theme="dark") as page:
            page.get_by_role("button", name="take all 40 as one key").click()
            self.says(page, "s", "HOUSE_PRICES/M.*.SA")
            page.get_by_role("button", name="Compare").click()
            expect(page.locator(".matrix i")).to_have_count(1600)
            expect(page.locator("tbody tr").first).to_contain_text("Ashgrove Vale")
            self.accessible(page)
            page.get_by_role("button", name="keep it").click()
            page.get_by_label("Name", exact=True).fill("houses")
            page.get_by_label("Title", exact=True).fill("Houses of forty regions")
            page.get_by_label("Your name").fill("Ada")
            page.get_by_role("button", name="Keep", exact=True).click()
            expect(page.get_by_label("Open a kept sheet")).to_contain_text(
                "Houses of forty regions, version 1"
            )
            page.get_by_role("button", name="What changed").click()
            expect(page.get_by_role("cell", name="new").first).to_be_visible()
        self.assertEqual(self.ledger.sheet("houses").series[0].key, "HOUSE_PRICES/M.*.SA")

    def test_a_step_that_is_none_is_refused_beside_the_sheet(self) -> None:
        with self.page(f"/series?s={GDP}|sprung") as page:
            expect(page.get_by_role("alert")).to_contain_text("no such step")
