"""The console's page of tokens, and what every page does while the service has its hands full."""

from playwright.sync_api import Route, expect

from tests.e2e.pages import Pages
from tests.live import PLAIN


class Tokens(Pages):
    def test_a_token_is_made_shown_once_and_revoked(self) -> None:
        with self.page("/tokens") as page:
            page.get_by_label("Whose the token is").fill("the price loader")
            page.get_by_role("button", name="Make a token").click()
            token = page.locator(".secret code").inner_text()
            headers = {"Authorization": f"Bearer {token}"}
            asked = f"{self.live.url}/api/v1/lists"
            self.assertEqual(PLAIN.get(asked, headers=headers).status_code, 200)
            self.accessible(page)
            self.fits(page)
            page.reload()
            expect(page.get_by_role("row", name="the price loader")).to_be_visible()
            self.assertNotIn(token, page.content())
            page.get_by_label("Revoke the token for the price loader").click()
            page.get_by_role("button", name="Revoke it").click()
            expect(page.get_by_role("row", name="the price loader")).to_contain_text("revoked")
            self.assertEqual(PLAIN.get(asked, headers=headers).status_code, 401)

    def test_a_page_comes_again_where_the_service_has_its_hands_full(self) -> None:
        turns: list[int] = []

        def busy(route: Route) -> None:
            turns.append(1)
            if len(turns) > 2:
                route.continue_()
            else:
                route.fulfill(status=503, headers={"Retry-After": "0"}, body="{}")

        with self.page("/quality", expected="status of 503") as page:
            page.route("**/api/v1/tokens", busy)
            page.get_by_role("link", name="Tokens").click()
            expect(page.get_by_role("row", name="this browser's")).to_be_visible()
        self.assertEqual(len(turns), 3)
