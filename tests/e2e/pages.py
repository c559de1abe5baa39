"""Pages of the console in headless Chromium over a running service: what every test of a page shares."""

import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import ClassVar
from urllib.parse import parse_qs, urlparse

from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.browser import FLAGS, path
from tests.live import Live

AXE = (Path(__file__).parents[2] / "console/node_modules/axe-core/axe.min.js").read_text("utf-8")
JUNE = "/screens?known_on=2023-06-30"
expect.set_options(timeout=15_000)  # two browsers and services may share two processors


@unittest.skipUnless(path(), "Chromium is missing: apt-get install chromium")
class Pages(Live):
    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        cls.browser = playwright.chromium.launch(executable_path=path(), args=FLAGS)
        cls.addClassCleanup(cls.browser.close)

    @contextmanager
    def page(
        self, address: str = JUNE, *, theme: str = "light", signed_in: bool = True, expected: str = "status of 4"
    ) -> Iterator[Page]:
        """A page at an address; at the end, nothing must stand in the browser's log that should not."""
        context = self.browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        kept = {"wise-ledger-theme": theme} | ({"wise-ledger-token": self.live.token} if signed_in else {})
        script = "".join(f"if (!localStorage['{k}']) localStorage['{k}'] = '{v}';" for k, v in kept.items())
        context.add_init_script(f"if (!sessionStorage.begun) {{ {script} sessionStorage.begun = 1 }}")
        page = context.new_page()
        logged: list[str] = []
        page.on("console", lambda m: logged.append(m.text) if m.type in ("error", "warning") else None)
        page.on("pageerror", lambda e: logged.append(str(e)))
        page.goto(self.live.url + address)
        try:
            yield page
            # A refused question is an answer too; the browser notes its status.
            self.assertEqual([m for m in logged if expected not in m], [])
        finally:
            context.close()

    def names(self, page: Page) -> list[str]:
        return [row.split("\n")[0].split("\t")[0] for row in page.locator("tbody tr").all_inner_texts()]

    def accessible(self, page: Page) -> None:
        """axe-core finds nothing serious."""
        page.wait_for_timeout(350)  # fading in
        page.evaluate("Promise.allSettled(document.getAnimations().map((a) => a.finished))")
        page.evaluate(AXE)
        found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
        serious = [
            (v["id"], [n["html"][:120] for n in v["nodes"]])
            for v in found["violations"]
            if v["impact"] in ("serious", "critical")
        ]
        self.assertEqual(serious, [])

    def fits(self, page: Page) -> None:
        width = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(width, 1280, "the page scrolls sideways")

    def says(self, page: Page, name: str, text: str) -> None:
        """Waits until the address says so: what was pressed comes into it with the next frame."""
        page.wait_for_function(
            "([name, text]) => new URL(location).searchParams.get(name)?.includes(text)", arg=[name, text]
        )

    def query(self, page: Page) -> dict[str, str]:
        return {k: v[0] for k, v in parse_qs(urlparse(page.url).query).items()}
