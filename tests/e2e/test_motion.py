"""Every page under motion, under a keyboard, and looked at by axe:
what stands on it belongs to what is asked.
"""

import re
import time
import unittest
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.e2e.pages import Moving, Pages

RULE = "operating_income / revenue > 15%25 and revenue > 1mn EUR"
OPENED = f"/screens?list=first-look&rule={RULE}"
# Pages whose answers are those of the stamp; each is held to the same.
DATED = (
    f"/screens?list=first-look&rule={RULE}",
    "/statements?company=AGK@ZALD",
    "/statements?company=AGK@ZALD&frequency=both&ratios=yes",
    "/lists?list=first-look&show=revenue",
    "/companies?q=",
    "/companies/AGK@ZALD?",
    "/directories/venues?",
    "/directories/securities?",
    "/directories/listings?",
    "/market?",
    "/calendar?",
    "/estimates?company=AGK@ZALD",
    "/panels?c=revenue&list=first-look",
)
OTHERS = (
    "/match?",
    "/measures/net_margin?",
    "/catalogue?",
    "/catalogue/revenue?",
    "/collect?",
    "/quality?",
    "/quality?view=coverage",
    "/quality?view=market",
    "/quality?view=limits",
    "/runs/1?",
    "/statements?company=AGK@ZALD&statement=restatements",
    "/lists?list=first-look&view=history",
    "/tokens?",
    "/series?",
)


# Tables without a name, with rows that have no head, or that are more than one stop of the tab key.
WRONG_TABLES = """[...document.querySelectorAll('table')].filter((t) => !t.caption || [...t.tBodies].some((b) =>
    [...b.rows].some((r) => r.cells.length > 2 && !r.querySelector('th'))) ||
    [...t.querySelectorAll('tbody :is(a[href], button, input[type=checkbox]):not(:disabled)')]
        .filter((e) => e.tabIndex >= 0).length > 1).map((t) => t.outerHTML.slice(0, 300))"""


def sideways(page: Page) -> bool:
    return bool(page.evaluate("document.documentElement.scrollWidth > innerWidth"))


class Motion(Moving):
    def test_no_answer_stands_unmarked_under_a_question_that_it_does_not_belong_to(self) -> None:
        for address in DATED:
            with (
                self.subTest(address),
                self.page(f"{address}&known_on=2023-06-30", expected="status of 5") as page,
            ):
                self.held_under_motion(page)

    def test_the_stamp_goes_along_and_cannot_pass_today(self) -> None:
        with self.page("/statements?company=AGK@ZALD&known_on=2023-06-30") as page:
            self.settled(page)
            page.keyboard.press("g")
            page.keyboard.press("c")
            page.wait_for_url("**/companies?known_on=2023-06-30*")
            page.goto(f"{self.live.url}/screens?known_on=2999-01-31")
            expect(page.get_by_role("button", name="To the next month end")).to_be_disabled()
            self.assertLess(self.query(page)["known_on"], "2999")
            page.goto(f"{self.live.url}/screens")
            self.says(page, "list", "first-look")  # what was assumed is written down
            self.says(page, "known_on", "20")

    def test_a_token_that_ends_leads_back_to_the_same_place_and_all_tabs_sign_out(self) -> None:
        made = self.ledger.make_token("for a tab")
        with self.page("/statements?company=AGK@ZALD&known_on=2023-06-30", signed_in=False) as page:
            page.get_by_label("Token").fill(made.token)
            page.keyboard.press("Enter")
            self.settled(page)
            other = page.context.new_page()
            other.goto(page.url)
            expect(other.locator("h1")).to_have_text("Ashgrove Kilnworks")
            self.ledger.revoke_token(made.id)
            page.keyboard.press("[")
            expect(page.get_by_role("alert")).to_contain_text("ended or was revoked")
            expect(other.get_by_label("Token")).to_be_visible()
            page.get_by_label("Token").fill(self.live.token)
            page.keyboard.press("Enter")
            expect(page.locator("h1")).to_have_text("Ashgrove Kilnworks")
            self.assertEqual(self.query(page)["known_on"], "2023-05-31")

    def test_a_search_leads_into_what_it_found_and_never_into_what_it_found_before(self) -> None:
        with self.page("/companies?known_on=2023-06-30") as page:
            self.settled(page)
            self.on(page, "quennick", lambda route: (time.sleep(0.4), route.continue_()))
            page.keyboard.press("/")
            page.keyboard.type("quennick")
            page.keyboard.press("Enter")  # while the table shows everybody still
            expect(page.locator("h1")).to_have_text("Quennick Foundry")
            page.go_back()
            self.settled(page)
            page.keyboard.press("/")
            page.keyboard.press("Control+A")
            page.keyboard.type("ashgrove")
            page.keyboard.press("ArrowDown")
            expect(page.get_by_role("link", name="Ashgrove Kilnworks")).to_be_focused()
            page.keyboard.press("ArrowUp")
            expect(page.get_by_label("Search companies")).to_be_focused()

    def test_a_statement_adds_up_downwards_and_compares_only_what_has_a_common_axis(self) -> None:
        with self.page("/statements?company=AGK@ZALD&known_on=2023-06-30") as page:
            self.settled(page)

            def number(line: str) -> float:
                text = (
                    page.get_by_role("row", name=re.compile(f"^{line}"))
                    .locator("button.figure")
                    .last.inner_text()
                )
                plain = float(text.strip("()").replace(",", ""))
                return -plain if text.startswith("(") else plain

            self.assertGreater(number("Revenue"), 0)
            self.assertLess(number("Cost of revenue"), 0)  # taken from its subtotal
            page.goto(
                f"{self.live.url}/statements?company=AGK@ZALD,PTP@ZBRE&draw=revenue&known_on=2023-06-30"
            )
            self.settled(page)
            expect(page.get_by_role("alert")).to_contain_text("have no common axis")
            page.get_by_role("button", name="index to 100").click()
            expect(page.locator("figure svg text").first).to_be_visible()
            page.goto(
                f"{self.live.url}/statements?company=AGK@ZALD&known_on=2024-06-30&compare=2023-12-31"
            )
            expect(page.locator("td.moved").first).to_contain_text("→")


