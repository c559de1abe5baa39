"""Questions that are kept: panels and screens under a name, to be asked again by anybody."""

from collections.abc import Mapping, Sequence
from typing import Any

from wise_ledger.core.language.check import plan_rule
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.desk import Desk
from wise_ledger.work.kept import QUESTIONS, Kept, check_name

__all__ = [
    "Kept",
    "all_questions",
    "archive_question",
    "find_question",
    "keep_question",
    "question_versions",
]


def all_questions(ledger: Ledger, *, archived: bool = False) -> list[Kept]:
    """The newest version of each, by name."""
    return QUESTIONS.all(ledger, archived=archived)


def find_question(
    ledger: Ledger, name: str, version: int | None = None, batch: int | None = None
) -> Kept:
    """A question, its newest version (up to a batch) without one; raises `NotFound`."""
    return QUESTIONS.find(ledger, name, version, batch)


def question_versions(ledger: Ledger, name: str) -> list[Kept]:
    """Every version of a question, the newest first; raises `NotFound`."""
    return QUESTIONS.versions(ledger, name)


def check_rule(desk: Desk, rule: str) -> None:
    """Raises `ExpressionError` where a rule cannot be asked."""
    plan_rule(rule, desk.snapshots.at().view.vocabulary)


def keep_question(
    ledger: Ledger,
    kind: str,
    name: str,
    title: str,
    description: str,
    question: Mapping[str, Any],
    expressions: Sequence[str],
    who: str,
) -> Kept:
    """Keep a question, new or another version; `expressions` are those it names measures by.

    Raises `BadInput`.
    """
    check_name(name, "question", "margins-of-the-few")
    content = {"kind": kind, "question": dict(question), "expressions": list(expressions)}
    return QUESTIONS.keep(ledger, name, title, description, content, who)


def archive_question(ledger: Ledger, name: str, who: str, *, archived: bool = True) -> Kept:
    """Archive a question, or bring it back; nothing of it is lost. Raises `NotFound`."""
    return QUESTIONS.archive(ledger, name, who, archived=archived)
