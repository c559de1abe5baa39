"""What each company files of its quarters: results, reports, and what it corrects of them."""

from wise_ledger.standins.fernmark import restating, stories
from wise_ledger.standins.fernmark.cast import Cast
from wise_ledger.standins.fernmark.filing import Filing
from wise_ledger.standins.fernmark.quarters import Quarter, widened
from wise_ledger.standins.fernmark.reports import reports_of


def filings_of(
    cast: Cast, quarters: list[Quarter], seed: int, *, whole: bool = False
) -> list[Filing]:
    """What a company files of its quarters, its story among them."""
    if whole:
        quarters = widened(cast, quarters, seed)
    if cast.key == "FM-0001":
        return restating.with_restatement(cast, quarters, seed)
    filings = list(reports_of(cast, quarters, seed))
    if cast.key == "FM-0023":
        filings = restating.with_withdrawal(cast, filings, quarters)
    if whole and cast.crowd:
        filings = restating.with_corrections(cast, filings, quarters, seed)
    return stories.filings_of(cast.key, filings) if whole else filings
