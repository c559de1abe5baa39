"""What every adapter must hold to; a test case of an adapter inherits `SourceContract` and says
how to open it.
"""

from typing import Any

from wise_ledger.core.catalogue.items import ITEMS, Nature, unit_fits
from wise_ledger.core.fiscal.labels import Period
from wise_ledger.sources.protocol import GivesLists, Source, offers


class SourceContract:
    """Mixed into a `unittest.TestCase` whose `opened()` opens the adapter
    over a source that has filings.
    """

    def opened(self) -> Source:
        raise NotImplementedError

    def test_it_says_what_it_is_and_gives(self: Any) -> None:
        source = self.opened()
        self.assertTrue(source.name.isidentifier() and source.title)
        self.assertIn("statements", offers(source))
        self.assertGreaterEqual(source.budget.pace.at_once, 1)
        for rule in source.mapping.all():
            self.assertIn(rule.item, ITEMS, rule.tag)
            self.assertIn(rule.sign, (1, -1))

    def test_companies_have_keys_of_their_own_and_say_their_names(self: Any) -> None:
        found = self.opened().companies()
        keys = [c.key for c in found.companies]
        self.assertEqual(len(set(keys)), len(keys))
        self.assertEqual(keys, sorted(keys))
        for company in found.companies:
            self.assertIn("name", {a.name for a in company.attributes}, company.key)

    def test_with_its_mark_only_what_changed_comes(self: Any) -> None:
        source = self.opened()
        found = source.companies()
        if found.mark is not None:
            self.assertEqual(source.companies(found.mark).companies, [])
        if isinstance(source, GivesLists):
            listed = source.lists()
            if listed.mark is not None:
                self.assertIsNone(source.lists(listed.mark).lists)

    def test_filings_are_whole_in_order_and_not_given_twice(self: Any) -> None:
        source = self.opened()
        seen = 0
        for company in source.companies().companies[:6]:
            found = source.filings(company, set())
            filings = found.filings or []
            published = [f.document.published_at for f in filings if f.document.published_at]
            self.assertEqual(published, sorted(published), company.key)
            for filing in filings:
                self.assertTrue(filing.document.content and filing.document.key)
                for fact in filing.facts:
                    seen += 1
                    item = ITEMS[fact.item]
                    self.assertTrue(unit_fits(item, fact.unit), fact)
                    self.assertEqual(fact.period_start is None, item.nature is Nature.STOCK, fact)
                    self.assertIsNotNone(Period(fact.period_start, fact.period_end).span)
                    self.assertIsNotNone(fact.published_at.tzinfo)
                again = source.read(filing.document.key, filing.document.content, 12, None)
                self.assertEqual(again.document.sha256, filing.document.sha256)
            known = {f.document.key for f in filings}
            self.assertEqual(source.filings(company, known).filings, [])
            if found.mark is not None:
                self.assertIsNone(source.filings(company, set(), found.mark).filings)
        self.assertGreater(seen, 0)

    def test_requests_and_bytes_are_counted(self: Any) -> None:
        source = self.opened()
        source.companies()
        self.assertGreater(source.requests, 0)
        self.assertEqual(source.requests, source.tries)
        self.assertGreater(source.bytes, 0)
