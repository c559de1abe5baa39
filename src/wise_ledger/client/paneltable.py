"""A panel as a notebook wants it: a frame with types, one measure wide,
the reasons of the holes, a picture.
"""

import json
from collections.abc import Callable
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING, Any, get_args

from wise_ledger.client.answers import table_of
from wise_ledger.client.errors import refused
from wise_ledger.wire.panels import Beside
from wise_ledger.wire.viewpoint import Unanswered
from wise_ledger.words import counted

if TYPE_CHECKING:
    import pandas as pd
    import pyarrow as pa
    from matplotlib.axes import Axes

_WHOSE = ("company", "name", "symbol")
_FEW = 8  # lines that are drawn one by one
_WORDS = ("text", "truth")  # units


class PanelTable:
    """Measures of companies on dates, or by fiscal period, in the order of the dates.

    `context` says how it was asked, `columns` what each column is. Nothing is converted before it
    is asked for.
    """

    def __init__(self, raw: bytes, summarise: "Callable[[], pd.DataFrame]") -> None:
        self._raw = raw
        self._summarise = summarise

    @cached_property
    def _table(self) -> "pa.Table":
        return table_of(self._raw)

    @cached_property
    def context(self) -> dict[str, Any]:
        """How it was asked."""
        found: dict[str, Any] = json.loads(self._table.schema.metadata[b"context"])
        return found

    @property
    def known_on(self) -> datetime:
        """The cut-off of all that is known, as an instant."""
        return datetime.fromisoformat(self.context["known_on"])

    @property
    def batch(self) -> int:
        """The newest batch that the answer rests on."""
        return int(self.context["batch"])

    @property
    def failed(self) -> list[Unanswered]:
        """The companies that were named and are not found, in the order given;
        the others are answered.
        """
        return [Unanswered.model_validate(one) for one in self.context.get("failed", [])]

    @property
    def columns(self) -> list[str]:
        """The measures, in the order asked for."""
        return [c["name"] for c in self.context["columns"]]

    @property
    def looks_ahead(self) -> list[str]:
        """The columns that know what came after their date."""
        return [c["name"] for c in self.context["columns"] if c["looks_ahead"]]

    def arrow(self) -> "pa.Table":
        """The Arrow table: words as dictionaries, dates as dates, missing values as nulls."""
        return self._table

    def frame(self) -> "pd.DataFrame":
        """Indexed by date (or period) and company, in that order; names and words as categories.

        Figures are float64, NaN where missing: `reasons()` has why. What stands beside a value is a
        column of its own, such as `margin.known_at`; `attrs` holds how it was asked.
        """
        import pandas as pd

        made: pd.DataFrame = self._table.to_pandas(split_blocks=True, self_destruct=False)
        for name in made.columns:
            if name == "date" or str(name).rpartition(".")[2] == "period_end":
                made[name] = pd.to_datetime(made[name])
        made = made.set_index(["measure" if self._layout == "turned" else self.first, "company"])
        made.attrs.update(self.context)
        return made

    def cells(self, column: str | None = None, what: str = "value") -> "pd.DataFrame":
        """A row for each date and company, whatever the layout: the `value` of a measure,
        or what stands beside it.

        `what` is `reason`, `currency`, `period_end`, `known_at`, `marks` or `source`; empty where
        it was not asked for.
        """
        import pandas as pd

        if what not in (known := ("value", *get_args(Beside))):
            problem = "nothing of this kind stands beside a value"
            raise refused("what", what, problem, f"write one of {', '.join(known)}")
        column = self._column(column)
        frame, whose = self.frame().reset_index(), list(_WHOSE)
        if self._layout == "wide":
            name = column if what == "value" else f"{column}.{what}"
            # a period's end is its row's, not a figure's
            if self.first == what.removesuffix("_end"):
                name = what
            return frame.reindex(columns=[self.first, *whose, name]).rename(columns={name: what})
        own = frame[frame["measure"] == column]
        if self._layout == "tidy":
            name = (
                "text" if what == "value" and "text" in own and own["value"].isna().all() else what
            )
            return own.reindex(columns=[self.first, *whose, name]).rename(columns={name: what})
        dates = [
            d for d in own.columns if "." not in d and d not in (*whose, "measure", "currency")
        ]
        names = {d if what == "value" else f"{d}.{what}": d for d in dates}
        made = own.reindex(columns=[*whose, *names]).rename(columns=names)
        made = made.melt(id_vars=whose, var_name=self.first, value_name=what)
        if self.first == "date":
            made["date"] = pd.to_datetime(made["date"]).dt.as_unit("s")  # as days come by Arrow
        else:
            made["period"] = pd.Categorical(made["period"], dates)
        return made[[self.first, *whose, what]]

    @property
    def _layout(self) -> str:
        return str(self.context["layout"])

    @property
    def first(self) -> str:
        """The name of what goes down: date or period."""
        return "period" if self.context.get("periods") else "date"

    def wide(self, column: str | None = None, *, by: str = "symbol") -> "pd.DataFrame":
        """One measure with dates (or periods) down and companies across, by
        symbol, name or company id.
        """
        column = self._column(column)
        if by not in _WHOSE:
            raise refused(
                "by", by, "companies are not called so", f"write one of {', '.join(_WHOSE)}"
            )
        frame = self.cells(column)
        made = frame.pivot(index=self.first, columns="company", values="value")
        names = frame.drop_duplicates("company").set_index("company")
        if by != "company":
            made.columns = [
                names.loc[c, by] if isinstance(names.loc[c, by], str) else c for c in made.columns
            ]
        made.columns.name = by
        made.attrs.update(self.context)
        return made

    def reasons(self) -> "pd.DataFrame":
        """Why cells are missing: a row for each date, company and measure without a value."""
        import pandas as pd

        parts = []
        for column in self.columns:
            own = self.cells(column, "reason").dropna(subset="reason")
            own.insert(3, "measure", column)
            parts.append(own[[self.first, "company", "name", "measure", "reason"]])
        return pd.concat(parts, ignore_index=True)

    def summary(self) -> "pd.DataFrame":
        """How each measure lies: cells filled, missing by reason, quantiles,
        extremes by name; asked of the service.
        """
        return self._summarise()

    def plot(self, column: str | None = None, *, axes: "Axes | None" = None) -> "Axes":
        """One measure over time: a line a company where they are few,
        else the median with quarters and tails.
        """
        from matplotlib import pyplot
        from matplotlib.text import Text

        column = self._column(column)
        wide = self.wide(column)
        if any(dtype.kind not in "fiu" for dtype in wide.dtypes):
            numbers = [c["name"] for c in self.context["columns"] if c["unit"] not in _WORDS]
            mend = f"draw one of {', '.join(numbers[:8])}" if numbers else "ask for a measure too"
            raise refused("column", column, "it is words, of which there is no line", mend)
        axes = axes or pyplot.subplots(figsize=(9, 4.5))[1]
        at = wide.index.astype(str) if self.first == "period" else wide.index
        if len(wide.columns) <= _FEW:
            for name in wide.columns:
                axes.plot(at, wide[name], linewidth=1.4, label=str(name))
            axes.legend(frameon=False, fontsize=8)
        else:
            low, first, middle, third, high = (
                wide.quantile(q, axis=1) for q in (0.05, 0.25, 0.5, 0.75, 0.95)
            )
            axes.fill_between(
                at, low, high, color="#1F6F5C", alpha=0.10, linewidth=0, label="5 to 95 %"
            )
            axes.fill_between(
                at, first, third, color="#1F6F5C", alpha=0.22, linewidth=0, label="quarters"
            )
            axes.plot(at, middle, color="#1F6F5C", linewidth=1.8, label="median")
            axes.legend(frameon=False, fontsize=8)
        axes.set_title(
            f"{column}, {self.context['title']}, known on {self.known_on:%Y-%m-%d}",
            loc="left",
            fontsize=10,
        )
        axes.spines[["top", "right"]].set_visible(False)
        for text in axes.findobj(Text):  # the $ of a name begins no formula
            text.set_parse_math(False)
        return axes

    def _column(self, name: str | None) -> str:
        if name is None:
            return self.columns[0]
        if name not in self.columns:
            raise refused(
                "column",
                name,
                "the panel has no such measure",
                f"write one of {', '.join(self.columns[:8])}",
            )
        return name

    def __len__(self) -> int:
        return int(self._table.num_rows)

    def __repr__(self) -> str:
        asked = self.context
        ahead = f", looking ahead: {', '.join(self.looks_ahead)}" if self.looks_ahead else ""
        when = asked.get("periods") or "; ".join(asked.get("dates", ()))
        stamp = f"known on {self.known_on:%Y-%m-%d}, batch {self.batch}"
        size = f"{counted(len(self), 'row')}, {counted(len(self.columns), 'measure')}"
        return f"<Panel of {asked['title']}: {size}, {when}; {stamp}{ahead}>"

    def _repr_html_(self) -> str:
        head: str = self.frame().head(10).to_html(max_cols=14)
        return f"<p>{repr(self).strip('<>')}</p>{head}"
