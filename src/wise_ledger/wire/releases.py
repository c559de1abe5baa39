"""Every release of economic series on the wire, and as SDMX-CSV."""

import csv
import re
from collections.abc import Iterator
from datetime import datetime
from io import StringIO
from typing import TYPE_CHECKING

from pydantic import Field

from wise_ledger.wire.model import Model, Number, iso_text
from wise_ledger.wire.rows import Rows, context_of
from wise_ledger.wire.tables import DoesNotFit, frame
from wise_ledger.wire.viewpoint import Seen
from wise_ledger.words import counted

if TYPE_CHECKING:
    import pandas as pd

SDMX = "application/vnd.sdmx.data+csv"
Words = list[str]
Instants = list[datetime]
Truths = list[bool]
Values = list[float | None]
_AGENCY, _VERSION = "WISE_LEDGER", "1.0"
_QUARTER = re.compile("([0-9]{4})(Q[1-4])")
_BASE = re.compile("([0-9Q-]{4,7})=100")


class ReleasedSeries(Model):
    """A series with every release of each of its periods: columns of one length, by period, then
    by instant.
    """

    key: str
    title: str
    unit: str
    frequency: str
    flow: str = Field(description="what the key names before its codes")
    codes: dict[str, str] = Field(description="by dimension, in the order of the key")
    periods: Words
    values: Values = Field(description="none where a release took the period back")
    released_at: Instants
    assumed: Truths = Field(description="whether the source does not say when it was released")
    bases: Words = Field(description="what an index is 100 for, such as 2015=100")

    def observed(self) -> Iterator[tuple[str, float | None, str | None, str]]:
        """Period, value, when the source says it was released, base."""
        columns = (self.periods, self.values, self.released_at, self.assumed, self.bases)
        for period, value, at, assumed, base in zip(*columns, strict=True):
            yield period, value, None if assumed else iso_text(at), base

    def __repr__(self) -> str:
        return f"<{self.key}: {counted(len(self.periods), 'observation')}>"


Released = list[ReleasedSeries]


class ReleasesAnswer(Seen):
    """Series with all that was released of them by the cut-off."""

    start: str | None
    end: str | None
    observations: Number
    series: Released

    def rows(self) -> Rows:
        """A row an observation, with the columns of a file of series: without an instant where the
        source says none, so that it is assumed again where the file is loaded.
        """
        heads = ("series", "period", "value", "released_at", "base")
        rows = (
            dict(zip(heads, (s.key, *observed), strict=True))
            for s in self.series
            for observed in s.observed()
        )
        return Rows(heads, rows, context_of(self, "series"))

    def frame(self) -> "pd.DataFrame":
        """One row an observation; `attrs` hold how it was asked."""
        return frame(self.rows())

    def sdmx_csv(self) -> str:
        """The same as SDMX-CSV 1.0: a row an observation, `VALID_FROM` the instant of its release,
        empty where that is assumed.

        Raises `DoesNotFit` for series of several flows: a message has the dimensions of one.
        """
        flows = list(dict.fromkeys((s.flow, tuple(s.codes)) for s in self.series)) or [("", ())]
        if len(flows) > 1:
            shown = ", ".join(sorted({flow for flow, _ in flows})[:5])
            problem = (
                f"SDMX-CSV has the series of one flow, with the same dimensions, not of {shown}"
            )
            raise DoesNotFit(problem, "ask for those of one flow at a time")
        ((flow, dimensions),) = flows
        out = StringIO()
        writer = csv.writer(out, lineterminator="\n")
        attributes = ("UNIT_MEASURE", "BASE_PER", "VALID_FROM")
        writer.writerow(("DATAFLOW", *dimensions, "TIME_PERIOD", "OBS_VALUE", *attributes))
        name = f"{_AGENCY}:{flow}({_VERSION})"
        for series in self.series:
            for period, value, at, base in series.observed():
                index = _BASE.fullmatch(base)
                written = _QUARTER.sub(r"\1-\2", period), "" if value is None else repr(value)
                more = series.unit, index[1] if index else base, at
                writer.writerow((name, *series.codes.values(), *written, *more))
        return out.getvalue()