class Keyboard(Pages):
    def tab_to(self, page: Page, name: str, most: int = 60) -> None:
        """The tab key alone leads there."""
        for _ in range(most):
            page.keyboard.press("Tab")
            here = page.evaluate(
                "(e => e.getAttribute('aria-label') || e.innerText || '')(document.activeElement)"
            )
            if re.search(name, here):
                return
        self.fail(f"the tab key does not lead to {name} in {most} steps")

    def test_one_task_from_a_file_of_names_to_a_document_with_no_mouse(self) -> None:
        with self.page("/match?known_on=2024-03-31") as page:
            expect(page.get_by_label("Names, symbols or identifiers")).to_be_visible()
            page.keyboard.press("/")
            page.keyboard.type("Marlow Shipping\nAGK@ZALD\nOxlade Instruments\n")
            page.keyboard.press("Control+Enter")
            expect(page.locator(".row")).to_have_count(3)
            page.locator(".row").first.focus()
            page.keyboard.press("1")  # settles it
            expect(page.locator(".row").first).to_contain_text("decided by")
            page.get_by_label("Name of the list").focus()
            page.keyboard.type("by-keys")
            self.tab_to(page, "^Keep as list")
            page.keyboard.press("Enter")
            expect(page.get_by_text("Kept as list by-keys")).to_be_visible()
            page.evaluate("document.activeElement.blur()")
            page.keyboard.press("g")
            page.keyboard.press("l")
            expect(page.locator("h1")).to_have_text("Lists")
            page.goto(
                f"{page.url.split('?')[0].replace('/lists', '/screens')}?list=by-keys&known_on=2024-03-31"
            )
            expect(page.locator("tbody tr").first).to_be_visible()
            page.keyboard.press("/")
            page.keyboard.press("Control+A")
            page.keyboard.type("net_income / revenue > 1%")
            page.keyboard.press("Enter")
            expect(page.locator("thead")).to_contain_text("net_income / revenue")
            # one stop in the table: a figure, or what stands before it
            self.tab_to(page, "net_income / revenue, %: ")
            page.keyboard.press("ArrowDown")
            page.keyboard.press("Enter")
            panel = page.get_by_label("Figure", exact=True)
            expect(panel).to_be_visible()
            expect(panel.locator("h2").first).to_be_focused()
            self.tab_to(page, "^Open |^open$")
            page.keyboard.press("Enter")
            expect(page.locator("pre")).to_be_visible()
            self.says(page, "document", "")
            page.keyboard.press("Escape")
            expect(page.locator("pre")).to_have_count(0)
            expect(panel).to_be_visible()
            page.keyboard.press("Escape")
            expect(panel).to_have_count(0)
            self.assertRegex(
                page.evaluate("document.activeElement.getAttribute('data-cell')"), r"^1:\d"
            )
            with page.expect_download() as caught:
                self.tab_to(page, "^Export CSV", 200)
                page.keyboard.press("Enter")
            self.assertIn("net_income", Path(caught.value.path()).read_text("utf-8"))

    def test_a_table_is_one_stop_with_arrows_inside_and_each_cell_says_what_it_is(self) -> None:
        with self.page("/statements?company=AGK@ZALD&known_on=2023-06-30") as page:
            table = page.get_by_role("region", name="Ashgrove Kilnworks, income")
            expect(table.locator("button.figure").first).to_be_visible()
            self.assertEqual(table.locator("[tabindex='0']").count(), 1)
            table.locator("[data-cell='0:0']").focus()
            page.keyboard.press("End")
            page.keyboard.press("ArrowDown")
            label = page.evaluate("document.activeElement.getAttribute('aria-label')")
            self.assertRegex(
                label,
                r"^Cost of revenue, FY2022, in USD mn: +\(1,\d+\.\d\)\. .*Reads like this since",
            )
            page.keyboard.press("Home")
            self.assertEqual(page.evaluate("document.activeElement.innerText"), "Cost of revenue")
            self.assertEqual(
                table.locator("tbody th[scope=row]").count(), table.locator("tbody tr").count()
            )
            page.keyboard.press("Shift+?")
            expect(page.get_by_role("heading", name="Keys", exact=True)).to_be_visible()
            page.keyboard.press("Escape")
            expect(page.get_by_role("heading", name="Keys", exact=True)).to_have_count(0)
            # Tabs have arrows; the address holds the document that is open.
            page.get_by_role("tab", name="Income").focus()
            page.keyboard.press("ArrowRight")
            expect(page.get_by_role("tab", name="Balance sheet")).to_be_focused()
            expect(page.get_by_role("tabpanel")).to_contain_text("Total assets")
            page.get_by_label("Another company").fill("quennick")
            expect(page.get_by_role("option", name="Quennick Foundry")).to_be_visible()
            page.keyboard.press("Enter")
            expect(page.locator("h1")).to_have_text("Quennick Foundry")


