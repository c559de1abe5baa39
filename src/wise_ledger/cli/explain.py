"""wise-ledger explain"""

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import COMPANY
from wise_ledger.cli.ink import BOLD, DIM, END, inked
from wise_ledger.cli.output import Heading, console, draw, output_options, write
from wise_ledger.cli.viewpoint import cell_viewpoint_options
from wise_ledger.words import counted

if TYPE_CHECKING:
    from collections.abc import Callable

    from rich.tree import Tree

    from wise_ledger.wire.figures import Explanation, InputOnDate, Node


@click.command()
@click.argument("company", type=COMPANY)
@click.argument("expression")
@cell_viewpoint_options
@output_options
def explain(
    company: str,
    expression: str,
    known_on: str | None,
    seen: dict[str, Any],
    format_: str,
    output: Path | None,
) -> None:
    """Where EXPRESSION of COMPANY comes from (an id, or SYMBOL@MIC), down to
    the documents, and its versions.

    \b
    wise-ledger explain AGK@ZALD 'operating_income / revenue' --known-on 2024-01-31
    """
    from wise_ledger.wire.figures import FactInfo
    from wise_ledger.wire.rows import rows_of

    with asking() as ledger:
        found = ledger.explain(company, expression, known_on, **seen).answer
        of = {id(f): i.expression for i in found.inputs for f in i.facts}
        rows = rows_of(
            FactInfo,
            [f for i in found.inputs for f in i.facts],
            document=lambda f: f.document.title,
            input=lambda f: of[id(f)],
        )
        # Prices and estimates rest on no facts: a row each, and one for each part of it.
        for d, within in (x for each in found.dated for x in each.each(each.expression)):
            about = {
                "item": d.expression,
                "period_end": d.day,
                "value": d.value,
                "unit": d.currency or d.unit,
                "published_at": d.known_at,
                "document": d.about,
                "input": within,
            }
            rows.append(dict.fromkeys(rows.columns) | about)
        write(
            rows, format_, output, table=lambda: _show(found), whole=found.model_dump(mode="json")
        )


_BECAUSE = {
    "split": "a split of the shares",
    "fiscal_year": "its fiscal year end became known",
    "template": "its template became known",
    "rate": "a rate became known",
}


def grow(
    tree: "Tree", nodes: "list[Node]", say: "Callable[[float | None, str | None], str]"
) -> None:
    """Hang the figures that one was formed from below it, down to what the documents say."""
    for node in nodes:
        sign = "+" if node.sign > 0 else "−"
        if node.fact is None:
            text = f"{sign} {say(node.value, node.currency)}  {DIM}{node.form}, to {node.period_end}{END}"
            grow(tree.add(inked(text)), node.parts, say)
            continue
        f = node.fact
        period = f"{f.period_start} to {f.period_end}" if f.period_start else f"at {f.period_end}"
        public = f"public since {f.published_at:%Y-%m-%d %H:%M}{' (assumed)' if f.assumed else ''}"
        scale = f" x 10^{f.scale}" if f.scale else ""
        turned = ", sign turned" if f.turned else ""
        tag = f"{f.tag} " if f.tag else ""
        said = (
            f"{sign} {BOLD}{say(node.value, node.currency)}{END}  {period}, {public}{_before_split(node)}\n"
            f"{DIM}{tag}{f.reported or 'withdrawn'}{scale}{turned} in {f.document.title}, {f.source} "
            f"{f.document.sha256[:10]}{f.place if f.place.startswith('/') else f', {f.place}'}, batch {f.batch}{END}"
        )
        tree.add(inked(said))


def hang(tree: "Tree", parts: "list[InputOnDate]", say: "Callable[[InputOnDate], str]") -> None:
    """Hang what a value of a day was reckoned of below it."""
    for part in parts:
        known = f", known since {part.known_at:%Y-%m-%d %H:%M}" if part.known_at else ""
        about = f", {part.about}" if part.about else ""
        said = f"{part.expression} {BOLD}{say(part)}{END}{DIM}{about}{known}{END}"
        hang(tree.add(inked(said)), part.parts, say)


def _before_split(node: "Node") -> str:
    """What was reported, where the share basis has moved since."""
    reported = node.fact.value if node.fact else None
    if reported is None or node.value is None or reported == node.value:
        return ""
    return f", reported as {reported:,.10g} before a split"


def _show(found: "Explanation") -> None:
    from rich.tree import Tree

    from wise_ledger.cli.figures import REASONS, WHY, number

    def say(value: float | None, reason: str | None, unit: str, currency: str | None) -> str:
        if value is None:
            return REASONS[reason or "not_known"]
        scale = {
            "money": f" {currency or ''} mn",
            "money_per_share": f" {currency or ''}",
            "money_per_count": f" {currency or ''} each",
            "shares": " mn",
        }.get(unit, "")
        return number(value, unit) + scale

    terminal = console()
    value = found.value if not isinstance(found.value, str) else None
    shown = (
        found.value
        if isinstance(found.value, str)
        else say(value, found.reason, found.unit, found.currency)
    )
    terminal.print(
        f"{BOLD}{found.expression}{END} of {BOLD}{found.name}{END} {found.symbol or found.company}"
    )
    marks = "".join(f", {m.replace('_', ' ')}" for m in found.marks)
    terminal.print(
        f"{shown}{marks}  {found.period + ', ' if found.period else ''}known on"
        f" {found.known_on:%d %B %Y}, batch {found.batch}"
    )
    if found.reason is not None:
        terminal.print(f"{DIM}{WHY[found.reason]}{END}")
    for figure in found.inputs:
        total = say(figure.value, None, figure.unit, figure.currency)
        said = f"{BOLD}{figure.expression}{END} {total}, {figure.period}: {figure.form}"
        tree = Tree(inked(said), guide_style="dim")
        if figure.tree is not None:
            grow(
                tree,
                figure.tree.parts or [figure.tree],
                lambda v, c, f=figure: say(v, "withdrawn", f.unit, c),
            )
        terminal.print()
        terminal.print(tree)
    for d in found.dated:
        about = f", {d.about}" if d.about else ""
        total = say(d.value, d.reason, d.unit, d.currency)
        tree = Tree(inked(f"{BOLD}{d.expression}{END} {total}{DIM}{about}{END}"), guide_style="dim")
        hang(tree, d.parts, lambda p: say(p.value, p.reason, p.unit, p.currency))
        terminal.print()
        terminal.print(tree)
    for c in found.conversions:
        rate = "no rate" if c.rate is None else f"{c.rate:,.6g}"
        days = (
            f"mean of {counted(c.rates or 0, 'rate')} from {c.start} to {c.end}"
            if c.start
            else f"rate of {c.end} or the last before"
        )
        terminal.print(
            f"\n{BOLD}{c.expression}{END} converted: {rate} {c.target} for 1 {c.source}, {DIM}{days}{END}"
        )
    rows = [
        (
            f"{v.known_from:%Y-%m-%d %H:%M}",
            say(v.value, v.reason, found.unit, found.currency),
            "counts" if v.standing else "came later" if v.later else "",
            f"{DIM}{_BECAUSE[v.because]}{END}"
            if v.because
            else ", ".join(d.title for d in v.documents),
        )
        for v in found.versions
    ]
    if rows:
        draw(
            [
                Heading("Known from, UTC"),
                Heading("Figure", right=True, whole=True),
                Heading(""),
                Heading("Document"),
            ],
            rows,
            title=f"{BOLD}Versions{END}",
        )
