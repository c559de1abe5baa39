"""What lives on dates, as `explain` tells it: each value with the parts it was reckoned of, in
words.
"""

from dataclasses import dataclass, replace
from datetime import date, datetime
from math import isclose

import numpy as np

from wise_ledger.core.estimates.contributions import MEASURES, QUARTER
from wise_ledger.core.language.explaindates import NEWEST, DatedInput
from wise_ledger.core.language.plan import (
    AtEnd,
    Before,
    Estimate,
    Quote,
    Return,
    Sampled,
    SeriesSampled,
    SeriesStep,
    Step,
    Stretch,
    Surprise,
)
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.series.periods import last_day
from wise_ledger.core.time.instants import as_instant
from wise_ledger.core.time.periods import as_date
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.words import counted

_ALIAS = {code: word for word, code in MEASURES.items()}


@dataclass(frozen=True)
class InputOnDate:
    """An input that lives on dates: a price, a return, an estimate; or a part of one.

    `about` says in words where it stands, `known_at` since when it is known.
    """

    expression: str
    unit: str
    value: float | None
    reason: str | None
    currency: str | None
    day: date | None  # of a price, a dividend, a number of shares
    known_at: datetime | None
    about: str
    parts: tuple["InputOnDate", ...] = ()


@dataclass(frozen=True)
class DatedInputWords:
    """Puts the dated inputs of one company's expression into words."""

    snapshot: Snapshot
    expression: str
    company: int
    cutoff: int
    contributors: tuple[str, ...]  # by number

    def of(self, d: DatedInput) -> InputOnDate:
        """An input, and its parts."""
        inside = self if d.read_at is None else replace(self, cutoff=d.read_at)
        plain = InputOnDate(
            d.name if d.step is None else self._name(d.step),
            d.unit,
            d.value,
            d.reason.code if d.reason else None,
            currency_name(d.currency),
            None if d.day is None else as_date(d.day),
            None if d.known_at is None else as_instant(d.known_at),
            ", ".join(self._about(d)),
            tuple(inside.of(part) for part in d.parts),
        )
        if isinstance(d.step, SeriesStep | SeriesSampled):
            return self._of_series(d.step, plain)
        return plain

    def _name(self, step: Step) -> str:
        """As it is written in the language, also of what a measure or a shorthand stands for."""
        match step:
            case Quote():
                return step.name
            case Return():
                over = "" if step.over is None else f', over="{step.over}"'
                return f"{'total' if step.total else 'price'}_return({_span(step.span)}{over})"
            case Estimate():
                statistic = "" if step.statistic == "mean" else f", {step.statistic}"
                return f"estimate({_measure(step.measure)}, {step.horizon}{statistic})"
            case Surprise():
                how = "" if step.how == "amount" else f", {step.how}"
                period = {0: "", QUARTER: ", period=q"}.get(step.kind, ", period=fy")
                return f"surprise({_measure(step.measure)}{how}{period})"
            case Before():
                return f"ago({self._inside(step)}, {_span(step.span)})"
            case Sampled():
                return f"{step.function.name}({self._inside(step)}, {_span(step.span)})"
            case AtEnd():
                return f"at_period_end({self._inside(step)})"
        return self.expression[step.place.begin : step.place.end]

    def _inside(self, step: Before | Sampled | AtEnd) -> str:
        """What is read on other days; an ellipsis where it is written nowhere here."""
        operand = step.operand
        named = self._name(operand)
        if operand.place == step.place and named == self.expression[slice(*_edges(operand))]:
            return "…"
        return named

    def _about(self, d: DatedInput) -> list[str]:
        """Where it stands: listing, day and source; period and contributors; when it was read."""
        snapshot, out, paid = self.snapshot, [], "dividend" in d.name
        if d.listing is not None and d.listing >= 0:
            listing = snapshot.listing[d.listing]
            out.append(f"{listing.symbol}@{listing.mic}")
        if d.day is not None:
            plain = d.listing is not None or d.step is not None
            said = "ex-date " if paid else "" if plain else "at "
            out.append(f"{said}{as_date(d.day)}")
        if d.source is not None:
            out.append(snapshot.source_names[d.source])
        if d.contributor is not None:
            out.append(self.contributors[d.contributor])
        if d.period_end is not None:
            where = self.company, d.period_end, self.cutoff
            named = d.months and snapshot.target_label(*where, d.months)
            out.append(named or snapshot.label(*where))
        if d.count is not None:
            out.append(counted(int(d.count), "contributor"))
        if d.weight is not None:
            out.append(f"weighs {d.weight:.1%}")
        if d.read_at is not None:
            out.append(f"as known on {as_instant(d.read_at):%Y-%m-%d}")
        if d.samples is not None:
            days, converted = d.samples.days.tolist(), d.samples.converted
            out.append(
                f"{counted(len(days), 'day')} from {as_date(days[0])} to {as_date(days[-1])}"
            )
            if converted:
                out.append(f"{converted:,} of them converted, each at its own day's rate")
            if len(d.parts) < len(days):
                out.append(f"shown are the newest {NEWEST}, the lowest and the highest")
        stated = d.as_stated
        if (
            stated is not None
            and d.value is not None
            and not isclose(d.value, stated, rel_tol=1e-9)
        ):
            how = (
                "as paid"
                if paid
                else "as traded"
                if d.listing is not None
                else "on the share basis of then"
            )
            out.append(f"{stated:,.10g} {how}")
        return out

    def _of_series(self, step: SeriesStep | SeriesSampled, plain: InputOnDate) -> InputOnDate:
        """An economic series, the period that it was read of, and since when that is known."""
        book, cutoff = self.snapshot.view.series, self.cutoff
        number = book.of(step.key)
        name, back = self.expression[slice(*_edges(step))], (0, "d")
        if isinstance(step, SeriesStep) and step.back is not None:
            back = (step.back.count, step.back.unit)
            name = f'ago(series("{step.key}"), {back[0]}{back[1]})'
        elif isinstance(step, SeriesStep):
            name = f'series("{step.key}")'
        last = int(book.at(number, np.array([cutoff]), back=back, first=step.first)[3][0])
        line = book.vintages.line(number, cutoff, "first" if step.first else "known")
        own = np.flatnonzero(last_day(line.frequency, line.period) == last)
        about = [book.text(number, "title", cutoff) or step.key]
        if len(own):
            upto = "up to " if isinstance(step, SeriesSampled) else ""
            about.append(f"{upto}{line.labels[own[0]]}")
        return replace(
            plain,
            expression=name,
            day=as_date(last) if len(own) else None,
            known_at=as_instant(int(line.known[own[0]])) if len(own) else None,
            about=", ".join(about),
        )


def _edges(step: Step) -> tuple[int, int]:
    return step.place.begin, step.place.end


def _span(span: Stretch) -> str:
    return f"{span.count}{span.unit}"


def _measure(code: str) -> str:
    return _ALIAS.get(code, code)
