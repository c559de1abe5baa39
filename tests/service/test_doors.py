"""Whatever is asked, a screen, a panel, a list's columns and `explain` say the same of a cell."""

import os
from random import Random
from typing import Any

from tests.core.plainexpressions import money, pure, truth
from tests.live import Live
from tests.service.questions import EXPRESSIONS, brought

DAYS = ("2021-06-30", "2022-12-31", "2023-03-15", "2024-06-30", "2024-12-31")
SEEN: tuple[dict[str, Any], ...] = (
    {},
    {"currency": "EUR"},
    {"leave_out": ["approximate"]},
    {"leave_out": ["implied", "mixed_basis"]},
)
# What is reckoned over a list is not explained for one company, nor is a yes or a no.
OF_A_LIST = ("rank", "percentile")


class Doors(Live):
    def test_every_door_says_the_same_of_a_cell(self) -> None:
        brought(self.ledger)
        chance = Random(int(os.environ.get("SEED", "20261127")))
        for _ in range(int(os.environ.get("QUESTIONS", "12"))):
            made = (money(chance)[0], pure(chance)[0], truth(chance)[0], *EXPRESSIONS)
            expressions = [made[0], made[1], made[2], *chance.sample(EXPRESSIONS, 3)]
            how = {"known_on": chance.choice(DAYS), **chance.choice(SEEN)}
            with self.subTest(how, expressions=expressions):
                self.ask(expressions, how, chance)

    def ask(self, expressions: list[str], how: dict[str, Any], chance: Random) -> None:
        show = [f"c{n}: {text}" for n, text in enumerate(expressions)]
        asked = {"list": "first-look", **how}
        screen = self.told("POST", "/screens", rule="active or not active", show=show, **asked)
        panel = self.told(
            "POST", "/panels", expressions=show, dates=[how["known_on"]], beside=["reason"], **asked
        )
        members = self.told("GET", "/lists/first-look/members", show=show, **how)
        on_list = {m["id"]: m["cells"] for m in members["members"]}
        in_panel = {r["company"]: r for r in panel["records"]}
        self.assertEqual(len(screen["companies"]), len(on_list))
        for company in screen["companies"]:
            for n, cell in enumerate(company["cells"]):
                said = (cell["value"], cell["reason"], cell["currency"])
                other = on_list[company["company"]][n]
                self.assertEqual(said, (other["value"], other["reason"], other["currency"]))
                row = in_panel[company["company"]]
                value = {"yes": 1.0, "no": 0.0}.get(cell["value"], cell["value"])
                self.assertEqual((value, cell["reason"]), (row[f"c{n}"], row[f"c{n}.reason"]))
                if cell["value"] is not None and "currency" not in how:  # said once, of all
                    self.assertEqual(cell["currency"], row.get(f"c{n}.currency"))
        one = chance.choice(screen["companies"])
        for text, cell in zip(expressions, one["cells"], strict=True):
            if cell["value"] in ("yes", "no") or any(word in text for word in OF_A_LIST):
                continue
            found = self.live.http(
                "GET", "/explanations", params={"company": one["company"], "expression": text} | how
            )
            if "says yes or no" in found.text:
                continue
            told = found.json()
            self.assertEqual(told["reason"], cell["reason"], text)
            if isinstance(cell["value"], float):  # windows add up in another order
                self.assertAlmostEqual(
                    told["value"] / (cell["value"] or 1), 1 if cell["value"] else 0
                )
            else:
                self.assertEqual(told["value"], cell["value"], text)

    def told(self, verb: str, path: str, **asked: Any) -> Any:
        answer = self.live.http(verb, path, **{"params" if verb == "GET" else "json": asked})
        self.assertEqual(answer.status_code, 200, answer.text)
        return answer.json()
