"""Answers that know how they were asked."""

from datetime import datetime
from typing import TYPE_CHECKING

from wise_ledger.client.frames import frame_of
from wise_ledger.wire.figures import Explanation
from wise_ledger.wire.identity import MatchAnswer
from wise_ledger.wire.lists import MEMBER_ABOUT, ListMembers, Member
from wise_ledger.wire.screens import SCREEN_ABOUT, Counts, ScreenAnswer
from wise_ledger.wire.statements import StatementAnswer
from wise_ledger.wire.tables import frame as as_frame
from wise_ledger.words import counted

if TYPE_CHECKING:
    import pandas as pd


class Stated:
    """A company's statement; `answer` is all of it, as it came."""

    def __init__(self, answer: StatementAnswer) -> None:
        self.answer = answer

    @property
    def known_on(self) -> datetime:
        """The cut-off, as an instant."""
        return self.answer.known_on

    @property
    def batch(self) -> int:
        """The newest batch that the answer rests on."""
        return self.answer.batch

    def __repr__(self) -> str:
        found = self.answer
        size = f"{counted(len(found.lines), 'line')}, {counted(len(found.columns), 'period')}"
        return f"<{found.name}: {found.statement}, {found.frequency}, known on {self.known_on:%Y-%m-%d}: {size}>"

    def frame(self, *, calendar: bool = False, periods_down: bool = False) -> "pd.DataFrame":
        """Lines down and periods across, oldest first; headed by period, its end,
        first publication and currency.

        Cells are float64, NaN where missing (`tidy()` has the reasons). Columns are named by fiscal
        periods, with `calendar` by calendar ones; `periods_down` turns the table. What is the same
        everywhere (company, currency, frequency, cut-off, batch) is in `attrs`.
        """
        import pandas as pd

        names = ["period", "period_end", "first_public_at", "currency"]
        heads = [
            (c.calendar if calendar else c.label, c.period_end, c.first_public_at, c.currency)
            for c in self.answer.columns
        ]
        columns = (
            pd.MultiIndex.from_tuples(heads, names=names)
            if heads
            else pd.MultiIndex.from_arrays([[]] * 4, names=names)
        )
        cells = [[c.value for c in line.cells] for line in self.answer.lines]
        index = pd.Index([line.item for line in self.answer.lines], name="item")
        frame = pd.DataFrame(cells, index=index, columns=columns, dtype="float64")
        if periods_down:
            frame = frame.T
        frame.attrs.update(self.answer.rows().context)
        return frame

    def tidy(self) -> "pd.DataFrame":
        """One row a figure, oldest first in each line: whose, of what,
        since when it reads so, value, reason, marks.
        """
        return as_frame(self.answer.rows())


class Screened:
    """The answer of a screen; `answer` is all of it, as it came."""

    def __init__(self, answer: ScreenAnswer) -> None:
        self.answer = answer

    @property
    def known_on(self) -> datetime:
        """The cut-off, as an instant."""
        return self.answer.known_on

    @property
    def batch(self) -> int:
        """The newest batch that the answer rests on."""
        return self.answer.batch

    @property
    def counts(self) -> Counts:
        """How many pass, fail and are unknown."""
        return self.answer.counts

    def frame(self) -> "pd.DataFrame":
        """One row a company, indexed by its id: what it is, the verdict,
        each figure with what goes with it.

        The columns are those of every export. Figures are float64, NaN where missing (`reasons()`
        has the reasons in one table); `attrs` holds how it was asked.
        """
        import pandas as pd

        answer = self.answer
        frame = frame_of(answer.rows(), SCREEN_ABOUT, answer.flat_columns)
        frame["verdict"] = pd.Categorical(frame["verdict"], ["pass", "fail", "unknown"])
        return frame

    def reasons(self) -> "pd.DataFrame":
        """Why cells are missing: one row for each company and figure without a value."""
        import pandas as pd

        rows = [
            (company.company, company.name, column.name, cell.reason)
            for company in self.answer.companies
            for column, cell in zip(self.answer.columns, company.cells, strict=True)
            if cell.reason is not None
        ]
        return pd.DataFrame(rows, columns=["company", "name", "figure", "reason"])

    def __repr__(self) -> str:
        counts = self.counts
        verdicts = f"{counts.passed} pass, {counts.failed} fail, {counts.unknown} unknown"
        asked = (
            f"{self.answer.rule!r} over {self.answer.list_title}, known on {self.known_on:%Y-%m-%d}"
        )
        return f"<Screened {asked}: {verdicts}>"


