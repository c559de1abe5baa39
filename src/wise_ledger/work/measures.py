"""Measures: the shipped ones and those that people keep, what they mean, what rests on them."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from wise_ledger.core.catalogue.items import ALL_TEMPLATES
from wise_ledger.core.catalogue.measures import (
    SHIPPED,
    SUBJECTS,
    Measure,
    read_measures,
    write_measures,
)
from wise_ledger.core.errors import BadInput, NotFound, Problem, bad_input
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.expand import measures_in
from wise_ledger.core.language.format import formatted
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.vocabulary import FIELDS, Vocabulary, vocabulary
from wise_ledger.core.language.words import Meaning, meaning
from wise_ledger.core.nearest import check_name, mend_for
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.store import keptreading
from wise_ledger.work import lists
from wise_ledger.work.desk import Desk
from wise_ledger.work.kept import MEASURES, QUESTIONS, Kept

_NAME = re.compile(r"[a-z][a-z0-9_]{1,59}")
_WORDS = ("and", "or", "not", "in", "true", "false", "null", "none", "nan", "yes", "no")


@dataclass(frozen=True)
class MeasureShown:
    """A measure with what it means; `used_by` names what rests on it, such as `measure margin`."""

    measure: Measure
    meaning: Meaning | None  # None where it can no longer be used
    problem: str  # then why
    sources: tuple[str, ...]  # that have figures of its items
    used_by: tuple[str, ...]
    kept_at: datetime | None
    archived: bool


def all_measures(desk: Desk, *, archived: bool = False) -> list[Measure]:
    """The shipped measures by subject, then those people keep by name;
    with `archived` also those archived.
    """
    own = [_measure(k) for k in MEASURES.all(desk.ledger, archived=archived)]
    subjects = list(SUBJECTS)
    return sorted((*SHIPPED.values(), *own), key=lambda m: (subjects.index(m.subject), m.name))


def find_measure(desk: Desk, name: str, version: int | None = None) -> MeasureShown:
    """A measure by name, its newest version without one; raises `NotFound`."""
    snapshot = desk.snapshots.at()
    if (shipped := SHIPPED.get(name)) is not None:
        if version is not None:
            raise NotFound(
                Problem(
                    "version", str(version), "a measure that ships has no versions", "leave it out"
                )
            )
        return _shown(desk, snapshot, shipped, None)
    if name not in {k.name for k in MEASURES.all(desk.ledger, archived=True)}:
        known = snapshot.view.vocabulary.measures
        raise NotFound(Problem("measure", name, "there is no such measure", mend_for(name, known)))
    kept = MEASURES.find(desk.ledger, name, version)
    return _shown(desk, snapshot, _measure(kept), kept)


def measure_versions(desk: Desk, name: str) -> list[MeasureShown]:
    """Every version of a kept measure, the newest first; raises `NotFound`."""
    if name in SHIPPED:
        return [find_measure(desk, name)]
    snapshot = desk.snapshots.at()
    find_measure(desk, name)
    return [_shown(desk, snapshot, _measure(k), k) for k in MEASURES.versions(desk.ledger, name)]


def keep_measure(desk: Desk, measure: Measure, who: str) -> MeasureShown:
    """Keep a measure: new, or another version; what rests on it must still hold.

    Raises `BadInput`.
    """
    _keep_all(desk, [measure], who)
    return find_measure(desk, measure.name)


def keep_file(desk: Desk, text: str, who: str) -> list[str]:
    """Keep the measures of a file of definitions, all or none;
    the names of those that are new or differ.

    Those that ship, word for word, are passed over. Raises `BadInput`.
    """
    found = [m for m in read_measures(text, who) if replace(m, owner="") != SHIPPED.get(m.name)]
    twice = next(
        (m.name for n, m in enumerate(found) if m.name in {x.name for x in found[:n]}), None
    )
    if twice is not None:
        raise bad_input("name", twice, "the file has it twice", "take one of them out")
    before = desk.snapshots.at().view.vocabulary.measures
    changed = [m for m in found if m.name not in before or _content(before[m.name]) != _content(m)]
    _keep_all(desk, changed, who)
    return [m.name for m in changed]


def file_of(desk: Desk, names: Iterable[str] = (), *, shipped: bool = False) -> str:
    """A file of definitions: of the measures named, else of all that people
    keep, with `shipped` of all.
    """
    known = {m.name: m for m in all_measures(desk)}
    for name in names:
        find_measure(desk, name)
    wanted = [known[n] for n in names] or [m for m in known.values() if shipped or not m.ships]
    return write_measures(wanted)


def archive_measure(desk: Desk, name: str, who: str, *, archived: bool = True) -> MeasureShown:
    """Archive a measure, or bring it back.

    One in use stays: raises `BadInput` with what rests on it.
    """
    if name in SHIPPED:
        raise bad_input("measure", name, "it ships with the product", "it cannot be archived")
    found = find_measure(desk, name)
    if archived and found.used_by:
        few = ", ".join(found.used_by[:3]) + (" …" if len(found.used_by) > 3 else "")
        raise bad_input(
            "measure", name, f"it is in use: {few}", "keep another version of it instead"
        )
    MEASURES.archive(desk.ledger, name, who, archived=archived)
    return find_measure(desk, name)


def check(desk: Desk, text: str, recorded_by: int | None = None) -> tuple[Meaning, tuple[str, ...]]:
    """What an expression means, and the sources it rests on; raises `ExpressionError`."""
    snapshot = desk.snapshots.at(recorded_by)
    found = meaning(text, snapshot.view.vocabulary)
    return found, _sources(snapshot, found)


def measure(
    *,
    name: str,
    title: str = "",
    formula: str,
    meaning: str = "",
    subject: str = "other",
    templates: Sequence[str] = (),
    source: str = "",
    synonyms: Sequence[str] = (),
    who: str,
) -> Measure:
    """A measure as somebody asks to keep it; without a title it is called by its name,
    without templates for all.
    """
    return Measure(
        name,
        title.strip() or name,
        formula,
        meaning.strip(),
        subject,
        frozenset(templates) or ALL_TEMPLATES,
        source.strip(),
        tuple(synonyms),
        None,
        who.strip(),
    )


def check_subject(subject: str) -> None:
    """Raises `BadInput` where there is no such subject."""
    check_name("subject", subject, SUBJECTS, "no such subject")


def _keep_all(desk: Desk, measures: Sequence[Measure], who: str) -> None:
    if not who.strip():
        raise bad_input("who", "", "nobody is named", "say who keeps it")
    now = desk.snapshots.at().view.vocabulary
    own = {m.name: replace(m, owner=who) for m in measures}
    words = vocabulary(now.items, now.values, now.series, {**now.measures, **own})
    for measure in measures:
        _check_name(now, measure.name)
        _check_words(measure)
        try:
            plan(measure.name, words)
        except ExpressionError:
            plan(measure.formula, words)  # named at its place in the formula
            raise
    for name, other in now.measures.items():
        if name not in own and not other.ships and set(measures_in(parse(other.formula), own)):
            try:
                plan(other.formula, words)
            except BadInput as error:
                mend = f"keep it under another name, or change {name} first"
                problem = f"the measure {name} rests on it and could no longer be used: {error.problems[0].problem}"
                raise bad_input(
                    "formula", own[measures[0].name].formula[:60], problem, mend
                ) from None
    for measure in measures:
        MEASURES.keep(
            desk.ledger, measure.name, measure.title, measure.meaning, _content(measure), who
        )


def _check_name(words: Vocabulary, name: str) -> None:
    if not _NAME.fullmatch(name):
        mend = "write 2 to 60 small letters, digits and _, such as cash_margin"
        raise bad_input("name", name, "this is no name of a measure", mend)
    if name in SHIPPED:
        raise bad_input(
            "name", name, "a measure of this name ships with the product", "choose another"
        )
    if name in words.items:
        raise bad_input("name", name, "there is an item of this name", "choose another")
    if name in (*FIELDS, *FUNCTIONS, *_WORDS):
        raise bad_input(
            "name", name, "the measure language has this word already", "choose another"
        )


def _check_words(measure: Measure) -> None:
    check_subject(measure.subject)
    if wrong := measure.templates - ALL_TEMPLATES:
        raise bad_input(
            "templates",
            min(wrong),
            "there is no such template",
            f"write {', '.join(sorted(ALL_TEMPLATES))}",
        )


def _content(measure: Measure) -> dict[str, object]:
    return {
        "formula": formatted(measure.formula),
        "subject": measure.subject,
        "templates": sorted(measure.templates),
        "source": measure.source,
        "synonyms": list(measure.synonyms),
    }


def _measure(kept: Kept) -> Measure:
    return keptreading.measure_of(
        kept.name, kept.title, kept.description, kept.content, kept.who, kept.version, kept.batch
    )


def _shown(desk: Desk, snapshot: Snapshot, measure: Measure, kept: Kept | None) -> MeasureShown:
    try:
        found, problem = meaning(measure.formula, snapshot.view.vocabulary), ""
    except BadInput as error:
        found, problem = None, error.problems[0].problem
    return MeasureShown(
        measure,
        found,
        problem,
        () if found is None else _sources(snapshot, found),
        _used_by(desk, measure.name),
        None if kept is None else kept.kept_at,
        kept is not None and kept.archived,
    )


def _sources(snapshot: Snapshot, found: Meaning) -> tuple[str, ...]:
    view = snapshot.view
    numbers = {
        int(n) for code in found.items for n in np.unique(view.facts(view.items[code]).source)
    }
    return tuple(sorted(snapshot.source_names[n] for n in numbers))


def _used_by(desk: Desk, name: str) -> tuple[str, ...]:
    """What rests on a measure: other measures, lists kept by a rule, kept questions."""
    one = {name: Measure(name, name, name)}

    def uses(*texts: str) -> bool:
        return any(name in text and bool(measures_in(parse(text), one)) for text in texts)

    found = [f"measure {m.name}" for m in all_measures(desk) if m.name != name and uses(m.formula)]
    found += [
        f"list {i.name}"
        for i in lists.all_lists(desk.ledger)
        if i.rule and not i.archived and uses(i.rule)
    ]
    for kept in QUESTIONS.all(desk.ledger):
        texts = [t.partition(":")[2] or t for t in kept.content.get("expressions", [])]
        if uses(*texts):
            found.append(f"question {kept.name}")
    return tuple(found)
