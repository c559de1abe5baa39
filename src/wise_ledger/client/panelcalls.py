"""Calls about panels: many measures of many companies on many dates; extracts; kept questions."""

import sys
import time
from collections.abc import Callable, Iterable, Mapping
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal, Unpack

from wise_ledger.client.answers import body_of
from wise_ledger.client.errors import ServiceFailed, refused
from wise_ledger.client.given import (
    When,
    mapping,
    request_of,
    segment,
    several,
    text_of,
    when,
)
from wise_ledger.client.kept import asked_again
from wise_ledger.client.paneltable import PanelTable
from wise_ledger.client.transport import Transport
from wise_ledger.client.viewpoint import Seen, viewpoint
from wise_ledger.wire.panels import (
    Beside,
    ExtractInfo,
    ExtractRequest,
    Extracts,
    PanelAnswer,
    PanelPlan,
    PanelRequest,
    PanelSummary,
    QuestionArchive,
    QuestionInfo,
    QuestionRequest,
    Questions,
)

if TYPE_CHECKING:
    import pandas as pd

Layout = Literal["wide", "tidy", "turned"]
Texts = str | Iterable[Any] | Path  # one, several (also of pandas), or a file with one a line
Progress = Callable[[ExtractInfo], None]
_EVERY = 0.4  # seconds between looks at an extract


def texts_of(name: str, given: Texts) -> list[str]:
    """Texts in any usual form: one, a sequence, a pandas object,
    a file with one a line (`#` begins a remark).
    """
    if isinstance(given, str):
        return [given]
    if isinstance(given, Path):
        try:
            lines = given.read_text("utf-8-sig").splitlines()
        except OSError as error:
            raise refused(
                name, str(given), f"the file cannot be read: {error.strerror}", "name one"
            ) from None
        except UnicodeDecodeError:
            raise refused(
                name, str(given), "the file is no text in UTF-8", "save it as such"
            ) from None
        return [line.strip() for line in lines if line.strip() and not line.strip().startswith("#")]
    if isinstance(given, Mapping):
        return [f"{key}: {value}" for key, value in given.items()]
    return [text_of(name, one) for one in several(name, given)]


def dates_of(given: Any) -> list[str]:
    """Dates in any usual form: text as the service reads it, dates, instants,
    an index or column of pandas.
    """
    if given is None:
        return []
    if (
        isinstance(given, str | date)
        or not hasattr(given, "__iter__")
        or getattr(given, "ndim", 1) == 0
    ):
        return [when(given)]
    return [when(one) for one in given]


def panel_request(
    who: Texts | None,
    measures: Texts,
    dates: Any,
    periods: str | None,
    known_on: When | None,
    seen: Seen,
    **more: Any,
) -> PanelRequest:
    """A panel as it is asked on the wire; a single text says a list, several say companies."""
    companies = [] if who is None or isinstance(who, str) else texts_of("companies", who)
    if who is not None and not isinstance(who, str) and not companies:
        raise refused(
            "companies",
            "",
            "no company is named",
            "name some, or a list, or leave it out for everybody",
        )
    return request_of(PanelRequest,
        list=who if isinstance(who, str) else None, companies=companies,
        expressions=texts_of("measures", measures), dates=dates_of(dates), periods=periods,
        **viewpoint(known_on, seen), **more,
    )  # fmt: skip


class PanelCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def panel(
        self,
        who: Texts | None = None,
        measures: Texts = (),
        dates: Any = None,
        known_on: When | None = None,
        *,
        periods: str | None = None,
        where: str | None = None,
        lag: int = 0,
        at_close: bool = False,
        first_reported: bool = False,
        ahead: Texts = (),
        beside: Iterable[Beside] = (),
        layout: Layout = "wide",
        progress: Progress | bool = True,
        **seen: Unpack[Seen],
    ) -> PanelTable:
        """Measures of a list (one text), of companies (several) or of everybody,
        on dates or by fiscal period.

        `measures` are names or expressions (`margin: net_income / revenue`), also as a mapping;
        `dates` texts such as `2015-01-01/2024-12-31 monthly`, or anything pandas has. A large panel
        is written by the service first and fetched as a file, with a bar of progress.

        ledger.panel("first-look", ["operating_margin", "revenue_growth"], "2015-01-01/2024-12-31
        monthly").frame() ledger.panel(["AGK@ZALD"], ["revenue", "net_income"],
        periods="FY2015/FY2024").wide("revenue")
        """
        asked = panel_request(
            who, measures, dates, periods, known_on, seen, where=where, lag=lag, at_close=at_close,
            first_reported=first_reported, ahead=texts_of("ahead", ahead),
            beside=list(dict.fromkeys((*several("beside", beside), "reason"))), layout=layout,
        )  # fmt: skip
        return self.panel_answer(asked, progress=progress)

    def panel_answer(self, asked: PanelRequest, *, progress: Progress | bool = True) -> PanelTable:
        """The same, of a panel as it is asked on the wire."""

        def summarise() -> "pd.DataFrame":
            return self.panel_summary(asked).frame()

        if not self.plan_panel(asked).at_once:
            return PanelTable(self._fetched(self.ask_extract(asked), progress), summarise)
        return PanelTable(self.panel_file(asked, "arrow"), summarise)

    def plan_panel(self, asked: PanelRequest) -> PanelPlan:
        """How large a panel would be; it is checked, and not evaluated."""
        return body_of(PanelPlan, self._transport.post("/panels/plan", asked.model_dump()))

    def panel_summary(self, asked: PanelRequest) -> PanelSummary:
        """How the columns of a panel lie; `frame()` has a row a column."""
        return body_of(PanelSummary, self._transport.post("/panels/summary", asked.model_dump()))

    def panel_rows(
        self, asked: PanelRequest, *, limit: int = 1_000, summary: bool = False
    ) -> PanelAnswer:
        """The first rows of a panel, and how its columns lie if that is asked."""
        raw = self._transport.post("/panels", asked.model_dump(), limit=limit, summary=summary)
        return body_of(PanelAnswer, raw)

    def panel_file(
        self, asked: PanelRequest, form: str, *, raw: bool = False, progress: Progress | bool = True
    ) -> bytes:
        """The same as the bytes of a file: arrow, parquet, csv or xlsx;
        a large one is written first, and fetched.
        """
        queued, content = self._transport.ask("/panels", asked.model_dump(), format=form, raw=raw)
        return self._fetched(body_of(ExtractInfo, content), progress) if queued else content

    def ask_extract(
        self, asked: PanelRequest, form: Literal["parquet", "arrow", "csv"] = "parquet"
    ) -> ExtractInfo:
        """Have a panel written to a file of the service, which is kept for a week."""
        raw = self._transport.post(
            "/extracts", request_of(ExtractRequest, panel=asked, format=form).model_dump()
        )
        return body_of(ExtractInfo, raw)

    def extract(self, id: str) -> ExtractInfo:
        """How far an extract is."""
        return body_of(ExtractInfo, self._transport.get(f"/extracts/{segment(id)}"))

    def extracts(self) -> Extracts:
        """Extracts, the newest first."""
        return body_of(Extracts, self._transport.get("/extracts"))

    def extract_file(self, id: str) -> bytes:
        """The file of an extract that is done."""
        return self._transport.get(f"/extracts/{segment(id)}/file")

    def drop_extract(self, id: str) -> None:
        """Stop an extract, or let go of its file."""
        self._transport.delete(f"/extracts/{segment(id)}")

    def wait_for_extract(self, id: str, progress: Progress | None = None) -> ExtractInfo:
        """Wait until an extract is done; raises `ServiceFailed` where it is not."""
        while True:
            found = self.extract(id)
            if progress is not None:
                progress(found)
            if found.state == "done":
                return found
            if found.state in ("failed", "stopped"):
                raise ServiceFailed(
                    f"The extract {found.state}", found.problem or "It was stopped by somebody."
                )
            time.sleep(_EVERY)

    def _fetched(self, extract: ExtractInfo, progress: Progress | bool) -> bytes:
        if progress is True and sys.stderr.isatty():
            from rich.progress import Progress as Bar

            with Bar(transient=True) as bar:
                task = bar.add_task(extract.title, total=None)
                self.wait_for_extract(
                    extract.id, lambda e: bar.update(task, completed=e.done, total=e.total or None)
                )
        else:
            self.wait_for_extract(extract.id, progress if callable(progress) else None)
        raw = self.extract_file(extract.id)
        self.drop_extract(extract.id)
        return raw

    def questions(
        self, kind: Literal["panel", "screen"] | None = None, *, archived: bool = False
    ) -> Questions:
        """Questions that are kept, to be asked again by anybody."""
        return body_of(Questions, self._transport.get("/questions", kind=kind, archived=archived))

    def question(
        self, name: str, version: int | None = None, *, recorded_by: int | None = None
    ) -> QuestionInfo:
        """A kept question, its newest version without one: as recorded by a batch if one is
        named.
        """
        path, asked = (
            f"/questions/{segment(name)}",
            {"version": version, "recorded_by": recorded_by},
        )
        return body_of(QuestionInfo, self._transport.get(path, **asked))

    def question_versions(self, name: str) -> Questions:
        """Every version of a question, the newest first."""
        raw = self._transport.get(f"/questions/{segment(name)}/versions")
        return body_of(Questions, raw)

    def keep_question(
        self,
        name: str,
        kind: Literal["panel", "screen"],
        question: Mapping[str, Any],
        who: str,
        *,
        title: str = "",
        description: str = "",
    ) -> QuestionInfo:
        """Keep a panel or a screen under a name: new, or another version of one."""
        asked = request_of(
            QuestionRequest,
            kind=kind,
            title=title,
            description=description,
            question=mapping("question", question),
            who=who,
        )
        raw = self._transport.put(f"/questions/{segment(name)}", asked.model_dump())
        return body_of(QuestionInfo, raw)

    def archive_question(self, name: str, who: str, *, archived: bool = True) -> QuestionInfo:
        """Archive a question, or bring it back."""
        asked = request_of(QuestionArchive, archived=archived, who=who)
        raw = self._transport.patch(f"/questions/{segment(name)}", asked.model_dump())
        return body_of(QuestionInfo, raw)

    def kept_panel(
        self,
        name: str,
        known_on: When | None = None,
        *,
        version: int | None = None,
        **seen: Unpack[Seen],
    ) -> PanelTable:
        """A kept panel asked again: as known on a date,
        else as known on the date it was kept with, or today.
        """
        found = self.question(name, version, recorded_by=seen.get("recorded_by"))
        asked = asked_again(found, "panel", PanelRequest, known_on, seen)
        beside = list(dict.fromkeys((*asked.beside, "reason")))
        return self.panel_answer(asked.model_copy(update={"beside": beside}))
