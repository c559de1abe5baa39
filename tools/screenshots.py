"""Draw docs/screenshots/ again from the demo data: console pages through Chromium,
commands in a terminal frame.
"""

import base64
import os
import re
import subprocess
import sys
import tempfile
from io import StringIO
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright
from rich.console import Console
from rich.terminal_theme import TerminalTheme
from rich.text import Text

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.browser import FLAGS, path  # noqa: E402
from tests.terminal import on_a_terminal  # noqa: E402

from wise_ledger.launch.demo import KNOWN_ON, LATER, LIST, RULE, everything  # noqa: E402

COLOURED = {"TERM": "xterm-256color", "LINES": "60"}
SHOTS = ROOT / "docs" / "screenshots"
FONT = (
    ROOT
    / "console/node_modules/@fontsource/jetbrains-mono/files/jetbrains-mono-latin-{}-normal.woff2"
)
_COLOURS = [
    (29, 39, 51),
    (166, 61, 47),
    (31, 111, 92),
    (176, 122, 30),
    (60, 90, 140),
    (107, 63, 110),
    (20, 110, 120),
    (91, 103, 117),
]
THEME = TerminalTheme((255, 255, 255), (29, 39, 51), _COLOURS)
FRAME = """<!doctype html><meta charset="utf-8"><style>
@font-face {{ font-family: Mono; src: url(data:font/woff2;base64,{regular}); font-weight: 400 }}
@font-face {{ font-family: Mono; src: url(data:font/woff2;base64,{bold}); font-weight: 700 }}
body {{ margin: 0; padding: 24px; background: #F7F5EF; width: 1232px }}
figure {{ margin: 0; background: #fff; border: 1px solid #DDD8CB; border-radius: 8px; overflow: hidden }}
i {{ display: inline-block; border-top: 1px solid; vertical-align: middle }}
figcaption {{ font: 400 13px Mono; padding: 10px 16px; border-bottom: 1px solid #DDD8CB; color: #6B3F6E }}
pre {{ font: 400 13px/1.4 Mono; margin: 0; padding: 12px 16px 16px; color: #1D2733 }}
</style><body><figure><figcaption>$ {command}</figcaption><pre>{body}</pre></figure>"""


def draw_terminal(
    browser: Browser, name: str, command: list[str], environment: dict[str, str], lines: int = 60
) -> None:
    """One command and its output as a picture."""
    shown = "\n".join(
        on_a_terminal(command, COLOURED | environment, 148).strip("\n").split("\n")[:lines]
    )
    record = Console(record=True, width=152, file=StringIO(), highlight=False)
    record.print(Text.from_ansi(shown))
    body = record.export_html(theme=THEME, inline_styles=True, code_format="{code}")
    # the font has no such line
    body = re.sub("─+", lambda rule: f'<i style="width: {len(rule[0])}ch"></i>', body)
    words = " ".join(
        c if c.replace("-", "").replace("@", "").isalnum() else f"'{c}'"
        for c in ["wise-ledger", *command]
    )
    fonts = {
        w: base64.b64encode(Path(str(FONT).format(n)).read_bytes()).decode()
        for w, n in (("regular", 400), ("bold", 700))
    }
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.set_content(FRAME.format(command=words.replace(">", "&gt;"), body=body, **fonts))
    page.evaluate("document.fonts.ready")
    page.screenshot(path=SHOTS / f"{name}.png", full_page=True)
    page.close()


def console_page(
    browser: Browser,
    url: str,
    token: str,
    address: str,
    theme: str = "light",
    waits: str = "tbody tr",
) -> Page:
    """A signed-in page of the console."""
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.add_init_script(
        f"localStorage['wise-ledger-token'] = '{token}'; localStorage['wise-ledger-theme'] = '{theme}'"
    )
    page.goto(f"{url}{address}")
    page.locator(waits).first.wait_for()
    return page


def shoot(page: Page, name: str) -> None:
    """Take the picture once every part of the page has its answer, and nothing moves any more."""
    expect(page.locator("[aria-busy=true]")).to_have_count(0, timeout=30_000)
    page.wait_for_timeout(500)
    page.screenshot(path=SHOTS / f"{name}.png")
    page.close()


def draw_console(browser: Browser, url: str, token: str) -> None:
    """The screen page: story 1 on two dates."""
    page = console_page(browser, url, token, f"/screens?known_on={KNOWN_ON}")
    page.get_by_role("row", name="Ashgrove").get_by_role("button").click()
    page.locator(".versions li").first.wait_for()
    shoot(page, "console-screen")

    page = console_page(browser, url, token, "/screens?known_on=2024-01-14", "dark")
    page.get_by_role("slider").focus()
    page.keyboard.press("Shift+ArrowRight")
    page.get_by_text("left: Ashgrove").wait_for()
    page.get_by_role("button", name="10 fail").click()
    page.get_by_role("row", name="Ashgrove").get_by_role("button").click()
    page.get_by_label("Figure", exact=True).get_by_role("button", name="Operating income").click()
    shoot(page, "console-restated-dark")


TERMS = """name,country
Marlow Intl Shipping,XB
Marlow Shipping,
LNK@ZALD,
Kestwick Dyes & Alkali,XB
Societe Brevanne Electricite,
Wexmoor Airways,
PTPX,
XA1576992848,
1.23E+08,
AGK.ZALD,
Nobody at all,
"""


