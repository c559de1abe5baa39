"""`demo` and `serve` from outside: start, stop, second start, taken ports, settings."""

import asyncio
import contextlib
import math
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest import mock

import httpx
from click.testing import CliRunner

from tests.live import PLAIN, run_command, until, worked
from wise_ledger.client import connect
from wise_ledger.launch.demo import demo
from wise_ledger.launch.running import PortTaken, address, bind, running
from wise_ledger.launch.serve import serve
from wise_ledger.launch.settings import SettingsRefused, read_settings

FREE = ("--port", "0", "--source-port", "0", "--today", "2024-12-31")


class Started:
    """A long-running command; what it says is gathered in a file."""

    def __init__(self, folder: str, *arguments: str, **settings: str) -> None:
        self.output_path = Path(folder) / f"output-{time.monotonic_ns()}"
        with self.output_path.open("w") as words:
            command = [sys.executable, "-m", "wise_ledger.launch.main", *arguments]
            environment = {**os.environ, "PYTHONUNBUFFERED": "1", **settings}
            self.process = subprocess.Popen(
                command, stdout=words, stderr=words, env=environment, cwd=folder
            )

    @property
    def output(self) -> str:
        return self.output_path.read_text()

    def address(self, pattern: str) -> str:
        def found() -> re.Match[str] | None:
            assert self.process.poll() is None, self.output
            return re.search(pattern, self.output)

        until(found)
        match = found()
        assert match
        return match[1]

    def stop(self, kind: signal.Signals = signal.SIGINT) -> int:
        self.process.send_signal(kind)
        return self.process.wait(timeout=15)


def loading() -> float:
    """Seconds of processor that loading service and stand-ins takes here and now:
    no start does without them.
    """
    began = worked()
    for code in (
        "import wise_ledger.service.app, wise_ledger.launch.demo",
        "import wise_ledger.standins.__main__",
    ):
        subprocess.run([sys.executable, "-c", code], check=True)
    return worked() - began


