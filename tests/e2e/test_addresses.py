"""Addresses that nobody would write: each page says what is wrong with it, and fits its window."""

import unittest
from urllib.parse import quote

from tests.e2e.pages import Pages

LONG = "x" * 1500
WRONG = (  # what is asked for in vain, and a word of what the page says of it
    ("/screens", "currency", LONG, "no rate"), ("/screens", "list", LONG, "no list"),
    ("/screens", "rule", "revenue +", "stops too early"), ("/statements", "company", LONG, "no single company"),
    ("/market", "currency", "🦜", "no rate"), ("/market", "list", "<b>x</b>", "no list"),
    ("/companies", "currency", "xxx", "no rate"), ("/calendar", "list", LONG, "no list"),
    ("/estimates", "company", "nobody", "no single company"), ("/lists", "show", LONG, "no item"),
    ("/series", "s", "NOTHING/M.*", "NOTHING"), ("/panels", "c", LONG, "there is no item"),
    ("/panels", "c=revenue&batch", "999", "no such batch"), ("/panels", "c=revenue&batch", "ten", "a valid integer"),
    ("/panels", "c=revenue&lag", "long", "lag"), ("/panels", "c=revenue&leave", "odd", "leave_out"),
    ("/panels", "c=revenue&dates", "yesterday", "no date"),
    ("/companies/nobody", "view", "", "no single company"), ("/catalogue/nothing", "q", "", "no item of this code"),
)  # fmt: skip


class Addresses(Pages):
    def test_each_says_what_is_wrong_and_fits(self) -> None:
        for path, name, value, word in WRONG:
            address = f"{path}?known_on=2023-06-30&{name}={quote(value)}"
            with self.subTest(address[:80]), self.page(address) as page:
                alert = page.locator("[role=alert], [aria-live] .mistake").first
                alert.wait_for()
                self.assertIn(word.lower(), alert.inner_text().lower())
                wide = page.evaluate("document.documentElement.scrollWidth")
                self.assertLessEqual(wide, 1280, address[:80])


if __name__ == "__main__":
    unittest.main()
