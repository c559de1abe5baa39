"""match: mixed codes and names against 20,000 companies and 60,000 identifiers: time,
precision and recall.

The terms reported here are drawn with seeds that the thresholds were never tuned on.
"""

import resource
import time
from datetime import date

from benchmarks.slips import Term, code_terms, make_universe, name_terms
from benchmarks.timing import Result
from wise_ledger.core.identity.matching import Matcher, Outcome, Policy
from wise_ledger.core.time.periods import day

SIZES = {"small": (1_000, 200, 300), "full": (20_000, 5_000, 5_000)}  # companies, codes, names
UNIVERSE_SEED, TERM_SEED = 20_261, 20_262


def judge(
    matcher: Matcher, terms: list[Term]
) -> tuple[float, float, float, list[tuple[Term, str]]]:
    """Seconds, precision of `matched`, recall, and what went wrong."""
    begin = time.perf_counter()
    found = matcher.match_all([t.text for t in terms])
    seconds = time.perf_counter() - begin
    assert [f.term for f in found] == [t.text for t in terms]
    taken = [(t, f) for t, f in zip(terms, found, strict=True) if f.outcome is Outcome.MATCHED]
    right = sum(f.chosen is not None and f.chosen.company == t.company for t, f in taken)
    wrong = [
        (t, f"{f.outcome} {f.chosen and matcher.universe.names[f.chosen.company].name}")
        for t, f in zip(terms, found, strict=True)
        if f.outcome is not Outcome.MATCHED or f.chosen is None or f.chosen.company != t.company
    ]
    return seconds, right / max(1, len(taken)), right / len(terms), wrong


def run(size: str) -> list[Result]:
    """A row for codes and one for names;
    `answers` says whether precision and recall reach their bounds.
    """
    companies, codes, names = SIZES[size]
    universe = make_universe(companies, UNIVERSE_SEED)
    matcher = Matcher(universe, day(date(2024, 6, 30)), Policy(ever=True))
    universe.name_index, universe.by_value, universe.by_symbol  # noqa: B018  # built when the ledger is read
    results = []
    for kind, terms in (
        ("codes", code_terms(universe, codes, TERM_SEED)),
        ("names", name_terms(universe, names, TERM_SEED)),
    ):
        seconds, precision, recall, _ = judge(matcher, terms)
        engine = f"{len(terms):,} {kind}: precision {precision:.4f}, recall {recall:.4f}"
        results.append(
            Result(
                "match", size, engine, seconds, 1.0, precision >= 0.995 and recall >= 0.95, "within"
            )
        )
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    results.append(
        Result(
            "match",
            size,
            f"peak memory {peak:.0f} MB (500 allowed)",
            0.0,
            1.0,
            peak < 500,
            "within",
        )
    )
    return results
