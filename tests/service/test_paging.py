"""Lists page by cursor (4-interface): page after page they are the whole,
and say where the next begins.
"""

from typing import Any

from tests.answers import document
from tests.live import Live
from wise_ledger.service.app import API

# Each list that pages, with the name of its rows, and what makes it long enough to have pages.
LISTS = {
    "/batches": "batches", "/catalogue/search": "entries", "/companies": "companies", "/digests": "digests",
    "/quality": "findings", "/quality/market": "findings", "/restatements": "restatements", "/runs": "runs",
    "/series": "series",
}  # fmt: skip
SERIES = "series,period,value,released_at,base\n" + "".join(
    f"OUTPUT/Q.X{c},2020Q1,1,2020-05-01,\n" for c in "ABCDE"
)
FACTS = "company,item,period_end,value,unit,published_at\n" + "".join(
    f"AGK@ZALD,total_assets,{year}-12-31,-5000000,USD,{year + 1}-02-01\n"
    for year in range(2001, 2005)
)
RATES = "base,quote,date,rate\n" + "".join(
    f"USD,SEK,2024-12-{n + 9:02d},{rate}\n"
    for n, rate in enumerate((10.0, 10.1, 1010.0, 10.2, 10.1, 1020.0, 10.0))
)


class Paging(Live):
    def test_every_list_with_a_limit_pages_by_cursor_and_its_pages_are_the_whole(self) -> None:
        for kind, file in (("series", SERIES), ("facts", FACTS), ("rates", RATES)):
            self.ledger.load(kind, file.encode())
        for _ in range(3):
            self.ledger.wait(self.ledger.queue("fernmark", confirmed=True))
        paged = {
            path.removeprefix(API)
            for path, verbs in document()["paths"].items()
            if "limit" in {p["name"] for p in verbs.get("get", {}).get("parameters", ())}
        }
        self.assertEqual(paged, set(LISTS))
        for path, part in LISTS.items():
            with self.subTest(path):
                whole = self.page(path, limit=100)
                self.assertGreater(len(whole[part]), 1)
                many = min(len(whole[part]), 12)
                for size in (1, 2, 5):
                    rows: list[Any] = []
                    cursor = None
                    while len(rows) < many:
                        page = self.page(
                            path, limit=size, **({} if cursor is None else {"cursor": cursor})
                        )
                        self.assertLessEqual(len(page[part]), size)
                        rows += page[part]
                        cursor = page["next"]
                        self.assertEqual(
                            cursor is None, len(rows) == len(whole[part]) and whole["next"] is None
                        )
                        if cursor is None:
                            break
                    self.assertEqual(rows[:many], whole[part][:many])
        every = self.ledger.companies()
        self.assertEqual((len(every.companies), every.next), (every.total, None))
        few = self.ledger.restatements(limit=3)
        self.assertEqual(len(few.restatements), 3)
        self.assertEqual(self.ledger.restatements(limit=None).restatements[:3], few.restatements)
        self.assertEqual(len(self.ledger.runs(limit=None)), 4)

    def page(self, path: str, **asked: object) -> Any:
        answer = self.live.http("GET", path, params=asked)
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()
