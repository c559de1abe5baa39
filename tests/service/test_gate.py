"""The gate: hosts, tokens, sizes, room, errors of our own; and where notices may go."""

import resource
import socket
import time
import unittest
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import timedelta
from http.client import HTTPConnection
from threading import Event, Thread
from unittest.mock import patch

import httpx
from fastapi.responses import StreamingResponse

from tests.answers import document
from tests.live import PLAIN, Live, until
from wise_ledger.client import AccessDenied, InputRefused, NotThere, connect
from wise_ledger.core.errors import BadInput as Refused
from wise_ledger.launch.running import address, bind, running
from wise_ledger.service.app import create_app
from wise_ledger.service.gate import Doors
from wise_ledger.work.notices import Post

MB = 1 << 20


class Tokens(Live):
    def test_a_token_holds_until_its_day_or_until_it_is_revoked(self) -> None:
        made = self.ledger.make_token("Ada's notebook", days=30)
        with connect(self.live.url, made.token) as own:
            self.assertGreater(len(own.lists()), 0)
            seen = next(t for t in self.ledger.tokens().tokens if t.id == made.id)
            self.assertEqual((seen.name, seen.holds), ("Ada's notebook", True))
            self.assertIsNotNone(seen.last_used_at)
            self.assertNotIn("token", seen.model_dump())
            later = self.live.desk.ledger.now() + timedelta(30, 1)
            with (
                patch.object(self.live.desk.ledger, "now", lambda: later),
                self.assertRaises(AccessDenied),
            ):
                own.lists()
            self.ledger.revoke_token(made.id)
            with self.assertRaises(AccessDenied):
                own.lists()
        with self.assertRaises(NotThere):
            self.ledger.revoke_token("12345678")
        for name, days in (("", None), ("x" * 101, None), ("a\nb", None), ("x", 0), ("x", 10**9)):
            with self.assertRaises(InputRefused, msg=f"{name} {days}"):
                self.ledger.make_token(name, days=days)

    def test_the_command_makes_shows_and_revokes(self) -> None:
        made = self.live.command("tokens", "make", "the night job", "--days", "7")
        self.assertRegex(made.stdout, r"^wl_[0-9a-f]{8}_\S{43}\n$")
        self.assertIn("it is not shown again", made.stderr)
        id_ = made.stdout.split("_")[1]
        self.assertIn("the night job", self.live.command("tokens", "list").stdout)
        self.assertIn(
            f"Token {id_} for the night job ended",
            self.live.command("tokens", "revoke", id_).stdout,
        )


