"""Pages of the console in headless Chromium over a running service:
what every test of a page shares.
"""

import re
import time
import unittest
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import ClassVar
from urllib.parse import parse_qs, urlparse

from playwright.sync_api import Error, Page, Request, Route, expect, sync_playwright

from tests.browser import FLAGS, path
from tests.live import Live

AXE = (Path(__file__).parents[2] / "console/node_modules/axe-core/axe.min.js").read_text("utf-8")
JUNE = "/screens?known_on=2023-06-30"
expect.set_options(timeout=15_000)  # a browser and services share two processors


# Heads that stay, but lie beneath those that are scrolled away.
COVERED_HEADS = """[...document.querySelectorAll('thead th:first-child')].filter((head) => {
    let box = head
    while (box && box.scrollWidth <= box.clientWidth) box = box.parentElement
    if (!box || getComputedStyle(head).left !== '0px') return false
    const before = box.scrollLeft
    box.scrollLeft = 1e6
    const at = head.getBoundingClientRect()
    const seen = document.elementFromPoint(at.x + at.width / 2, at.y + at.height / 2)
    box.scrollLeft = before
    return seen?.closest('th') && !head.contains(seen)
}).map((head) => head.innerText)"""


@unittest.skipUnless(path(), "Chromium is missing: apt-get install chromium")
class Pages(Live):
    # One a class: a new tab costs more than what most pages do in it.
    tab: ClassVar[Page]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        browser = playwright.chromium.launch(executable_path=path(), args=FLAGS)
        cls.addClassCleanup(browser.close)
        cls.tab = browser.new_context(accept_downloads=True).new_page()

    @contextmanager
    def page(
        self,
        address: str = JUNE,
        *,
        theme: str = "light",
        signed_in: bool = True,
        expected: str = "status of 4",
    ) -> Iterator[Page]:
        """A page at an address, as in a browser that was never here but for
        the theme and the token.

        At the end, nothing must stand in the browser's log that should not.
        """
        kept = {"wise-ledger-theme": theme} | (
            {"wise-ledger-token": self.live.token} if signed_in else {}
        )
        page = self.tab
        page.set_viewport_size({"width": 1280, "height": 800})
        page.goto(f"{self.live.url}/api/v1/health")  # nothing runs in it
        page.evaluate(AS_NEW, kept)
        self.under_way = 0
        self.asked: list[str] = []
        logged: list[str] = []
        heard: dict[str, Callable[..., None]] = {
            "request": self._note,
            "requestfinished": lambda _: self._count(-1),
            "requestfailed": lambda _: self._count(-1),
            "console": lambda m: logged.extend([m.text] * (m.type in ("error", "warning"))),
            "pageerror": lambda e: logged.append(str(e)),
        }
        for event, hear in heard.items():
            page.on(event, hear)  # type: ignore[call-overload]
        page.goto(self.live.url + address)
        try:
            yield page
            # A refused question is an answer too; the browser notes its status.
            self.assertEqual([m for m in logged if expected not in m], [])
        finally:
            for event, hear in heard.items():
                page.remove_listener(event, hear)
            page.unroute_all()
            for other in page.context.pages:
                if other is not page:
                    other.close()

    def names(self, page: Page) -> list[str]:
        return [
            row.split("\n")[0].split("\t")[0] for row in page.locator("tbody tr").all_inner_texts()
        ]

    def accessible(self, page: Page, rules: list[str] | None = None) -> None:
        """axe-core finds nothing, by all of its rules or some."""
        page.evaluate(STILL)
        if not page.evaluate("!!window.axe"):
            page.evaluate(AXE)
        how = {"resultTypes": ["violations"]} | ({"runOnly": rules} if rules else {})
        found = page.evaluate("how => axe.run(document, how)", how)
        wrong = [(v["id"], [n["html"][:120] for n in v["nodes"]]) for v in found["violations"]]
        self.assertEqual(wrong, [])

    def fits(self, page: Page) -> None:
        width = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(width, 1280, "the page scrolls sideways")
        self.heads_stay(page)

    def heads_stay(self, page: Page) -> None:
        """The head of a column that stays where it is lies over those that are scrolled away."""
        self.assertEqual(page.evaluate(COVERED_HEADS), [])

    def says(self, page: Page, name: str, text: str) -> None:
        """Waits until the address says so: what was pressed comes into it with the next frame."""
        self.comes(
            page, lambda: name in (q := self.query(page)) and text in q[name], f"{name} with {text}"
        )

    def _note(self, request: Request) -> None:
        self._count(1)
        if "/api/" in request.url:
            self.asked.append(f"{request.method} {body_of(request)}")

    def _count(self, more: int) -> None:
        self.under_way += more

    def quiet(self, page: Page) -> None:
        """Waits until the page asks nothing any more."""
        quiet = [time.monotonic()]

        def long_enough() -> bool:
            if self.under_way > 0 or not self.asked:  # a page that has not begun yet is quiet too
                quiet[0] = time.monotonic()
            # on a busy machine its parts come one after another
            return time.monotonic() - quiet[0] > 0.5

        self.comes(page, long_enough, "a page that asks nothing")

    def comes(
        self, page: Page, what: Callable[[], bool], words: str, seconds: float = 15.0
    ) -> None:
        """Waits until it is so.

        Asked from here: the page's own policy forbids a text to be run in it.
        """
        end = time.monotonic() + seconds
        while not what():
            self.assertLess(time.monotonic(), end, f"{words}: never came")
            page.wait_for_timeout(30)

    def query(self, page: Page) -> dict[str, str]:
        return {k: v[0] for k, v in parse_qs(urlparse(page.url).query).items()}


