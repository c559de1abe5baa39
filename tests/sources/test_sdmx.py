"""The adapter to SDMX services: structures and data as they come, what is new alone,
and messages that are wrong.
"""

import unittest
from contextlib import ExitStack
from datetime import UTC, datetime
from typing import Any, ClassVar

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.live import PLAIN
from tests.properties import examples
from wise_ledger.launch.running import address, bind, running
from wise_ledger.sources.errors import SourceError
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.protocol import offers
from wise_ledger.sources.sdmx import Sdmx, read_sdmx_csv
from wise_ledger.standins.ostrin import Releases, create_app, make_releases
from wise_ledger.standins.ostrin.flows import FLOWS

FEW: Releases = make_releases(
    [f for f in FLOWS if f.id in ("OUTPUT", "JOBLESS_CLAIMS", "HOUSE_PRICES")]
)
NOW = datetime(2024, 6, 30, tzinfo=UTC)


class Service(unittest.TestCase):
    url: ClassVar[str]
    app: ClassVar[Any]
    clock: ClassVar[list[datetime]]

    @classmethod
    def setUpClass(cls) -> None:
        stack = ExitStack()
        cls.addClassCleanup(stack.close)
        cls.clock = [NOW]
        cls.app = create_app(lambda: FEW, lambda: cls.clock[0])
        bound = bind("127.0.0.1", 0, "--port")
        stack.enter_context(running(cls.app, bound))
        cls.url = address(bound)

    def setUp(self) -> None:
        self.clock[0] = NOW
        self.app.state.faults.switch(None)

    def opened(self) -> Sdmx:
        source = Sdmx("ostrin", "Ostrin Statistics", self.url, 5.0, Budget(Pace()))
        self.addCleanup(source.close)
        return source


class Given(Service):
    def test_series_come_with_their_words_units_bases_and_every_vintage(self) -> None:
        source = self.opened()
        self.assertEqual(offers(source), ("series",))  # and what it must answer beside, emptily
        found = source.series()
        self.assertEqual({len(o.keys) for o in found.observations}, {60, 3, 80})
        reported = found.described["HOUSE_PRICES/M.R07.SA"]
        self.assertEqual(reported["title"], "House prices, Vennet Harbour, seasonally adjusted")
        self.assertEqual(
            (reported["subject"], reported["area"], reported["unit"]),
            ("Housing", "Vennet Harbour", "index"),
        )
        self.assertEqual(found.described["OUTPUT/Q.XC.TOTAL.VALUE"]["unit"], "JPY")
        output = next(o for o in found.observations if "OUTPUT/Q.XC.TOTAL.VALUE" in o.keys)
        own = output.which == output.keys.index("OUTPUT/Q.XC.TOTAL.VALUE")
        self.assertGreater(output.value[own].min(), 1e12)  # given in millions
        self.assertLessEqual(set(output.bases) - {""}, {"2000=100", "2010=100", "2015=100"})
        self.assertGreater(
            len(output) / len(np.unique(np.stack([output.which, output.period]), axis=1).T), 3
        )

    def test_with_its_mark_only_what_was_released_since_comes(self) -> None:
        source = self.opened()
        mark = source.series().mark
        again = source.series(mark)
        self.assertEqual((again.observations, again.mark), ((), mark))
        self.clock[0] = datetime(2024, 7, 31, tzinfo=UTC)
        later = source.series(mark)
        self.assertTrue(later.observations)
        for part in later.observations:
            self.assertGreater(
                int(part.released_at.min()), int(NOW.timestamp() * 1e6) - 40 * 86_400_000_000
            )
        self.assertNotEqual(later.mark, mark)

    def test_the_service_speaks_keys_and_periods(self) -> None:
        """The stand-in is asked as any SDMX service is: wildcards, +,
        startPeriod, constraints, errors.
        """
        get = lambda path, **how: PLAIN.get(f"{self.url}/rest{path}", params=how, timeout=10)  # noqa: E731
        some = get(
            "/data/HOUSE_PRICES/M.R01+R02.SA", startPeriod="2024-02", endPeriod="2024-03"
        ).text.splitlines()
        self.assertEqual(len(some), 1 + 2 * 2)
        known = read_sdmx_csv(get("/data/HOUSE_PRICES/M..SA", startPeriod="2024-03").content)
        self.assertEqual(len(set(known["series"])), 40)
        history = get("/data/OUTPUT/Q.XA.TOTAL.VOLUME", includeHistory="true").text.count("\n")
        self.assertGreater(history, 4 * get("/data/OUTPUT/Q.XA.TOTAL.VOLUME").text.count("\n"))
        self.assertIn(
            '<com:KeyValue id="REGION">', get("/availableconstraint/HOUSE_PRICES/M.R01.SA").text
        )
        for path, code in (
            ("/data/NOTHING/all", "100"),
            ("/data/OUTPUT/Q.XA", "140"),
            ("/codelist/OST/NOPE", "100"),
        ):
            answer = get(path)
            self.assertIn(answer.status_code, (400, 404), path)
            self.assertIn(f'code="{code}"', answer.text)


class Wrong(Service):
    def test_a_service_in_trouble_is_named_and_gives_nothing(self) -> None:
        for kind in ("error", "refused", "html", "truncated", "not_json", "down"):
            for path in ("dataflow", "datastructure", "/data/OST,OUTPUT"):
                self.app.state.faults.switch(kind, path=path)
                with self.assertRaises(SourceError, msg=(kind, path)) as caught:
                    self.opened().series()
                self.assertIn("Ostrin Statistics", caught.exception.problems[0].at, (kind, path))

    @examples(120)
    @given(st.data())
    def test_a_damaged_message_is_damaged_here_at_this_place(self, data: Any) -> None:
        """Bytes cut, changed or put in: either read, or refused as damaged; never another error."""
        raw = bytearray(self.messages()[data.draw(st.integers(0, 1))])
        for _ in range(data.draw(st.integers(1, 4))):
            at = data.draw(st.integers(0, len(raw) - 1))
            what = data.draw(st.sampled_from(("cut", "change", "put")))
            if what == "cut":
                raw = raw[:at] or raw
            elif what == "change":
                raw[at] = data.draw(st.integers(0, 255))
            else:
                raw[at:at] = data.draw(
                    st.sampled_from(
                        (b",", b"\n", b'"', b"1e999", b"2024-W99", b"\x00", b"<", b"nan")
                    )
                )
        source = Sdmx("ostrin", "Ostrin Statistics", self.url, 5.0)
        try:
            if bytes(raw[:8]) == b"DATAFLOW":
                flow = next(f for f in source._flows() if f.id == "JOBLESS_CLAIMS")
                found, _ = source._read("here", flow, bytes(raw))
                self.assertFalse(np.isinf(found.value).any())
                read_sdmx_csv(bytes(raw))
            else:
                source._parsed("here", bytes(raw))
        except SourceError as error:
            self.assertTrue(error.problems[0].problem and error.problems[0].at)
        finally:
            source.close()

    _kept: ClassVar[list[bytes]] = []

    def messages(self) -> list[bytes]:
        if not self._kept:
            for path in (
                "/data/JOBLESS_CLAIMS/all?startPeriod=2024",
                "/datastructure/OST/OUTPUT_STRUCTURE/1.0",
            ):
                self._kept.append(PLAIN.get(f"{self.url}/rest{path}").content)
        return self._kept