class Door(Live):
    def test_every_path_but_health_wants_a_token_before_it_says_anything(self) -> None:
        for path, operations in document()["paths"].items():
            for method in operations:
                response = PLAIN.request(method, f"{self.live.url}{path}", params={"strange": "1"})
                expected = 200 if path.endswith("/health") else 401
                self.assertEqual(
                    response.status_code,
                    expected if "health" not in path else 422,
                    f"{method} {path}",
                )
        for token in (
            "-",
            "wl_",
            "wl_a_b",
            self.live.token[:-1],
            self.live.token + "x",
            "é",
            "wl_" + "0" * 9000,
        ):
            response = PLAIN.get(
                f"{self.live.url}/api/v1/lists",
                headers={"Authorization": f"Bearer {token}".encode("latin-1")},
            )
            self.assertEqual(
                (response.status_code, response.headers["www-authenticate"]),
                (401, "Bearer"),
                token[:20],
            )
        self.assertEqual(PLAIN.get(f"{self.live.url}/api/v1/openapi.json").status_code, 401)

    def test_a_body_without_a_token_is_not_kept_and_one_too_large_is_refused(self) -> None:
        def body(size: int) -> Iterator[bytes]:
            for _ in range(size):
                yield b"x" * MB

        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        url = f"{self.live.url}/api/v1/collections/files/facts"
        self.assertEqual(PLAIN.post(url, content=body(12)).status_code, 401)
        with socket.create_connection(
            httpx.URL(url).host and ("127.0.0.1", httpx.URL(url).port)
        ) as line:
            line.sendall(
                b"POST /api/v1/lists HTTP/1.1\r\nHost: localhost\r\nContent-Length: 800000000\r\n\r\n"
            )
            line.settimeout(10)
            self.assertIn(b" 401 ", line.recv(100))
        response = self.live.http(
            "POST", "/screens", content=body(12), headers={"Content-Type": "application/json"}
        )
        self.assertEqual(
            (response.status_code, response.json()["type"]), (413, "/problems/too-large")
        )
        response = self.live.http("POST", "/screens", content=b"x" * (9 * MB))
        self.assertEqual(response.status_code, 413)
        grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
        self.assertLess(grown, 80)  # MB; this test's own bodies are in it

    def test_another_name_that_points_here_is_not_answered(self) -> None:
        for host in (
            "rebound.example",
            "localhost.rebound.example",
            "",
            "[::",
            "127.0.0.1@evil.example",
        ):
            response = self.live.http("GET", "/lists", headers={"Host": host})
            self.assertEqual(response.status_code, 421, host)
        response = self.live.http("GET", "/lists", headers={"Host": "localhost:1"})
        self.assertEqual(response.status_code, 200)

    def test_an_error_of_our_own_has_a_number_and_leaves_the_connection_whole(self) -> None:
        def broken() -> None:
            raise ZeroDivisionError("of our own")

        with self.opened(Doors(), broken=broken) as (bound, client):
            with self.assertLogs("wise_ledger.service.gate") as log:
                response = client.get("/api/v1/broken")
            self.assertEqual(response.status_code, 500)
            number = response.json()["detail"].split("number ")[1][:8]
            self.assertIn(number, log.output[0])
            self.assertNotIn("of our own", response.text.replace("error of its own", ""))
            line = HTTPConnection(*bound.getsockname())
            line.connect()
            for _ in range(3):  # one connection answers on after an error
                with self.assertLogs("wise_ledger.service.gate"):
                    line.request("GET", "/api/v1/broken", headers=dict(client.headers))
                    answer = line.getresponse()
                self.assertEqual(
                    (answer.status, len(answer.read()) > 0, line.sock is not None),
                    (500, True, True),
                )
            line.close()

    def test_who_leaves_in_the_middle_of_a_call_leaves_no_error_behind(self) -> None:
        with self.opened(Doors()) as (bound, client), self.assertNoLogs("wise_ledger.service.gate"):
            who = f"Host: localhost\r\nAuthorization: {client.headers['authorization']}\r\n"
            for path in (
                "screens",
                "panels",
                "matches",
                "matches/terms",
                "collections/files/prices",
                "lists",
            ):
                for begun in ("", "{", "[" * 300):
                    with socket.create_connection(bound.getsockname()[:2]) as line:
                        line.sendall(
                            f"POST /api/v1/{path} HTTP/1.1\r\n{who}Content-Length: 500\r\n\r\n{begun}".encode()
                        )
            for path in ("companies", "market", "statements?company=AGK@ZALD", "series"):
                with socket.create_connection(bound.getsockname()[:2]) as line:
                    line.sendall(f"GET /api/v1/{path} HTTP/1.1\r\n{who}\r\n".encode())
            time.sleep(1.0)
            self.assertEqual(client.get("/api/v1/health").status_code, 200)

    def test_the_next_few_wait_for_their_turn_and_only_a_crowd_is_asked_to_come_again(self) -> None:
        going, entered = Event(), Event()

        def slow() -> str:
            entered.set()
            going.wait(10)
            return "done"

        doors = Doors(at_once=1, few=1, patience=0.1)
        with self.opened(doors, slow=slow) as (bound, client), ThreadPoolExecutor(3) as pool:
            worked_on = pool.submit(client.get, "/api/v1/slow")
            self.assertTrue(entered.wait(5))
            both = [pool.submit(client.get, "/api/v1/lists") for _ in range(2)]
            until(lambda: any(call.done() for call in both))
            time.sleep(0.3)  # longer than a crowd's patience
            waits, refused = sorted(both, key=lambda call: call.done())
            busy = refused.result()
            self.assertEqual(
                (busy.status_code, busy.headers["retry-after"], waits.done()), (503, "1", False)
            )
            self.assertEqual(client.get("/api/v1/health").status_code, 200)
            Thread(target=lambda: (time.sleep(1.0), going.set())).start()
            with connect(address(bound), self.live.token) as asker:
                self.assertGreater(len(asker.lists()), 0)  # the client comes again
            self.assertEqual([call.result().status_code for call in (worked_on, waits)], [200, 200])

    @contextmanager
    def opened(
        self, doors: Doors, **calls: Callable[[], object]
    ) -> Iterator[tuple[socket.socket, httpx.Client]]:
        """The same ledger behind other doors, with calls of its own."""
        app = create_app(self.live.desk, doors)
        for path, call in calls.items():
            app.add_api_route(f"/api/v1/{path}", call)
            app.router.routes.insert(0, app.router.routes.pop())
        bound = bind("127.0.0.1", 0, "--port")
        headers = {"Authorization": f"Bearer {self.live.token}"}
        with (
            running(app, bound),
            httpx.Client(
                verify=False, base_url=address(bound), headers=headers, timeout=20
            ) as client,
        ):
            yield bound, client