class Explained:
    """One figure looked into; `answer` is all of it, as it came."""

    def __init__(self, answer: Explanation) -> None:
        self.answer = answer

    def __repr__(self) -> str:
        found = self.answer
        figure = found.value if found.reason is None else found.reason
        asked = f"{found.expression!r} of {found.name}, known on {found.known_on:%Y-%m-%d}"
        return f"<{asked}: {figure} {found.currency or ''}".rstrip() + ">"

    def versions(self) -> "pd.DataFrame":
        """The versions of the figure in order: from when on, value or reason, documents."""
        import pandas as pd

        rows = [
            (
                v.known_from,
                v.value,
                v.reason,
                v.standing,
                v.later,
                ", ".join(d.title for d in v.documents),
            )
            for v in self.answer.versions
        ]
        columns = ["known_from", "value", "reason", "standing", "later", "documents"]
        return pd.DataFrame(rows, columns=columns)

    def facts(self) -> "pd.DataFrame":
        """The facts behind the figure, each with its input, sign and document."""
        import pandas as pd

        own = ["item", "period_start", "period_end", "value", "unit", "published_at"]
        rows = [
            {
                "input": i.expression,
                "sign": f.sign,
                **f.model_dump(include=set(own)),
                "document": f.document.title,
                "sha256": f.document.sha256,
            }
            for i in self.answer.inputs
            for f in i.facts
        ]
        return pd.DataFrame(rows, columns=["input", "sign", *own, "document", "sha256"])

    def parts(self) -> "pd.DataFrame":
        """What lives on dates and what it was reckoned of, down to prices, numbers of shares,
        dividends and contributions; `part_of` says of what each is a part.
        """
        import pandas as pd

        own = ["value", "reason", "unit", "currency", "day", "known_at", "about"]
        rows = [
            {"part_of": within, "part": part.expression, **part.model_dump(include=set(own))}
            for each in self.answer.dated
            for part, within in each.each("")
        ]
        return pd.DataFrame(rows, columns=["part_of", "part", *own])


class Matches:
    """The answer of a matching; `answer` is all of it, as it came."""

    def __init__(self, answer: MatchAnswer) -> None:
        self.answer = answer

    def frame(self) -> "pd.DataFrame":
        """One row a term, in the order given: outcome, company, what it was
        matched to, codes asked for, notes.
        """
        return as_frame(self.answer.table())

    def __repr__(self) -> str:
        outcomes = ", ".join(
            f"{n} {outcome.replace('_', ' ')}" for outcome, n in self.answer.counts.items() if n
        )
        terms = counted(len(self.answer.rows), "term")
        return f"<Matches of {terms} on {self.answer.on}: {outcomes}>"


class Members:
    """The members of a list on a day; `answer` is all of it, as it came."""

    def __init__(self, answer: ListMembers) -> None:
        self.answer = answer

    @property
    def members(self) -> list[Member]:
        """The companies, by name."""
        return self.answer.members

    def frame(self) -> "pd.DataFrame":
        """One row a company, indexed by its id: what it is,
        and the columns asked for with what goes with them.
        """
        answer = self.answer
        return frame_of(answer.rows(), MEMBER_ABOUT, answer.flat_columns)

    def __repr__(self) -> str:
        asked = f"{self.answer.name!r} known on {self.answer.known_on:%Y-%m-%d}"
        return f"<Members of {asked}: {counted(len(self.members), 'company')}>"
