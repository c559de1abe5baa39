"""Whatever is pressed, typed and gone back to, in any order: the page stands, says no machine's
words, and fits its window.

By hand, and then with the figures again that its address had before:
`STEPS=1000 SEED=7 python -m tests tests.e2e.test_anything`.
"""

import os
import re
import unittest
from random import Random
from typing import Any
from urllib.parse import urlparse

from playwright.sync_api import Error, Page

from tests.e2e.pages import Moving
from tests.e2e.test_motion import DATED, OTHERS, sideways
from tests.service.questions import brought
from wise_ledger.client import Ledger
from wise_ledger.wire.collecting import Timing

FEW = 42
STEPS = int(os.environ.get("STEPS", FEW))
SEED = int(os.environ.get("SEED", "20261128"))
EACH = 14  # steps from one address
WORDS = (
    "", " ", "revenue", "net_income / revenue", "close > 1 USD", "AGK@ZALD", "Ashgrove", "nobody",
    "first-look", "2023-03-31", "FY2022", "EUR", "<b>x</b>", "🦜", "٣", "x" * 300, "%", "1e400",
    "'", "\\",
)  # fmt: skip
KEYS = (
    "Escape", "Enter", "Tab", "Shift+Tab", "ArrowDown", "ArrowUp", "ArrowRight", "ArrowLeft",
    "Home", "End", "PageDown", "[", "]", "/", "?", "Space", "t", "g",
)  # fmt: skip
# What can be pressed, or written into; all that ends the session or leaves the console stays.
CAN = """() => {
    const seen = (e) => e.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true })
    const stays = (e) => e.target === '_blank' || e.type === 'file' || e.disabled ||
        /sign out|revoke/i.test(e.textContent + (e.ariaLabel ?? ''))
    const box = (e) => /^(INPUT|TEXTAREA)$/.test(e.tagName) && !/checkbox|radio|range/.test(e.type)
    const written = (e) => !box(e) ? '' : e.type === 'date' ? 'a day' : 'words'
    const all = document.querySelectorAll('button, a[href], input, textarea, select, [role=tab],' +
        '[role=option], [role=switch], [tabindex="0"]')
    return [...all].map((e, n) => (e.dataset.n = n, e)).filter((e) => seen(e) && !stays(e))
        .map((e) => [e.dataset.n, written(e), e.outerHTML.slice(0, 160)])
}"""
SAID = "() => document.body.innerText"
ODD = re.compile(r".{0,30}(?:\bundefined\b|\bNaN\b|\[object |\bnull\b|Invalid Date|\{\{).{0,30}")
OF_A_DAY = (
    "/screens", "/statements", "/companies", "/directories", "/market", "/calendar", "/estimates",
    "/panels", "/measures", "/catalogue",
)  # fmt: skip
# Figures and names that the address asked for.
FIGURES = """() => [...document.querySelectorAll('#page table')].filter((t) => t.checkVisibility())
    .map((t) => [...t.rows].slice(0, 12).map((r) => r.innerText).join('\\n')).join('\\n\\n')"""


