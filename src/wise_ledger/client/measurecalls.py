"""Calls about measures: named expressions, what an expression means, files of definitions."""

from pathlib import Path

from wise_ledger.client.answers import body_of
from wise_ledger.client.given import Words, content, request_of, segment, words
from wise_ledger.client.transport import Transport
from wise_ledger.wire.measures import (
    Definitions,
    DefinitionsKept,
    ExpressionAsked,
    Formatted,
    Meaning,
    MeasureArchive,
    MeasurePage,
    MeasureRequest,
    Measures,
    MeasureVersions,
)


def _path(name: str, part: str = "") -> str:
    return f"/measures/{segment(name)}{part}"


class MeasureCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def measures(
        self, subject: str | None = None, *, owner: str | None = None, archived: bool = False
    ) -> Measures:
        """The measures that ship and those that people keep; `frame()` has one row each."""
        raw = self._transport.get("/measures", subject=subject, owner=owner, archived=archived)
        return body_of(Measures, raw)

    def measure(self, name: str, version: int | None = None) -> MeasurePage:
        """A measure: what it means, what it rests on, what rests on it."""
        return body_of(MeasurePage, self._transport.get(_path(name), version=version))

    def measure_versions(self, name: str) -> MeasureVersions:
        """Every version of a measure, the newest first."""
        return body_of(MeasureVersions, self._transport.get(_path(name, "/versions")))

    def keep_measure(
        self,
        name: str,
        formula: str,
        who: str,
        *,
        title: str = "",
        meaning: str = "",
        subject: str = "other",
        templates: Words = (),
        source: str = "",
        synonyms: Words = (),
    ) -> MeasurePage:
        """Keep a measure: new, or another version of one;
        from now on the name can stand in any expression.

        ledger.keep_measure("cash_return", "free_cash_flow / invested_capital", "ada", title="Cash
        return")
        """
        asked = request_of(
            MeasureRequest,
            formula=formula,
            title=title,
            meaning=meaning,
            subject=subject,
            templates=words("templates", templates),
            source=source,
            synonyms=words("synonyms", synonyms),
            who=who,
        )
        return body_of(MeasurePage, self._transport.put(_path(name), asked.model_dump()))

    def archive_measure(self, name: str, who: str, *, archived: bool = True) -> MeasurePage:
        """Archive a measure, or bring it back; one in use is refused, with what rests on it."""
        asked = request_of(MeasureArchive, archived=archived, who=who)
        return body_of(MeasurePage, self._transport.patch(_path(name), asked.model_dump()))

    def check(self, expression: str, recorded_by: int | None = None) -> Meaning:
        """What an expression means, in words;
        raises `InputRefused` with the place of a mistake and the mend.
        """
        asked = request_of(ExpressionAsked, expression=expression, recorded_by=recorded_by)
        return body_of(Meaning, self._transport.post("/measures/check", asked.model_dump()))

    def format_expression(self, expression: str) -> str:
        """An expression in its canonical form."""
        raw = self._transport.post(
            "/measures/format", request_of(ExpressionAsked, expression=expression).model_dump()
        )
        return body_of(Formatted, raw).expression

    def measure_definitions(self, names: Words = (), *, shipped: bool = False) -> str:
        """A file of definitions in YAML: of the measures named, else of all that people keep."""
        found = self._transport.get(
            "/measures/definitions", name=words("names", names) or None, shipped=shipped
        )
        return found.decode()

    def keep_definitions(self, file: str | Path | bytes, who: str) -> list[str]:
        """Keep the measures of a file of definitions, all or none;
        the names of those that are new or differ.
        """
        raw, _ = content(file)
        asked = request_of(Definitions, text=raw.decode("utf-8", "replace"), who=who)
        answer = self._transport.post("/measures/definitions", asked.model_dump())
        return body_of(DefinitionsKept, answer).names