class Looked(Pages):
    def test_pages_are_accessible_in_both_themes_and_every_state_fit_a_small_window_and_ask_once(
        self,
    ) -> None:
        for address in (*DATED, *OTHERS, "/screens?rule=revnue"):
            with self.subTest(address), self.page(f"{address}&known_on=2023-06-30") as page:
                page.set_viewport_size({"width": 1024, "height": 768})
                self.quiet(page)
                self.assertTrue(self.asked)
                self.assertEqual(sorted({a for a in self.asked if self.asked.count(a) > 1}), [])
                self.accessible(page)
                self.assertEqual(page.evaluate(WRONG_TABLES), [])
                page.get_by_role("button", name="Dark theme").click()
                self.accessible(page, rules=["color-contrast"])  # a theme is colours
                # At twice its size a window of 1280 has room for 640.
                for width in (1024, 640):
                    page.set_viewport_size({"width": width, "height": 600})
                    # Sideways the page never scrolls, once it has settled in its new size.
                    self.comes(
                        page, lambda: not sideways(page), f"no scrolling sideways at {width}"
                    )
                    self.heads_stay(page)
        for theme in ("light", "dark"):
            with (
                self.subTest("menu, keys, panel, document", theme=theme),
                self.page(f"{OPENED}&known_on=2023-06-30", theme=theme) as page,
            ):
                page.locator("tbody button.figure").first.click()
                expect(page.locator(".versions li").first).to_be_visible()
                self.accessible(page)
                page.locator(".versions .link").first.click()
                expect(page.locator("pre")).to_be_visible()
                self.accessible(page)
                page.keyboard.press("Escape")
                page.get_by_role("button", name="Known on").click()
                expect(page.get_by_label("As known at the end of")).to_be_visible()
                self.accessible(page)
                page.keyboard.press("Escape")
                page.keyboard.press("Escape")
                page.evaluate("document.activeElement.blur()")
                page.keyboard.press("Shift+?")
                self.accessible(page)


if __name__ == "__main__":
    unittest.main()