def draw_finding(browser: Browser, url: str, token: str) -> None:
    """The matching page with every outcome, and a company's page."""
    page = console_page(browser, url, token, "/companies?known_on=2024-03-31")
    page.goto(f"{url}/match?known_on=2024-03-31")
    page.get_by_label("Names, symbols or identifiers").fill(TERMS)
    page.get_by_role("button", name="Match", exact=True).click()
    page.locator(".row").first.wait_for()
    shoot(page, "console-match")

    page = console_page(browser, url, token, "/companies?known_on=2024-03-31")
    page.goto(f"{url}/companies/PTP@ZBRE?known_on=2024-03-31&beside=thirty-of-brennholt")
    page.locator(".track").first.wait_for()
    page.locator(".chart svg text").first.wait_for()
    shoot(page, "console-company")

    page = console_page(browser, url, token, "/companies?known_on=2024-03-31")
    page.goto(f"{url}/lists?known_on=2024-03-31")
    page.get_by_label("Name", exact=True).fill("members-of-brennholt")
    page.get_by_label("Your name").fill("Ada")
    page.get_by_role("button", name="Keep", exact=True).click()
    page.get_by_text("Kept by a rule").wait_for()
    for column in ("revenue", "operating_income / revenue"):
        page.get_by_label("Add a column").fill(column)
        page.keyboard.press("Enter")
        page.get_by_label(f"Remove {column}", exact=True).wait_for()
    shoot(page, "console-lists")


def draw_statements(browser: Browser, url: str, token: str) -> None:
    """A statement with a figure restated later, the market, estimates."""
    asked = "company=AGK@ZALD&known_on=2023-06-30&ratios=yes&draw=gross_profit,operating_income"
    asked += "&figure=operating_income:2022-12-31:0"
    page = console_page(browser, url, token, f"/statements?{asked}")
    page.locator("figure svg text").first.wait_for()
    shoot(page, "console-statement")

    shoot(
        console_page(browser, url, token, "/market?known_on=2024-06-28&list=thirty-of-brennholt"),
        "console-market",
    )
    estimates = "/estimates?company=AGK@ZALD&period=FY2023&known_on=2024-06-28"
    shoot(console_page(browser, url, token, estimates), "console-estimates")


def draw_series(browser: Browser, url: str, token: str) -> None:
    """The page of series: one with what was revised since, forty regions compared."""
    for name, address in (
        (
            "console-series",
            "/series?known_on=2019-06-30&family=Output&s=OUTPUT/Q.XA.TOTAL.VOLUME&start=2013",
        ),
        (
            "console-series-compare",
            "/series?known_on=2024-06-30&family=House+prices&adjustment=seasonally+adjusted&s=HOUSE_PRICES/M.*.SA&view=compare&start=2006",
        ),
    ):
        page = console_page(browser, url, token, address, waits="li .link")
        page.locator(".chart svg, .matrix i").first.wait_for()
        page.wait_for_timeout(1500)
        shoot(page, name)


def draw_measures(browser: Browser, url: str, token: str) -> None:
    """A measure looked at, and a panel with what its columns are like."""
    looked = "/measures/return_on_equity?known_on=2024-06-28&company=AGK@ZALD"
    page = console_page(browser, url, token, looked, waits="article rect")
    page.locator(".history svg").first.wait_for()
    shoot(page, "console-measure")
    columns = "&".join(
        f"c={c}"
        for c in (
            "operating_margin",
            "revenue_growth",
            "price_to_earnings",
            "z: zscore(net_margin)",
            "revenue",
        )
    )
    shoot(
        console_page(browser, url, token, f"/panels?known_on=2024-06-28&{columns}&currency=EUR"),
        "console-panel",
    )


def draw_plot(name: str, command: list[str], environment: dict[str, str]) -> None:
    """What a command draws into a file."""
    subprocess.run(
        [
            sys.executable,
            "-m",
            "wise_ledger.launch.main",
            *command,
            "--plot",
            str(SHOTS / f"{name}.png"),
        ],
        check=True,
        env={**os.environ, **environment},
    )


def draw_collecting(browser: Browser, url: str, token: str) -> None:
    """The page of sources, runs and schedules, and what came in with a run."""
    shoot(console_page(browser, url, token, "/collect"), "console-collect")


def main() -> None:
    SHOTS.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, everything(Path(folder), 0, 0) as (url, token, _):
        draw(url, token)


def draw(url: str, token: str) -> None:
    """Every picture, of a running demo."""
    screen = ["screen", RULE, "--list", LIST, "--known-on"]
    commands = {
        "cli-screen": [*screen, KNOWN_ON],
        "cli-explain": [
            "explain",
            "AGK@ZALD",
            "operating_income.ttm",
            "--known-on",
            LATER,
            "--hindsight",
        ],
        "cli-statement": ["statements", "DMB@ZALD", "balance", "--known-on", "2024-06-30"],
        "cli-measure": ["measures", "show", "return_on_invested_capital"],
        "cli-panel": [
            *(
                "panel",
                "operating_margin",
                "revenue_growth",
                "price_to_earnings",
                "rank: rank(net_margin)",
            ),
            *(
                "--list",
                LIST,
                "--dates",
                "2022-01-01/2024-12-31 yearly",
                "--where",
                "operating_margin > 15%",
            ),
        ],
    }
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path(), args=FLAGS)
        draw_console(browser, url, token)
        draw_finding(browser, url, token)
        draw_collecting(browser, url, token)
        draw_statements(browser, url, token)
        draw_series(browser, url, token)
        draw_measures(browser, url, token)
        for name, command in commands.items():
            draw_terminal(
                browser, name, command, {"WISE_LEDGER_URL": url, "WISE_LEDGER_TOKEN": token}
            )
        browser.close()
    regions = [
        "series",
        "compare",
        "HOUSE_PRICES/M.*.SA",
        "--from",
        "2006",
        "--known-on",
        "2024-06-30",
    ]
    draw_plot("plot-regions", regions, {"WISE_LEDGER_URL": url, "WISE_LEDGER_TOKEN": token})


if __name__ == "__main__":
    main()
