"""Calls about economic series: find them, read them side by side, their vintages,
comparisons and kept sheets.
"""

from collections.abc import Mapping, Sequence
from typing import Any, Literal, Unpack

from wise_ledger.client.answers import body_of
from wise_ledger.client.given import When, Words, request_of, segment, several, when, words
from wise_ledger.client.transport import Transport
from wise_ledger.client.viewpoint import PlainSeen, plain_viewpoint
from wise_ledger.wire.releases import ReleasesAnswer
from wise_ledger.wire.series import (
    ComparisonAnswer,
    ComparisonRequest,
    RevisionsAnswer,
    SeriesAnswer,
    SeriesAsked,
    SeriesDescription,
    SeriesFound,
    SeriesRequest,
    VintagesAnswer,
)
from wise_ledger.wire.seriessheets import SheetChanges, SheetInfo, SheetRequest, Sheets

Which = Literal["known", "first", "last"]
# Keys; or by key the transforms of each; or a mix with titles.
Asked = str | Sequence[str | SeriesAsked] | Mapping[str, Sequence[str]]


def _asked(series: Asked) -> list[SeriesAsked | str]:
    if isinstance(series, str):
        return [series]
    if isinstance(series, Mapping):
        return [
            request_of(SeriesAsked, key=key, transforms=words("transforms", own))
            for key, own in series.items()
        ]
    return several("series", series)


def _path(name: str, part: str = "") -> str:
    return f"/series/sheets/{segment(name)}{part}"


class SeriesCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def find_series(
        self,
        text: str = "",
        known_on: When | None = None,
        *,
        key: str | None = None,
        subject: str | None = None,
        area: str | None = None,
        frequency: str | None = None,
        adjustment: str | None = None,
        family: str | None = None,
        where: Words = (),
        limit: int | None = 50,
        **seen: Unpack[PlainSeen],
    ) -> SeriesFound:
        """Series by words (slips allowed), filters, a key with wildcards,
        codes of dimensions (`REGION=R01+R02`).

        `filters` of the answer has the values that each filter may have, `dimensions` those of a
        single family.
        """
        return self._transport.paged(
            "/series",
            SeriesFound,
            "series",
            limit,
            1000,
            text=text,
            key=key,
            subject=subject,
            area=area,
            frequency=frequency,
            adjustment=adjustment,
            family=family,
            where=words("where", where) or None,
            **plain_viewpoint(known_on, seen),
        )

    def describe_series(
        self, key: str, known_on: When | None = None, **seen: Unpack[PlainSeen]
    ) -> SeriesDescription:
        """A series: what is said of it, how late it comes, how much it is
        revised, what comes next.
        """
        raw = self._transport.get("/series/description", key=key, **plain_viewpoint(known_on, seen))
        return body_of(SeriesDescription, raw)

    def series(
        self,
        series: Asked,
        start: str | None = None,
        end: str | None = None,
        known_on: When | None = None,
        *,
        transforms: Words = (),
        which: Which = "known",
        **seen: Unpack[PlainSeen],
    ) -> SeriesAnswer:
        """Series from a period to a period, both included, as known on a date,
        first released or last revised.

        Keys, with wildcards (`HOUSE_PRICES/M.*.NSA`), each after `transforms` in the order written;
        or a mapping from keys to transforms of their own. `frame()` has periods down and series
        across.

        ledger.series("CONSUMER_PRICES/M.*.00", "2015", transforms=["growth on a year ago"]).frame()
        """
        asked = request_of(
            SeriesRequest,
            series=_asked(series),
            transforms=words("transforms", transforms),
            start=start,
            end=end,
            which=which,
            **plain_viewpoint(known_on, seen),
        )
        return body_of(
            SeriesAnswer, self._transport.post("/series/observations", asked.model_dump())
        )

    def vintages(
        self,
        key: str,
        start: str | None = None,
        end: str | None = None,
        known_on: When | None = None,
        *,
        most: int = 60,
        **seen: Unpack[PlainSeen],
    ) -> VintagesAnswer:
        """The triangle of vintages of a series: periods down, its last `most` releases across."""
        raw = self._transport.get(
            "/series/vintages",
            key=key,
            start=start,
            end=end,
            most=most,
            **plain_viewpoint(known_on, seen),
        )
        return body_of(VintagesAnswer, raw)

    def releases(
        self,
        series: str | Sequence[str],
        start: str | None = None,
        end: str | None = None,
        known_on: When | None = None,
        **seen: Unpack[PlainSeen],
    ) -> ReleasesAnswer:
        """Every release of series by a date: what was said of each period, and when.

        Keys, with wildcards; `frame()` has one row an observation, with the columns of a file of
        series, `sdmx_csv()` is the same as SDMX-CSV 1.0.

        ledger.releases("CONSUMER_PRICES/M.*.00", "2015").frame()
        """
        raw = self._transport.get(
            "/series/releases",
            key=several("series", [series] if isinstance(series, str) else series),
            start=start,
            end=end,
            **plain_viewpoint(known_on, seen),
        )
        return body_of(ReleasesAnswer, raw)

    def revisions(
        self, key: str, period: str, known_on: When | None = None, **seen: Unpack[PlainSeen]
    ) -> RevisionsAnswer:
        """Every release of one period of a series, the oldest first."""
        raw = self._transport.get(
            "/series/revisions", key=key, period=period, **plain_viewpoint(known_on, seen)
        )
        return body_of(RevisionsAnswer, raw)

    def compare_series(
        self,
        series: Asked,
        start: str | None = None,
        end: str | None = None,
        known_on: When | None = None,
        *,
        transforms: Words = (),
        changes: str | None = None,
        spread_to: str | None = None,
        lags: int = 12,
        **seen: Unpack[PlainSeen],
    ) -> ComparisonAnswer:
        """Series of one frequency compared over a window: correlation of changes,
        distance, half-life, leads and lags.

        `frame()` is one row a series, `matrix()` the correlations, `values()` what was compared.
        """
        asked = request_of(
            ComparisonRequest,
            series=_asked(series),
            transforms=words("transforms", transforms),
            changes=changes,
            spread_to=spread_to,
            start=start,
            end=end,
            lags=lags,
            **plain_viewpoint(known_on, seen),
        )
        return body_of(
            ComparisonAnswer, self._transport.post("/series/comparison", asked.model_dump())
        )

    def sheets(self, *, archived: bool = False) -> Sheets:
        """Kept sheets of series, by name."""
        return body_of(Sheets, self._transport.get("/series/sheets", archived=archived))

    def sheet(self, name: str, version: int | None = None) -> SheetInfo:
        """A kept sheet, its newest version without one."""
        return body_of(SheetInfo, self._transport.get(_path(name), version=version))

    def sheet_versions(self, name: str) -> Sheets:
        """Every version of a sheet, the newest first."""
        return body_of(Sheets, self._transport.get(_path(name, "/versions")))

    def keep_sheet(
        self,
        name: str,
        series: Asked,
        who: str,
        *,
        title: str = "",
        description: str = "",
        start: str | None = None,
    ) -> SheetInfo:
        """Keep a sheet: new, or another version of one; what it asks for is tried first."""
        asked = request_of(
            SheetRequest,
            title=title,
            description=description,
            series=_asked(series),
            start=start,
            who=who,
        )
        return body_of(SheetInfo, self._transport.put(_path(name), asked.model_dump()))

    def archive_sheet(self, name: str, who: str, *, archived: bool = True) -> SheetInfo:
        """Archive a sheet, or bring it back; its versions stay."""
        asked: dict[str, Any] = {"archived": archived, "who": who}
        return body_of(SheetInfo, self._transport.patch(_path(name), asked))

    def read_sheet(
        self,
        name: str,
        known_on: When | None = None,
        *,
        version: int | None = None,
        **seen: Unpack[PlainSeen],
    ) -> SeriesAnswer:
        """The series of a kept sheet as known on a date."""
        raw = self._transport.get(
            _path(name, "/observations"), version=version, **plain_viewpoint(known_on, seen)
        )
        return body_of(SeriesAnswer, raw)

    def sheet_changes(
        self, name: str, since: When, known_on: When | None = None, **seen: Unpack[PlainSeen]
    ) -> SheetChanges:
        """What a sheet shows that it did not show at an earlier cut-off: new periods,
        revised ones, by how much.
        """
        raw = self._transport.get(
            _path(name, "/changes"), since=when(since), **plain_viewpoint(known_on, seen)
        )
        return body_of(SheetChanges, raw)
