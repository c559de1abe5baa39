"""The console's pages of measures and panels in headless Chromium."""

from playwright.sync_api import expect

from tests.e2e.pages import Pages

STAMP = "known_on=2024-06-28"


class Measures(Pages):
    def test_a_measure_is_found_looked_at_and_followed_for_a_company(self) -> None:
        with self.page(f"/measures?{STAMP}") as page:
            page.get_by_label("Search measures").fill("operating margin")
            page.get_by_role("link", name="Operating margin", exact=True).click()
            expect(page.get_by_role("heading", name="Operating margin", exact=True)).to_be_visible()
            expect(
                page.get_by_text("operating income of twelve months over revenue of twelve months")
            ).to_be_visible()
            expect(page.get_by_text("5th to 95th percentile of")).to_be_visible()
            page.get_by_label("A company").fill("AGK@ZALD")
            page.keyboard.press("Enter")
            expect(page.get_by_text("Ashgrove Kilnworks, by month as known then")).to_be_visible()
            self.says(page, "company", "AGK@ZALD")
            self.accessible(page)
            self.fits(page)

    def test_a_measure_is_written_with_names_completed_and_mistakes_shown(self) -> None:
        with self.page(f"/measures?{STAMP}", theme="dark", expected="status of 422") as page:
            page.get_by_role("button", name="New").click()
            page.get_by_label("Name", exact=True).fill("typed_margin")
            formula = page.get_by_label("Formula")
            formula.press_sequentially("net_income / reve")
            expect(page.get_by_role("option").first).to_contain_text("revenue")
            page.keyboard.press("Enter")
            expect(formula).to_have_value("net_income / revenue")
            formula.press_sequentially(" && 5")
            expect(page.get_by_text("&& is no word of this language: write and")).to_be_visible()
            self.accessible(page)
            formula.fill("net_income / revenue")
            expect(
                page.get_by_text("net income of twelve months over revenue of twelve months")
            ).to_be_visible()
            page.get_by_label("Title").fill("A margin as typed")
            page.get_by_label("Kept by").fill("Ada")
            page.get_by_role("button", name="Keep", exact=True).click()
            expect(page.get_by_text("version 1 by Ada")).to_be_visible()
        self.assertEqual(self.ledger.measure("typed_margin").formula, "net_income / revenue")


class Panels(Pages):
    def test_a_panel_is_built_its_columns_looked_at_and_taken_away(self) -> None:
        with self.page(
            f"/panels?{STAMP}&list=first-look&dates=2021-12-31/2024-06-28 quarterly",
            expected="of 422",
        ) as page:
            box = page.get_by_label("Add a column")
            box.press_sequentially("operating_margi")
            names = page.get_by_role("listbox", name="Names")
            expect(names.get_by_role("option").first).to_contain_text("operating_margin")
            page.keyboard.press("Enter")
            page.keyboard.press("Enter")
            self.says(page, "c", "operating_margin")
            expect(page.get_by_role("columnheader", name="operating_margin")).to_be_visible()
            expect(page.get_by_role("row").nth(1)).to_contain_text("2021-12-31")
            self.accessible(page)
            with page.expect_download() as found:
                page.get_by_role("button", name="CSV").click()
            lines = found.value.path().read_text("utf-8").splitlines()
            wanted = self.ledger.panel(
                "first-look", "operating_margin", "2021-12-31/2024-06-28 quarterly", "2024-06-28"
            )
            self.assertEqual(len(lines) - 1, len(wanted))
            page.get_by_role("button", name="How the columns lie").click()
            expect(page.get_by_role("rowheader", name="operating_margin")).to_be_visible()
            self.accessible(page)
            self.fits(page)

    def test_by_period_with_a_condition_kept_and_opened_again(self) -> None:
        with self.page(
            f"/panels?{STAMP}&list=first-look&c=revenue&c=net_margin&where=net_margin > 5%25",
            theme="dark",
        ) as page:
            page.get_by_role("button", name="by fiscal period").click()
            expect(page.get_by_role("columnheader", name="Period")).to_be_visible()
            expect(page.get_by_text("of them where the condition holds")).to_be_visible()
            page.get_by_role("button", name="keep it").click()
            page.get_by_label("Name", exact=True).fill("years")
            page.get_by_label("Title").fill("Years of the few")
            page.get_by_label("Your name").fill("Ada")
            page.get_by_role("button", name="Keep", exact=True).click()
            self.says(page, "kept", "years")
            page.goto(f"{self.live.url}/panels?{STAMP}")
            page.get_by_label("Open a kept panel").select_option(
                label="Years of the few, version 1"
            )
            expect(page.get_by_role("columnheader", name="net_margin")).to_be_visible()
            self.says(page, "where", "net_margin > 5%")
        self.assertEqual(
            self.ledger.question("years").question["expressions"], ["revenue", "net_margin"]
        )

    def test_what_was_kept_elsewhere_is_opened_and_kept_again_as_it_was(self) -> None:
        question = {
            "expressions": ["revenue"],
            "companies": ["AGK@ZALD", "DMB@ZALD"],
            "dates": ["2022-12-31", "2023-12-31"],
            "leave_out": ["assumed", "flagged"],
            "recorded_by": 20,
            "layout": "tidy",
            "beside": ["reason"],
        }
        words = {"title": "Two days", "description": "as the committee saw it"}
        self.ledger.keep_question("two-days", "panel", question, "Ada", **words)
        with self.page(f"/panels?{STAMP}&list=first-look&lag=30&c=net_margin") as page:
            page.get_by_label("Open a kept panel").select_option(label="Two days, version 1")
            expect(page.get_by_role("columnheader", name="revenue")).to_be_visible()
            expect(page.locator("tbody tr")).to_have_count(4)
            page.get_by_role("button", name="keep it").click()
            page.get_by_label("Your name").fill("Bea")
            page.get_by_role("button", name="Keep", exact=True).click()
            expect(page.get_by_label("Open a kept panel")).to_contain_text("Two days, version 2")
        again = self.ledger.question("two-days")
        self.assertEqual({n: again.question[n] for n in question}, question)
        self.assertEqual((again.title, again.description, again.who), (*words.values(), "Bea"))
        self.assertEqual(again.question.get("lag") or 0, 0)

    def test_a_mistake_stands_where_it_was_made(self) -> None:
        with self.page(f"/panels?{STAMP}&c=nett_margin", expected="status of 422") as page:
            expect(page.get_by_role("alert")).to_contain_text("did you mean net_margin")