class Demo(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = folder.name
        self.data = str(Path(folder.name) / "demo")

    def start(self, *arguments: str, **settings: str) -> Started:
        started = Started(self.folder, *arguments, **settings)
        self.addCleanup(started.process.wait)
        self.addCleanup(started.process.kill)
        return started

    @contextmanager
    def little_but_loading(self) -> Iterator[None]:
        """What is started takes little more of the processor than loading does,
        measured after it, again if need be.
        """
        began = worked()
        yield
        took = worked() - began
        if took >= 1.8 * loading():  # the machine may have been slower before
            self.assertLess(took, 1.8 * loading())

    def test_once_collects_shows_the_first_screen_and_ends_then_it_invites_and_serves(self) -> None:
        ended = run_command("demo", "--once", "--small", *FREE, "--data", self.data)
        self.assertEqual(ended.returncode, 0, ended.stderr)
        self.assertIn(
            "4,106 new facts, 32 companies collected (8 unchanged), 0 failed", ended.stdout
        )
        self.assertRegex(ended.stdout, r"pass +Ashgrove Kilnworks")
        self.assertIn("12 pass, 9 fail, 2 unknown", ended.stdout)
        with self.little_but_loading():
            again = run_command("demo", "--once", "--small", *FREE, "--data", self.data)
        self.assertNotIn("collecting", again.stdout)
        self.assertIn("12 pass, 9 fail, 2 unknown", again.stdout)
        self.invites_serves_and_stops()

    def invites_serves_and_stops(self) -> None:
        """The same data once more: until somebody ends it, and for nobody else meanwhile."""
        first = self.start("demo", "--small", *FREE, "--data", self.data)
        url = first.address(r"console +(http://127\.0\.0\.1:\d+)")
        token = first.address(r"token +(wl_\S+)")
        until(lambda: "Ctrl-C" in first.output)
        self.assertEqual(len(re.findall(r"^  \d\. ", first.output, re.M)), 4)
        answer = PLAIN.get(f"{url}/api/v1/lists", headers={"Authorization": f"Bearer {token}"})
        self.assertEqual(answer.json()["lists"][0]["companies"], 24)
        self.assertEqual((Path(self.data) / "token").read_text().strip(), token)
        other = run_command("demo", "--once", "--small", *FREE, "--data", self.data)
        self.assertEqual(other.returncode, 1)
        self.assertIn("another service has this ledger open", other.stderr)
        self.assertEqual(first.stop(), 0)
        with self.assertRaises(httpx.TransportError):
            PLAIN.get(f"{url}/api/v1/health")

    def test_kill_9_in_the_middle_then_started_again_the_collection_finishes(self) -> None:
        first = self.start("demo", "--small", *FREE, "--data", self.data)
        wal = Path(self.data) / "ledger.sqlite-wal"
        until(lambda: wal.exists() and wal.stat().st_size > 400_000)
        first.stop(signal.SIGKILL)
        self.assertNotIn("ready", first.output)
        second = self.start("demo", "--small", *FREE, "--data", self.data)
        url = second.address(r"console +(\S+)")
        token = second.address(r"token +(wl_\S+)")
        self.assertIn("run 1 finished", second.output)
        with connect(url, token) as ledger:
            verified = ledger.verify()
        self.assertEqual((verified.facts, verified.batches), (4106, 25))

    def test_a_taken_port_names_the_option_that_changes_it(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = str(taken.getsockname()[1])
            for option, arguments in {
                "--port": ("--port", port, "--source-port", "0"),
                "--source-port": ("--port", "0", "--source-port", port),
            }.items():
                ended = CliRunner().invoke(demo, ["--once", *arguments, "--data", self.data])
                self.assertEqual(ended.exit_code, 1)
                self.assertIn(f"choose another with {option}", ended.output)
                self.assertIn(port, ended.output)

    def test_serve_makes_a_first_token_and_offers_no_source_without_settings(self) -> None:
        served = self.start("serve", "--data", self.data, "--port", "0")
        url = served.address(r" at (http://127\.0\.0\.1:\d+)")
        # Its output may become a log: the token is in a file of the owner's.
        path = Path(served.address(r"a token to sign in with is in (\S+first-token)"))
        self.assertNotIn("wl_", served.output)
        token = path.read_text().strip()
        modes = {
            p.name: oct(p.stat().st_mode & 0o777)
            for p in (path, Path(self.data), Path(self.data, "ledger.sqlite"))
        }
        self.assertEqual(
            modes, {"first-token": "0o600", Path(self.data).name: "0o700", "ledger.sqlite": "0o600"}
        )
        answer = PLAIN.get(f"{url}/api/v1/sources", headers={"Authorization": f"Bearer {token}"})
        self.assertEqual(answer.json(), {"sources": []})
        self.assertEqual(served.stop(), 0)
        self.ends_in_five_seconds_though_a_source_sends_a_byte_now_and_then(token)

    def ends_in_five_seconds_though_a_source_sends_a_byte_now_and_then(self, token: str) -> None:
        """Served again, now with a source: who may sign in has not changed."""
        asked, over = threading.Event(), threading.Event()

        async def dripping(scope: Any, receive: Any, send: Any) -> None:
            if scope["type"] == "http":
                await send({"type": "http.response.start", "status": 200, "headers": []})
                while not over.is_set():
                    asked.set()
                    await send({"type": "http.response.body", "body": b" ", "more_body": True})
                    await asyncio.sleep(0.1)

        bound = bind("127.0.0.1", 0, "--port")
        of_source = {
            "WISE_LEDGER_FERNMARK_URL": address(bound),
            "WISE_LEDGER_FERNMARK_KEY": "a key",
        }
        with running(dripping, bound):
            served = self.start("serve", "--data", self.data, "--port", "0", **of_source)
            with connect(served.address(r" at (http://127\.0\.0\.1:\d+)"), token) as ledger:
                run = ledger.queue("fernmark")
                self.assertTrue(asked.wait(15))
                began = time.monotonic()
                self.assertEqual(served.stop(signal.SIGTERM), 0)
            self.assertLess(time.monotonic() - began, 5.0)
            self.assertNotIn("token", served.output)
            over.set()
        # What was under way is taken up by the next start.
        again = self.start("serve", "--data", self.data, "--port", "0", **of_source)
        with connect(again.address(r" at (http://127\.0\.0\.1:\d+)"), token) as ledger:
            until(lambda: ledger.run(run.id).state != "queued", 20)
        self.assertEqual(again.stop(), 0)

    def test_a_port_or_day_that_cannot_be_is_refused_with_the_mend(self) -> None:
        coming = datetime.now(UTC).date() + timedelta(2)
        for given, mend in (
            *(
                (("--today", day), "name a day from 2024-01-31")
                for day in ("0001-01-01", "1999-01-01", "2024-01-30", f"{coming}", "9999-12-31")
            ),
            (("--today", "x"), "YYYY-MM-DD"),
            *(
                ((option, port), f"choose another with {option}")
                for option in ("--port", "--source-port")
                for port in ("70000", "-1", "9" * 30)
            ),
        ):
            free = [] if given[0].endswith("port") else ["--port", "0", "--source-port", "0"]
            free += ["--port", "0"] if given[0] == "--source-port" else []
            ended = CliRunner().invoke(demo, ["--once", *free, *given, "--data", self.data])
            self.assertEqual(ended.exit_code, 1, given)
            self.assertIn(mend, ended.output)
            self.assertFalse(Path(self.data).exists())

    def test_a_folder_that_cannot_be_used_is_refused_with_the_mend(self) -> None:
        ended = run_command("demo", "--once", "--small", *FREE, "--data", "/dev/null/here")
        self.assertEqual(ended.returncode, 1)
        self.assertNotIn("Traceback", ended.stderr)
        served = CliRunner().invoke(serve, ["--port", "0", "--data", "/dev/null/here"])
        self.assertEqual(served.exit_code, 1)
        for words in (ended.stderr, served.output):
            self.assertIn("choose another folder with --data", words)

    def test_a_damaged_ledger_is_refused_with_the_mend(self) -> None:
        folder = Path(self.data)
        folder.mkdir()
        (folder / "ledger.sqlite").write_bytes(b"nonsense" * 1000)
        ended = CliRunner().invoke(serve, ["--data", self.data, "--port", "0"])
        self.assertEqual(ended.exit_code, 1)
        self.assertIn("the file is no ledger", ended.output)


class Settings(unittest.TestCase):
    def test_a_setting_that_cannot_be_used_is_named(self) -> None:
        with self.assertRaises(SettingsRefused) as caught:
            read_settings(port=99999)
        self.assertIn("WISE_LEDGER_PORT=99999", str(caught.exception))
        ended = run_command("serve", environment={**os.environ, "WISE_LEDGER_PORT": "many"})
        self.assertEqual(ended.returncode, 2)
        self.assertIn("WISE_LEDGER_PORT=many", ended.stderr)

    def test_whatever_a_setting_is_set_to_it_is_taken_or_refused_by_its_name(self) -> None:
        odd = ("", " ", "-1", "0", "nan", "inf", "1e400", "9" * 30, "true", "x", "{", "[1]", "xx y", "ftp://x",
               "http://", "http://[x", "http://x:99999", '{"a": "x y"}', '{"a": 1}', "🦜", "'\"")  # fmt: skip
        refused = set()
        for name in type(read_settings()).model_fields:
            for value in odd:
                with (
                    self.subTest(name, value=value),
                    mock.patch.dict(os.environ, {f"WISE_LEDGER_{name.upper()}": value}),
                ):
                    try:
                        taken = getattr(read_settings(), name)
                        self.assertFalse(name.endswith("_url") and taken and "http" not in taken)
                        self.assertFalse(isinstance(taken, float) and not math.isfinite(taken))
                    except SettingsRefused as error:
                        self.assertIn(f"WISE_LEDGER_{name.upper()}", str(error))
                        refused.add(name)
        free = {"data", "host", "hosts", "notice_hosts", "smtp_host", "mail_from"}
        keys = {"fernmark_key", "oskelby_key", "notice_secret"}
        self.assertEqual(set(type(read_settings()).model_fields) - refused, free | keys)

    def test_a_file_of_settings_that_is_no_text_is_named(self) -> None:
        with tempfile.TemporaryDirectory() as folder, contextlib.chdir(folder):
            Path(".env").write_bytes(b"WISE_LEDGER_PORT=\xff")
            with self.assertRaises(SettingsRefused) as caught:
                read_settings()
        self.assertIn(".env", str(caught.exception))

    def test_keys_are_never_shown(self) -> None:
        self.assertNotIn("hush", repr(read_settings(fernmark_key="hush", fernmark_url="http://x")))

    def test_the_example_names_every_setting(self) -> None:
        example = (Path(__file__).parents[2] / ".env.example").read_text()
        for name in type(read_settings()).model_fields:
            self.assertIn(f"WISE_LEDGER_{name.upper()}=", example)

    def test_binding_twice_is_refused(self) -> None:
        first = bind("127.0.0.1", 0, "--port")
        self.addCleanup(first.close)
        with self.assertRaises(PortTaken):
            bind("127.0.0.1", first.getsockname()[1], "--port")


class Plugged(unittest.TestCase):
    def test_a_source_of_a_third_party_is_found_and_a_broken_one_left_out(self) -> None:
        from importlib.metadata import EntryPoint

        from wise_ledger.launch import assembly

        points = [
            EntryPoint("mine", "wise_ledger.sources.fernmark:Fernmark", assembly.PLUGINS),
            EntryPoint("broken", "no.such.module:open", assembly.PLUGINS),
        ]
        with (
            mock.patch.object(
                assembly, "entry_points", lambda group: points if group == assembly.PLUGINS else []
            ),
            self.assertLogs(assembly.log, "ERROR") as logged,
        ):
            found = assembly.plugged_in()
        self.assertEqual(list(found), ["mine"])
        self.assertIn("broken", logged.output[0])