AS_NEW = """kept => {
    localStorage.clear()
    sessionStorage.clear()
    Object.assign(localStorage, kept)
}"""
# Whatever fades in or changes its colour has begun to with the second frame.
STILL = """async () => {
    for (let n = 0; n < 2; n++) await new Promise((next) => requestAnimationFrame(next))
    await Promise.allSettled(document.getAnimations().map((a) => a.finished))
}"""
PRESS_NINE_TIMES = """async () => {
    for (let n = 0; n < 9; n++) {
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '[', bubbles: true }))
        await new Promise((soon) => setTimeout(soon, 5))
    }
}"""


def body_of(request: Request) -> str:
    return request.url + (request.post_data or "")


class Moving(Pages):
    """Pages whose answers are those of the stamp, while it moves."""

    def held_under_motion(self, page: Page) -> None:
        """From the end of June 2023: no answer stands unsaid under a question
        that it does not belong to.
        """
        self.settled(page)
        self.delayed(page)
        self.failed(page)
        self.dragged(page)

    def settled(self, page: Page) -> None:
        expect(page.locator("#page")).to_have_attribute("aria-busy", "false")
        expect(page.get_by_text("Looking …")).to_have_count(0)
        self.quiet(page)

    def on(self, page: Page, day: str, what: Callable[[Route], object]) -> None:
        """Let something happen to every call about a day."""
        page.route(
            "**/api/v1/**",
            lambda route: what(route) if day in body_of(route.request) else route.continue_(),
        )

    @contextmanager
    def held(self, page: Page, day: str) -> Iterator[None]:
        """Answers to calls about a day, some at least, do not come before this is left."""
        held: list[Route] = []
        over: list[bool] = []
        self.on(page, day, lambda route: route.continue_() if over else held.append(route))
        yield
        # a page says that it asks before it does
        self.comes(page, lambda: bool(held), f"a call about {day}")
        over.append(True)
        for route in held:
            with suppress(Error):  # the page asks for it no more
                route.continue_()
        page.unroute("**/api/v1/**")

    def listening(self, page: Page, what: str) -> list[Request]:
        """The calls from now on that say so."""
        asked: list[Request] = []
        page.on("request", lambda r: asked.append(r) if re.search(what, body_of(r)) else None)
        return asked

    def delayed(self, page: Page) -> None:
        """What stands there still is dimmed, and says of which day it is."""
        with self.held(page, "2023-05-31"):
            page.keyboard.press("[")
            expect(page.get_by_role("button", name="Known on 31 May 2023")).to_be_visible()
            expect(page.locator("#page")).to_have_attribute("aria-busy", "true")
            expect(page.locator(".standing")).to_have_text("Still as of 30 June 2023")
        expect(page.locator("#page")).to_have_attribute("aria-busy", "false")

    def failed(self, page: Page) -> None:
        """An answer that is none, with a body that is none: it says so, until it is asked again."""
        self.on(page, "2023-04-30", lambda route: route.fulfill(status=500, body="oops"))
        page.keyboard.press("[")
        expect(page.get_by_text("(500)").first).to_be_visible()
        expect(page.locator("#page")).to_have_attribute("aria-busy", "true")
        expect(page.locator(".standing")).to_contain_text("Still as of 31 May 2023")
        page.unroute("**/api/v1/**")
        page.locator(".standing").get_by_role("button", name="Try again").click()
        expect(page.locator("#page")).to_have_attribute("aria-busy", "false")
        expect(page.get_by_text("(500)")).to_have_count(0)

    def dragged(self, page: Page) -> None:
        """Of many questions few are asked, and the last of them is what is shown."""
        asked = self.listening(page, r"20\d\d-\d\d-\d\d")
        with self.held(page, "20"):  # else a quick answer comes between two presses
            # Pressed in the page itself: from here each press may take longer than an answer.
            page.evaluate(PRESS_NINE_TIMES)
            expect(page.get_by_role("button", name="Known on 31 July 2022")).to_be_visible()
        self.settled(page)
        days = [set(re.findall(r"(?:known_on|on)\W+(20\d\d-\d\d-\d\d)", body_of(r))) for r in asked]
        # The page is settled: what it shows is of this day. Calls that were held are not always
        # heard of in the order in which they were made.
        self.assertIn("2022-07-31", set().union(*days))
        self.assertLess(len({min(d) for d in days if d}), 9, days)