class Room(Live):
    def test_who_reads_slowly_keeps_nobody_waiting(self) -> None:
        app = create_app(self.live.desk, Doors(at_once=1, patience=0.1))
        app.add_api_route("/api/v1/long", lambda: StreamingResponse(b"x" * MB for _ in range(200)))
        app.router.routes.insert(0, app.router.routes.pop())
        headers = {"Authorization": f"Bearer {self.live.token}"}
        bound = bind("127.0.0.1", 0, "--port")
        with (
            running(app, bound),
            httpx.Client(verify=False, base_url=address(bound), headers=headers) as client,
            client.stream("GET", "/api/v1/long"),  # and nothing of it is read
        ):
            self.assertEqual(client.get("/api/v1/lists").status_code, 200)


class Notices(unittest.TestCase):
    def test_notices_go_to_named_hosts_alone(self) -> None:
        post = Post(hosts=("hooks.example", "10.1.0.0/16"))
        for target in ("https://hooks.example/x", "http://10.1.2.3:80/", "mailto:ada@example.test"):
            post.check(target)
        for target in (
            "http://127.0.0.1/",
            "http://[::1]/",
            "http://169.254.169.254/latest",
            "http://10.2.0.1/",
            "http://xn--/",
            "http://localhost:8600/",
            "http://other.example/",
            "http://hooks.example@evil.example/",
            "ftp://hooks.example",
            "http://u:p@hooks.example/",
            "mailto:a@b, c@d",
            "mailto:a@b\r\nBcc: c@d",
            "mailto:@",
            "http://2130706433/",
        ):
            with self.assertRaises(Refused, msg=target):
                post.check(target)

    def test_a_named_host_that_points_inside_is_not_called(self) -> None:
        inside = [(socket.AF_INET, socket.SOCK_STREAM, 6, "", ("192.168.0.7", 443))]
        with patch("socket.getaddrinfo", return_value=inside):
            with self.assertRaises(OSError):
                Post(hosts=("hooks.example",)).place(httpx.URL("https://hooks.example/x"))
            named = Post(hosts=("hooks.example", "192.168.0.0/24"))
            self.assertEqual(named.place(httpx.URL("https://hooks.example/x")), "192.168.0.7")


if __name__ == "__main__":
    unittest.main()
