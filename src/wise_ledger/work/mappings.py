"""What a source's tags mean: what ships, what people said,
and the tags that nobody has said anything of.

A new meaning is applied to the documents already kept: in one batch with it come the facts that it
gives, known from the original publication on.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records.records import FactRecord, TagMeaning
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.protocol import FilingRecord, OpenSource, Source
from wise_ledger.store import mapreading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.mapreading import UnmappedTag
from wise_ledger.work import NotFound
from wise_ledger.work.collect import check_filing
from wise_ledger.work.longwork import Step, unwatched
from wise_ledger.work.quality import examine_new

TEMPLATES = ("industrial", "bank", "insurer")


@dataclass(frozen=True)
class Mapped:
    """The meanings of a source's tags in force, and its tags without one,
    the most frequent first.
    """

    source: str
    rules: tuple[TagMeaning, ...]
    by_people: frozenset[tuple[str, str | None]]  # those that people said
    unmapped: tuple[UnmappedTag, ...]


@dataclass(frozen=True)
class Applied:
    """What a new meaning did: documents read again, new facts, facts taken back, and its batch."""

    documents: int
    facts: int
    withdrawn: int
    batch: int


def rules_of(ledger: Ledger, source: str) -> list[TagMeaning]:
    """What people said of a source's tags; of one tag and template the last word."""
    with ledger.database.read() as connection:
        return mapreading.rules(connection, source)


def mapped(ledger: Ledger, source: Source) -> Mapped:
    """All there is to know about a source's tags."""
    own = rules_of(ledger, source.name)
    with ledger.database.read() as connection:
        unmapped = tuple(mapreading.unmapped_tags(connection, source.name))
    rules = source.mapping.with_rules(own).all()
    return Mapped(source.name, tuple(rules), frozenset((r.tag, r.template) for r in own), unmapped)


def check(
    ledger: Ledger, open_: OpenSource, rule: TagMeaning, who: str, *, expected: bool = False
) -> None:
    """Refuse what a tag cannot mean; raises `BadInput` and `NotFound`.

    A tag that no document has is refused, unless it is `expected` to come.
    """
    _check(rule, who)
    source = open_()
    try:
        if not expected:
            _check_there(ledger, source, rule.tag)
        if _stands(source.mapping.with_rules(rules_of(ledger, source.name)), rule):
            raise bad_input("tag", rule.tag, "it means this already", "nothing is to do")
    finally:
        source.close()


def apply(
    ledger: Ledger, open_: OpenSource, rule: TagMeaning, who: str, why: str, step: Step = unwatched
) -> Applied:
    """Keep what a tag means, and read the kept documents again by it: all of it or nothing.

    Where it means this already, as after a crash just behind the end, nothing is done.
    """
    source = open_()
    try:
        before = source.mapping.with_rules(rules_of(ledger, source.name))
        if _stands(before, rule):
            return Applied(0, 0, 0, ledger.last_batch())
        return _apply(ledger, source, rule, before, who.strip(), why.strip(), step)
    finally:
        source.close()


def _stands(mapping: TagMapping, rule: TagMeaning) -> bool:
    return mapping.rule(rule.tag, rule.template) == mapping.with_rules([rule]).rule(
        rule.tag, rule.template
    )


def _check_there(ledger: Ledger, source: Source, tag: str) -> None:
    """Refuse a tag that no document of the source has, and that means nothing yet."""
    with ledger.database.read() as connection:
        there = {u.tag for u in mapreading.unmapped_tags(connection, source.name)}
    known = there | {r.tag for r in source.mapping.with_rules(rules_of(ledger, source.name)).all()}
    if tag not in known:
        mend = f"{mend_for(tag, known)} For one that is yet to come say that it is expected."
        raise bad_input("tag", tag, "no document has this tag", mend)


def _check(rule: TagMeaning, who: str) -> None:
    if rule.item not in ITEMS:
        raise NotFound(
            Problem("item", rule.item, "there is no item of this code", mend_for(rule.item, ITEMS))
        )
    if rule.sign not in (-1, 1):
        raise bad_input(
            "sign",
            rule.sign,
            "a sign is 1 or -1",
            "write 1 to keep amounts as they are, -1 to turn them",
        )
    if not -12 <= rule.power <= 12:
        raise bad_input(
            "power", rule.power, "this is no power of ten that a figure has", "write -12 to 12"
        )
    if rule.template is not None and rule.template not in TEMPLATES:
        raise bad_input(
            "template", rule.template, "there is no such template", f"write {', '.join(TEMPLATES)}"
        )
    if not rule.tag.strip():
        raise bad_input("tag", rule.tag, "it is empty", "name a tag of the source")
    if not who.strip():
        raise bad_input("who", "", "it is empty", "say who says so")


def _apply(
    ledger: Ledger,
    source: Source,
    rule: TagMeaning,
    before: TagMapping,
    who: str,
    why: str,
    step: Step,
) -> Applied:
    after = before.with_rules([rule])
    read, added, taken = 0, 0, 0
    touched = set[int]()
    known = before.rule(rule.tag, rule.template) is not None
    with ledger.batch(
        "mapping", f"{rule.tag} of {source.title} means {rule.item}, says {who}"
    ) as batch:
        batch.add_mapping(source.name, rule, who, why)
        number = batch.source(source.name, source.title)
        total, documents = batch.kept_documents(source.name, None if known else rule.tag)
        for kept in documents:
            step(read, total)
            old, new = (_read(source, m, kept) for m in (before, after))
            read += 1
            had = set(old.facts)
            fresh = [f for f in new.facts if f not in had]
            gone = _gone(old, new)
            if fresh or gone:
                touched.add(kept.company)
            check_filing(new, ledger.now())
            batch.add_facts(kept.company, number, [(kept.document, f) for f in (*gone, *fresh)])
            batch.forget_unmapped(kept.document, set(old.unmapped) - set(new.unmapped))
            added, taken = added + len(fresh), taken + len(gone)
        examine_new(batch, sorted(touched), ITEMS)
    return Applied(read, added, taken, batch.number)


def _read(source: Source, mapping: TagMapping, kept: mapreading.KeptDocument) -> FilingRecord:
    source.mapping = mapping
    return source.read(kept.key, kept.content, kept.year_end, kept.template)


def _gone(old: FilingRecord, new: FilingRecord) -> Sequence[FactRecord]:
    """What the old meaning gave and the new one does not: taken back (T6),
    known from the publication on.
    """
    there = {(f.item, f.period_start, f.period_end) for f in new.facts}
    lost = [f for f in old.facts if (f.item, f.period_start, f.period_end) not in there]
    return [f._replace(value=None, reported="") for f in lost]
