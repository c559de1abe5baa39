"""What the pages of estimates say, the language says too, in whatever currency (E2 to E4, M2)."""

import os
from datetime import timedelta
from random import Random
from typing import Any

import pandas as pd

from tests.service.questions import Followed
from tests.service.test_days import days_of


class Estimated(Followed):
    split = False  # whether shares are, on whose new basis a history is, and no panel of each day

    def asked(self) -> Any:
        """Companies, a day, a measure, and how amounts are to be shown, at random."""
        random = Random(int(os.environ.get("SEED", "20261128")))
        for _ in range(int(os.environ.get("WORLDS", "3")) * 4):
            how = (
                {"currency": random.choice(["EUR", "USD", "JPY"])} if random.random() < 0.7 else {}
            )
            who = random.sample(self.who, 6)
            yield random, who, days_of(random), random.choice(["eps", "revenue"]), how

    def test_a_history_is_the_consensus_of_each_day(self) -> None:
        for random, who, on, measure, how in self.asked():
            horizon, on = random.choice(["q1", "fy1", "fy2", "ntm"]), min(on, days_of(random))
            measure = measure if measure != "eps" or not self.split else "net_income"
            found = self.ledger.estimate_history(
                who,
                str(on - timedelta(200)),
                str(on),
                str(on),
                measure=measure,
                horizon=horizon,
                **how,
            )
            frame = found.frame()
            days = sorted({str(day)[:10] for day in frame["date"]})
            shown = {c.company: c.currency for c in found.histories}
            for currency in set(shown.values()):  # as it is now, where none was asked for
                text = f"estimate({measure}, {horizon})"
                panel = self.ledger.panel(who, {"x": text}, days, currency=currency).frame()
                for row in frame.itertuples():
                    if shown[row.company] == currency:
                        wanted = panel.loc[(pd.Timestamp(row.date), row.company)]["x"]
                        self.same(row.mean, wanted, text, how, row.company, row.date, on)

    def test_the_latest_announcement_is_the_surprise_of_the_day(self) -> None:
        """Amounts of another currency apart: they are of the day of the announcement."""
        for _, who, on, measure, how in self.asked():
            found = self.ledger.announcements(
                who, str(on - timedelta(400)), str(on), str(on), measure=measure, **how
            )
            columns = {
                f"{kind}{word}": f"surprise({measure}{', ' if word else ''}{word}, period={kind})"
                for kind in ("fy", "q")
                for word in ("", "relative", "deviations")
            }
            frame = self.ledger.panel(who, columns, [str(on)]).frame()
            latest = {(a.company, a.period_kind): a for a in found.announcements}
            for (company, kind), a in latest.items():
                row, where = frame.loc[(pd.Timestamp(on), company)], (measure, how, company, on)
                if row[f"{kind}.reason"] == "no_estimates":  # of what nobody expected, no row
                    continue
                self.same(a.surprise_relative, row[f"{kind}relative"], *where)
                self.same(a.surprise_deviations, row[f"{kind}deviations"], *where)
                if "currency" not in how:
                    self.same(a.surprise, row[kind], *where)

    def test_a_consensus_is_the_mean_of_the_contributions_shown_beside_it(self) -> None:
        for random, who, on, measure, how in self.asked():
            found = self.ledger.estimates(who[0], str(on), measure=measure, **how)
            if not found.periods:
                continue
            period = random.choice(found.periods)
            one = self.ledger.estimates(
                who[0], str(on), measure=measure, period=period.period, **how
            )
            own = [c.value for c in one.contributions if c.state == "in"]
            where = (who[0], on, measure, how, period.period)
            there = own and None not in own  # there may be no rate to the currency asked for
            self.same(period.consensus.mean, sum(own) / len(own) if there else None, *where)
            if period.announced is None:
                self.same(one.walk[-1].mean, period.consensus.mean, *where)
