"""The console in headless Chromium against a running service (5-look)."""

import csv
import re
from datetime import date
from pathlib import Path

from playwright.sync_api import expect

from tests.e2e.pages import JUNE, Pages


class Console(Pages):
    def test_signing_in_with_a_token_and_out_again(self) -> None:
        with self.page(signed_in=False) as page:
            page.get_by_label("Token").fill("wl_0_wrong")
            page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("alert")).to_contain_text("not accepted")
            self.accessible(page)
            page.get_by_label("Token").fill(self.live.token)
            page.get_by_role("button", name="Sign in").click()
            expect(page.locator("tbody tr")).to_have_count(12)
            self.assertEqual(self.query(page)["known_on"], "2023-06-30")
            page.get_by_role("button", name="Sign out").click()
            expect(page.get_by_label("Token")).to_be_visible()

    def test_moving_the_stamp_over_the_restatement_changes_the_result(self) -> None:
        with self.page("/screens?known_on=2024-01-14") as page:
            expect(page.get_by_role("button", name="12 pass")).to_be_visible()
            self.assertTrue(any("Ashgrove Kilnworks" in n for n in self.names(page)))
            page.get_by_role("button", name="Known on 14 January 2024").click()
            page.get_by_label("As known at the end of").fill("2024-01-15")
            page.get_by_role("button", name="Set the stamp", exact=True).click()
            expect(page.get_by_role("status")).to_have_text("left: Ashgrove Kilnworks")
            expect(page.get_by_role("button", name="11 pass")).to_be_visible()
            self.assertFalse(any("Ashgrove Kilnworks" in n for n in self.names(page)))
            self.assertEqual(self.query(page)["known_on"], "2024-01-15")
            page.go_back()
            expect(page.get_by_role("status")).to_have_text("joined: Ashgrove Kilnworks")

    def test_opening_a_figure_shows_its_versions_with_dates_and_documents(self) -> None:
        with self.page() as page:
            page.get_by_role("row", name="Ashgrove").get_by_role("button").click()
            panel = page.get_by_label("Figure", exact=True)
            expect(panel).to_contain_text("17.8")
            expect(panel.locator(".versions li")).to_have_count(2)
            expect(panel.locator(".versions li").last).to_contain_text("15 Jan 2024, 07:30 UTC")
            expect(panel.locator(".versions li").last).to_contain_text(
                "not yet known on 30 June 2023"
            )
            panel.get_by_role("button", name="Operating income").click()
            expect(panel.locator(".where .link")).to_have_count(5)
            self.accessible(page)
            panel.locator(".where .link").first.click()
            expect(page.locator("pre mark")).to_contain_text('"operating_profit"')
            self.accessible(page)
            page.keyboard.press("Escape")
            expect(page.locator("pre")).to_have_count(0)
            expect(panel).to_be_visible()
            page.keyboard.press("Escape")
            expect(panel).to_have_count(0)

    def test_hindsight_can_be_switched_off(self) -> None:
        with self.page() as page:
            expect(page.locator("td.later")).to_have_count(1)
            page.get_by_label("Hindsight").uncheck()
            expect(page.locator("td.later")).to_have_count(0)
            page.get_by_role("row", name="Ashgrove").get_by_role("button").click()
            expect(page.locator(".versions li")).to_have_count(1)
            self.assertEqual(self.query(page)["hindsight"], "off")

    def test_the_address_holds_the_whole_state(self) -> None:
        with self.page() as page:
            page.get_by_label("Rule").fill("net_income / total_assets > 5%\nand active")
            page.get_by_role("button", name="Run").click()
            expect(page.locator("thead")).to_contain_text("net_income / total_assets")
            page.get_by_role("button", name="fail").click()
            page.locator("tbody tr").first.get_by_role("button").first.click()
            expect(page.locator(".versions li").first).to_be_visible()
            shown, address = self.names(page), page.url
        with self.page(address.removeprefix(self.live.url)) as other:
            expect(other.locator(".versions li").first).to_be_visible()
            self.assertEqual(self.names(other), shown)
            expect(other.get_by_label("Rule")).to_have_value(
                "net_income / total_assets > 5%\nand active"
            )

    def test_a_wrong_rule_is_shown_beside_the_field_and_the_old_answer_stays(self) -> None:
        with self.page() as page:
            expect(page.locator("tbody tr")).to_have_count(12)
            page.get_by_label("Rule").fill("operating_income / revnue > 15%")
            page.keyboard.press("Enter")
            expect(page.locator("#rule-problem")).to_contain_text("did you mean revenue")
            expect(page.locator("#rule-problem")).to_contain_text("line 1, column 20")
            expect(page.locator("tbody tr")).to_have_count(12)
            expect(page.get_by_role("button", name="Export CSV")).to_be_disabled()
            self.accessible(page)
        with self.page("/screens?known_on=2023-06-30&list=nobody") as page:
            expect(page.locator("#rule-problem")).to_contain_text("known are first-look")

    def test_missing_cells_say_their_reason(self) -> None:
        with self.page("/screens?known_on=2024-06-30&show=unknown") as page:
            for word in ("n/a bank", "n/a insurer", "withdrawn", "incomplete"):
                cell = page.locator("button.figure", has_text=re.compile(f"^{word}$"))
                expect(cell).to_be_visible()
                self.assertTrue(cell.get_attribute("title"), word)
            page.locator("button.figure", has_text="withdrawn").click()
            expect(page.locator(".versions .on")).to_contain_text("withdrawn")
            expect(page.locator(".versions .on")).to_contain_text("6 May 2024")

    def test_the_ruler_moves_by_keys_and_by_dragging(self) -> None:
        with self.page() as page:
            ruler = page.get_by_role("slider")
            ruler.focus()
            for key, day in (
                ("ArrowRight", "2023-07-31"),
                ("Shift+ArrowLeft", "2023-07-30"),
                ("ArrowLeft", "2023-06-30"),
                ("PageUp", "2024-06-30"),
                ("PageDown", "2023-06-30"),
            ):
                page.keyboard.press(key)
                page.wait_for_url(f"**known_on={day}*")
            box = ruler.bounding_box()
            assert box
            page.mouse.move(box["x"] + box["width"] * 0.9, box["y"] + 10)
            page.mouse.down()
            page.mouse.move(box["x"] + 3, box["y"] + 10, steps=4)
            page.mouse.up()
            page.wait_for_url("**known_on=2020-0*")
            expect(page.locator(".none")).to_contain_text("No company was on this list")
            page.get_by_role("button", name="Today").click()
            expect(page.locator(".past")).to_have_count(0)
            expect(page.get_by_role("button", name="Today")).to_be_disabled()

    def test_keys_reach_the_rule_the_cells_and_the_page(self) -> None:
        with self.page() as page:
            expect(page.locator("tbody tr")).to_have_count(12)
            page.keyboard.press("/")
            expect(page.get_by_label("Rule")).to_be_focused()
            page.locator("tbody tr").first.get_by_role("button").focus()
            page.keyboard.press("ArrowDown")
            expect(page.locator("tbody tr").nth(1).get_by_role("button")).to_be_focused()
            page.keyboard.press("Enter")
            expect(page.locator(".versions li").first).to_be_visible()
            page.keyboard.press("g")
            page.keyboard.press("s")
            page.wait_for_url("**/screens?known_on=2023-06-30*")

    def test_an_export_has_what_is_shown_and_no_hindsight(self) -> None:
        with self.page() as page:
            expect(page.locator("tbody tr")).to_have_count(12)
            with page.expect_download() as caught:
                page.get_by_role("button", name="Export CSV").click()
            rows = list(csv.DictReader(Path(caught.value.path()).read_text("utf-8").splitlines()))
            self.assertEqual(caught.value.suggested_filename, "screen first-look 2023-06-30.csv")
            self.assertEqual(sum(r["verdict"] == "pass" for r in rows), 12)
            self.assertFalse([name for name in rows[0] if "later" in name])

    def test_both_themes_are_accessible_and_nothing_overflows(self) -> None:
        rule = "operating_income / revenue > 15% and growth(revenue, 1y) > 2% and net_income > 0 and diluted_eps > 0"
        for theme in ("light", "dark"):
            with self.page(
                f"{JUNE}&rule={rule.replace('%', '%25').replace(' ', '+')}", theme=theme
            ) as page:
                expect(page.locator("thead")).to_contain_text("diluted_eps")
                page.locator("tbody tr").first.get_by_role("button").first.click()
                expect(page.locator(".versions li").first).to_be_visible()
                self.accessible(page)
                self.fits(page)
                page.get_by_role("button", name="theme").click()
                other = "dark" if theme == "light" else "light"
                expect(page.locator(f".v-theme--{other}").first).to_be_attached()
                page.reload()
                expect(page.locator(f".v-theme--{other}").first).to_be_attached()

    def test_nothing_moves_for_whoever_asks_for_less_motion(self) -> None:
        moving = """[...document.querySelectorAll('*')].filter((e) => { const s = getComputedStyle(e);
            return [...s.transitionDuration.split(','), ...s.animationDuration.split(',')]
                .some((d) => parseFloat(d) > 0.001) }).length"""
        with self.page(JUNE) as page:
            expect(page.locator("tbody tr").first).to_be_visible()
            self.assertGreater(page.evaluate(moving), 0)
            page.emulate_media(reduced_motion="reduce")
            self.assertEqual(page.evaluate(moving), 0)

    def test_a_service_that_went_away_is_named(self) -> None:
        with self.page(expected="ERR_FAILED") as page:
            expect(page.locator("tbody tr")).to_have_count(12)
            page.route("**/api/**", lambda route: route.abort())
            page.get_by_role("button", name="To the next month end").click()
            expect(page.locator("#rule-problem")).to_contain_text("does not answer")
            page.unroute("**/api/**")
            page.get_by_role("button", name="To the next month end").click()
            expect(page.locator("#rule-problem")).to_be_empty()

    def test_matching_settling_and_keeping_a_list(self) -> None:
        with self.page("/match?known_on=2024-03-31") as page:
            terms = (
                "name,country\nMarlow Intl Shipping,XB\nMarlow Shipping,\nLNK@ZALD,\n"
                "Wexmoor Airways,\nXA1576992848,\n"
            )
            page.get_by_label("Names, symbols or identifiers").fill(terms)
            page.get_by_role("button", name="Match", exact=True).click()
            expect(page.locator(".row")).to_have_count(5)
            expect(page.get_by_label("Column")).to_have_value("name")
            for place, words in enumerate(
                ("matched", "to settle", "Linkwater Technology", "bankruptcy", "did you mean")
            ):
                expect(page.locator(".row").nth(place)).to_contain_text(words)
            self.accessible(page)
            self.fits(page)
            page.get_by_label("Your name").fill("Ada")
            page.locator(".row").nth(1).focus()
            page.keyboard.press("1")
            expect(page.locator(".row").nth(1)).to_contain_text("decided by Ada")
            page.get_by_label("Name of the list").fill("three-firms")
            page.get_by_role("button", name="Keep as list").click()
            expect(page.get_by_role("status")).to_have_text(
                "Kept as list three-firms: 2 companies."
            )
            page.get_by_role("button", name="1 inactive").click()
            expect(page.locator(".row")).to_have_count(1)
            page.get_by_role("link", name="Screens").click()
            page.get_by_label("List", exact=True).select_option("three-firms")
            expect(page.get_by_role("button", name="2 unknown")).to_be_visible()

    def test_ten_thousand_rows_stay_fluid(self) -> None:
        with self.page("/match?known_on=2024-03-31") as page:
            lines = "\n".join(f"AGK@ZALD\nNobody {n}" for n in range(5000))
            file = {"name": "many.txt", "mimeType": "text/plain", "buffer": lines.encode()}
            page.locator("input[type=file]").set_input_files(file)  # type: ignore[arg-type]
            expect(page.get_by_role("button", name="10,000 rows")).to_be_visible(timeout=30_000)
            self.assertLess(page.locator(".row").count(), 120)

            def at_the_end() -> bool:  # which moves on as rows turn out to be higher
                page.locator(".rows").evaluate("(e) => e.scrollTo(0, e.scrollHeight)")
                return "Nobody 4999" in page.locator(".row").last.inner_text()

            self.comes(page, at_the_end, "the last row")

    def test_finding_a_company_and_its_page_through_time(self) -> None:
        with self.page("/companies?known_on=2024-03-31") as page:
            expect(page.locator("tbody tr")).to_have_count(32)
            page.keyboard.press("/")
            page.keyboard.type("pellam")
            expect(page.locator("tbody tr")).to_have_count(1)
            self.accessible(page)
            page.get_by_role("link", name="Pellam Tide Power").click()
            expect(page.locator("h1")).to_have_text("Pellam Tide Power")
            for words in (
                "PTPR@ZCAL",
                "depositary receipt",
                "lei",
                "Operating income",
                "Results, third quarter 2023",
            ):
                expect(page.locator("main")).to_contain_text(words)
            self.accessible(page)
            self.fits(page)
            page.get_by_role("button", name="Results, third quarter 2023").click()
            expect(page.locator("pre")).to_contain_text("FM-0002")
        with self.page("/companies/LNK@ZALD?known_on=2024-03-31", theme="dark") as page:
            expect(page.locator("h1")).to_have_text("Linkwater Technology Holdings plc")
            self.accessible(page)

    def test_lists_are_shown_on_a_date_and_kept_by_a_rule(self) -> None:
        with self.page("/lists?known_on=2023-06-30") as page:
            page.get_by_role("link", name="First look").click()
            expect(page.locator("tbody tr")).to_have_count(23)
            page.get_by_label("Name", exact=True).fill("members-of-caldry")
            page.get_by_label("Rule").fill("country = 3")
            page.get_by_role("button", name="Keep").click()
            expect(page.get_by_role("alert")).to_contain_text("write == to compare")
            page.get_by_label("Rule").fill('country == "XC" and active')
            page.get_by_role("button", name="Keep").click()
            expect(page.locator("p.code")).to_have_text('country == "XC" and active')
            expect(page.locator("tbody tr")).to_have_count(6)
            page.get_by_label("Add a column").fill("revenue")
            page.keyboard.press("Enter")
            expect(page.get_by_role("columnheader", name="revenue, mn")).to_be_visible()
            self.accessible(page)
            self.fits(page)
            page.get_by_role("link", name="Screen this list").click()
            expect(page.get_by_label("List")).to_have_value("members-of-caldry")

    def test_a_list_is_copied_edited_and_its_history_shown(self) -> None:
        with self.page("/lists?list=index-of-aldmoor&known_on=2024-03-31") as page:
            page.get_by_label("Your name").fill("Ada")
            page.get_by_role("button", name="Copy").click()
            page.get_by_label("Name of the copy").fill("my-aldmoor")
            page.get_by_role("button", name="Keep a copy").click()
            page.get_by_label("Add a company").fill("ISK@ZCAL")
            page.keyboard.press("Enter")
            page.get_by_role("button", name="Remove Garrick Moor Quarries").click()
            page.get_by_role("button", name="History").click()
            expect(page.get_by_role("row", name="came: Isken Paper")).to_contain_text("Ada")
            expect(page.get_by_role("row", name="left: Garrick Moor Quarries")).to_be_visible()
            self.accessible(page)

    def test_directories_count_and_lead_to_companies(self) -> None:
        with self.page("/directories/venues?known_on=2024-03-31") as page:
            page.get_by_role("row", name="depositary receipt").get_by_role("link").click()
            expect(page.locator("tbody tr")).to_have_count(1)
            page.get_by_role("link", name="Pellam Tide Power").click()
            expect(page.locator("h1")).to_have_text("Pellam Tide Power")

    def test_a_collection_is_planned_followed_and_its_digest_read(self) -> None:
        with self.page("/collect") as page:
            page.get_by_role("button", name="Plan").click()
            expect(page.get_by_role("status").first).to_contain_text("32 known to be unchanged")
            page.get_by_role("button", name="Collect", exact=True).click()
            expect(page.locator("header p")).to_contain_text("finished")
            expect(page.locator(".words")).to_contain_text("32 unchanged, 0 failed")
            expect(page.locator(".counts")).to_contain_text("new facts")
            self.accessible(page)
            page.get_by_role("link", name="Companies", exact=True).last.click()
            expect(page.locator("tbody tr")).to_have_count(32)
            self.fits(page)
            page.get_by_role("link", name="All runs").click()
            page.get_by_role("link", name="1, fernmark").click()
            expect(page.locator(".words").last).to_contain_text("30 list members")
            page.get_by_role("link", name="All runs").click()
            page.get_by_label("Name", exact=True).fill("nightly")
            page.get_by_role("button", name="Keep a schedule").click()
            expect(page.get_by_role("row", name="nightly")).to_contain_text("at 02:30 UTC")
            self.accessible(page)
            self.fits(page)

    def test_a_run_that_partly_failed_names_them_and_tries_them_again(self) -> None:
        self.source.fault("down", "FM-0007/filings")
        self.addCleanup(self.source.fault, None)
        run = self.ledger.collect("fernmark", "first-look", since=date(2012, 1, 1))
        with self.page(f"/runs/{run.id}?view=outcomes") as page:
            expect(page.locator("tbody tr").first).to_contain_text("Vennet Harbour Lines")
            expect(page.locator("tbody tr").first).to_contain_text(
                "the source answers with an error"
            )
            self.source.fault(None)
            page.get_by_role("button", name="Try the 1 failed again").click()
            expect(page.locator("header p")).to_contain_text("finished")
            expect(page.locator(".words")).to_contain_text("1 of 1 done")

    def test_a_statement_moves_with_the_stamp_and_opens_to_the_document(self) -> None:
        with self.page("/statements?company=AGK@ZALD&known_on=2023-06-30", theme="dark") as page:
            table = page.get_by_role("region", name="Ashgrove Kilnworks, income")
            row = table.get_by_role("row", name="Operating income")
            expect(row.locator("td.later")).to_have_count(1)
            before = row.locator("td").nth(-2).inner_text()
            self.accessible(page)
            page.goto(page.url.replace("2023-06-30", "2024-01-31"))
            expect(row.locator("td.restated")).to_have_count(1)
            self.assertNotEqual(row.locator("td").nth(-2).inner_text(), before)
            page.get_by_label("frequency").select_option("trailing")
            expect(table.get_by_role("columnheader").nth(1)).to_contain_text("FY2021")
            row.locator("td button.figure").last.click()
            panel = page.get_by_label("Figure", exact=True)
            expect(panel).to_contain_text("operating_income.ttm")
            panel.get_by_role("button", name="Operating income").click()
            panel.locator(".where .link").first.click()
            expect(page.locator("pre mark")).to_contain_text('"operating_profit"')
            page.keyboard.press("Escape")
            expect(page.locator("pre mark")).to_have_count(0)
            expect(panel).to_be_visible()
            page.keyboard.press("Escape")
            expect(panel).to_have_count(0)
            table.get_by_role("button", name="Revenue", exact=True).click()
            expect(page.locator("figure svg text").first).to_be_visible()
            self.fits(page)
            self.accessible(page)

    def test_statements_turn_stand_side_by_side_and_show_what_was_restated(self) -> None:
        with self.page(
            "/statements?company=AGK@ZALD,DMB@ZALD&known_on=2024-06-30&statement=balance&lines=all"
        ) as page:
            bank = page.get_by_role("region", name="Dunmarsh Bank, balance")
            expect(bank.get_by_role("row", name=re.compile("^Current assets"))).to_contain_text(
                "n/a bank"
            )
            page.get_by_role("button", name="More").click()
            page.get_by_label("Transpose").check()
            expect(bank.get_by_role("columnheader").first).to_contain_text("Period")
            page.get_by_label("Another company").fill("quennick")
            page.get_by_role("option", name="Quennick Foundry").click()
            expect(page.locator("h1")).to_have_text("Quennick Foundry")
            page.goto(
                f"{self.live.url}/statements?company=AGK@ZALD&statement=restatements&known_on=2024-06-30"
            )
            restated = page.get_by_role("row", name=re.compile("Operating income FY2022 "))
            expect(restated).to_contain_text("Restated accounts")
            self.accessible(page)

    def test_amounts_are_shown_in_a_currency_of_choice_and_scale_m2(self) -> None:
        with self.page("/statements?company=AGK@ZALD&known_on=2024-06-30") as page:
            corner = page.locator("thead th").first
            expect(corner).to_have_text("USD mn")
            page.get_by_label("Currency").select_option("EUR")
            page.get_by_role("button", name="More").click()
            page.get_by_label("scale").select_option("bn")
            expect(corner).to_have_text("EUR bn")
            page.locator("tbody .figure").first.click()
            expect(page.get_by_label("Figure", exact=True)).to_contain_text(
                "EUR for 1 USD, the mean of 261 rates from"
            )
            self.accessible(page)
            self.fits(page)

    def test_the_catalogue_finds_by_synonym_and_leads_to_the_item(self) -> None:
        with self.page("/catalogue") as page:
            page.get_by_label("Search the catalogue").fill("turnover")
            expect(page.locator("tbody tr").first).to_contain_text("revenue")
            page.get_by_label("Show the value for a company").fill("AGK@ZALD")
            page.keyboard.press("Enter")
            expect(page.locator("tbody tr").first).to_contain_text("USD mn")
            self.accessible(page)
            page.get_by_role("link", name="Revenue", exact=True).click()
            expect(page.locator("main")).to_contain_text("24 companies")
            self.accessible(page)
            self.fits(page)

    def test_quality_shows_coverage_and_an_empty_quarantine(self) -> None:
        with self.page("/quality") as page:
            expect(page.locator("header")).to_contain_text("No figure waits in quarantine")
            self.accessible(page)
            page.get_by_role("button", name="Coverage").click()
            expect(page.get_by_role("row", name="Revenue").first).to_contain_text("24")
            self.accessible(page)
            self.fits(page)

    def test_a_limit_is_set_for_a_source_and_taken_back(self) -> None:
        with self.page("/quality?view=limits") as page:
            page.get_by_label("Limit", exact=True).select_option("lag_of_year")
            page.get_by_label("Days").fill("75")
            page.get_by_label("Only of this source").fill("fernmrk")
            page.get_by_label("Who says so").fill("Ada")
            page.get_by_label("Why").fill("by the middle of March")
            page.get_by_role("button", name="Set").click()
            expect(page.locator("main")).to_contain_text("did you mean fernmark?")
            page.get_by_label("Only of this source").fill("fernmark")
            page.get_by_role("button", name="Set").click()
            own = page.get_by_role("row", name="fernmark")
            expect(own).to_contain_text("Ada: by the middle of March")
            expect(own.get_by_role("cell", name="75")).to_be_visible()
            self.accessible(page)
            self.fits(page)
            page.get_by_role("button", name="take back").click()
            expect(own).to_have_count(0)