class Anything(Moving):
    def test_whatever_is_done_the_page_stands(self) -> None:
        random, done = Random(SEED), 0
        self.failed: list[str] = []
        while done < STEPS:
            start = random.choice(DATED + OTHERS)
            address = f"{start}{'&' if '?' in start else '?'}known_on=2023-06-30"
            theme = random.choice(["light", "dark"])
            self.steps = [address]
            with self.subTest(address), self.page(address, theme=theme) as page:
                page.on("response", self._answered)
                try:
                    for _ in range(EACH):
                        self.step(page, random)
                        self.stands(page)
                        done += 1
                    if STEPS > FEW:  # whatever page this is by now, it may still be moving
                        self.comes_again(page)
                except AssertionError as error:
                    raise AssertionError("\n".join([str(error), *self.steps])) from None
                finally:
                    page.remove_listener("response", self._answered)

    def _answered(self, response: Any) -> None:
        if response.status >= 500 and response.status != 503:
            self.failed.append(f"{response.status} {response.request.method} {response.url}")

    def step(self, page: Page, random: Random) -> None:
        can = page.evaluate(CAN)
        if not can or random.random() < 0.2:
            key = random.choice(KEYS)
            self.steps.append(f"press {key}")
            page.keyboard.press(key)
        elif random.random() < 0.05 and page.evaluate("history.state?.back"):
            self.steps.append("back")
            page.go_back()
        else:
            n, written, html = random.choice(can)
            word = random.choice(("2022-12-31", "1900-01-01", "") if written == "a day" else WORDS)
            self.steps.append(f"write {word[:30]!r} in {html}" if written else f"click {html}")
            at = page.locator(f'[data-n="{n}"]').first
            try:
                if written:
                    at.fill(word, timeout=1000)
                    if random.random() < 0.7:
                        page.keyboard.press("Enter")
                else:
                    at.click(timeout=1000)
            except Error as error:  # it moved away, or another stands before it
                self.steps.append(f"  {str(error).splitlines()[0]}")
        page.wait_for_timeout(random.choice((0, 30, 250)))

    def stands(self, page: Page) -> None:
        self.assertEqual(self.failed, [])
        said = page.evaluate(SAID)
        self.assertEqual(ODD.findall(said.replace("x" * 300, "")), [])
        self.assertFalse(sideways(page), "the page scrolls sideways")
        self.assertGreater(len(said), 100, "the page is empty")

    def comes_again(self, page: Page) -> None:
        """The address brings the figures again; runs and tokens move on by themselves."""
        if not urlparse(page.url).path.startswith(OF_A_DAY):
            return
        self.quiet(page)
        if page.locator("#page[aria-busy=true]").count():
            return  # something was refused, and says so beside what stood there before
        page.wait_for_timeout(300)  # rows come into sight one frame after another
        before, address = page.evaluate(FIGURES), page.url
        page.goto(address)
        self.settled(page)
        same = "the same figures by their address"
        self.comes(page, lambda: page.evaluate(FIGURES) == before, f"{same}, {address}")

    def test_whatever_things_are_called_each_page_fits_its_window(self) -> None:
        brought(self.ledger)
        called(self.ledger, LONG)
        every = (*DATED, *OTHERS)  # all of them by hand
        some = Random(SEED).sample(every, min(len(every), STEPS // 3))
        for address in (*some, *OF_THE_LONG):
            dated = f"{address}{'&' if '?' in address else '?'}known_on=2023-06-30"
            with self.subTest(address), self.page(dated) as page:
                self.quiet(page)
                self.assertFalse(sideways(page), "the page scrolls sideways")


LONG = "x" * 300
NAME = LONG[:60]
OF_THE_LONG = (
    "/companies/files:O-1", "/statements?company=files:O-1", "/catalogue/odd_item",
    "/measures/odd_one", "/series?s=OUTPUT/Q.XA", "/series?s=OUTPUT/Q.XA&view=vintages",
    f"/lists?list={NAME}&show=name:revenue", "/panels?c=odd_one&c=odd_item&list=first-look",
    "/screens?rule=odd_one > 0&list=" + NAME,
)  # fmt: skip


def called(kept: Ledger, word: str) -> None:
    """Call everything that has a name or a text so, through the doors that take it."""
    one = "company,{}\nfiles:O-1,{}\n".format
    said = (f"OUTPUT/Q.XA,{n},{word},2020-01-01" for n in ("title", "unit", "subject", "notes"))
    files = {
        "companies": f"company,name,country,industry,currency\nO-1,{word},XA,25,USD\n",
        "identifiers": one("scheme,value", f"register,{word}"),
        "listings": one(
            "security_type,symbol,mic,currency",
            f"ordinary,{word[:40]},ZALD,USD",
        ),
        "venues": "mic,name,country,time_zone,close,valid_from\n"
        f"ZALD,{word},XA,Etc/GMT+1,17:30,2013-01-01\n",
        "members": "list,company,valid_from\n"
        f"{NAME},AGK@ZALD,2020-01-01\n{NAME},files:O-1,2020-01-01\n",
        "facts": one(
            "item,period_start,period_end,value,unit,published_at,document,source",
            f"revenue,2022-01-01,2022-12-31,1e17,USD,2023-02-20T07:00:00Z,{word},{NAME}",
        ),
        "estimates": "company,measure,contributor,period_end,period_kind,value,currency,"
        f"published_at\nAGK@ZALD,eps,{word},2023-12-31,fy,2.35,USD,2023-03-28T09:00:00Z\n",
        "series_attributes": "\n".join(["series,name,value,published_at", *said]),
    }
    for kind, rows in files.items():
        assert not (bad := kept.load(kind, rows.encode()).bad), (kind, bad)
    kept.change_list("first-look", word, title=word, description=word)
    kept.keep_measure(
        "odd_one", "revenue", word, title=word, meaning=word, source=word, synonyms=[word]
    )
    panel = {"expressions": ["revenue"], "dates": ["2023-06-30"], "list": "first-look"}
    kept.keep_question(NAME, "panel", panel, word, title=word, description=word)
    screen = {"rule": "revenue > 1 EUR", "list": "first-look"}
    kept.keep_question(NAME[1:], "screen", screen, word, title=word, description=word)
    kept.keep_sheet(NAME, ["OUTPUT/Q.XA"], word, title=word, description=word)
    kept.decide(word, "AGK@ZALD", word, word)
    kept.prefer_sources([NAME, "fernmark"], word, why=word)
    kept.set_limit("lag_of_year", 91, word, source=NAME, why=word)
    kept.register_item("odd_item", word, "pure", NAME, word, definition=word)
    kept.keep_schedule(NAME, "fernmark", word[:200], timing=Timing(at=["06:00"]))
    kept.make_token(NAME)
    kept.call_venue(NAME, "ZALD", word[:200])


if __name__ == "__main__":
    unittest.main()
