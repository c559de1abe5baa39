"""A crowd while a file is loaded: answers, or a word when to come again,
never a broken connection.
"""

import json
import os
import subprocess
import sys
import unittest
from collections import Counter

from tests.live import RULE, Live

CLIENTS, SECONDS = int(os.environ.get("CLIENTS", "100")), 8
ROWS = b"base,quote,date,rate\n" + b"".join(
    f"{base},EUR,{1980 + n // 336}-{n % 336 // 28 + 1:02}-{n % 28 + 1:02},{1 + n / 9e4:.6f}\n".encode()
    for base in ("AUD", "CAD", "SEK", "NOK")
    for n in range(5_000)
)


class Crowd(Live):
    def test_a_hundred_clients_while_rows_load_have_answers_or_are_asked_to_come_again(
        self,
    ) -> None:
        question = {"rule": RULE, "list": "first-look", "known_on": "2023-06-30"}
        self.assertEqual(self.live.http("POST", "/screens", json=question).status_code, 200)  # warm
        asked = [
            self.live.url.rpartition(":")[2],
            self.live.token,
            str(CLIENTS),
            str(SECONDS),
            json.dumps(question),
        ]
        crowd = subprocess.Popen(
            [sys.executable, "-m", "tests.crowd", *asked], stdout=subprocess.PIPE, text=True
        )
        loaded = self.live.http("POST", "/collections/files/rates", content=ROWS)
        out, _ = crowd.communicate(timeout=90)
        body = json.loads(out)
        seen = Counter(status for status, _ in body["spent"])
        self.assertIn(loaded.status_code, (200, 503), loaded.text[:300])
        self.assertEqual((body["broken"], set(seen) - {200, 503}), ([], set()))
        # How fast is a matter of the machine, which may run other tests beside:
        # that some are served is not.
        self.assertGreater(seen[200], 10)


if __name__ == "__main__":
    unittest.main()
