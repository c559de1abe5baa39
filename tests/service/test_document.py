"""The OpenAPI document shows every body that is sent or comes, and the examples are such bodies
(4-interface).
"""

import json
import unittest
from collections.abc import Iterator
from typing import Any

import jsonschema_rs

from tests.answers import document
from wise_ledger.service.meanings import asked
from wise_ledger.wire.viewpoint import Viewpoint


def bodies() -> Iterator[tuple[str, str, Any]]:
    """Every body with its call and media type."""
    for path, operations in document()["paths"].items():
        for verb, operation in operations.items():
            both = {"": operation.get("requestBody", {}), **operation["responses"]}
            for status, body in both.items():
                for media, content in body.get("content", {}).items():
                    yield f"{verb} {path} {status}", media, content


class Examples(unittest.TestCase):
    def test_every_body_that_can_be_read_has_an_example_and_it_is_such_a_body(self) -> None:
        parts = document()["components"]
        for call, media, content in bodies():
            if media.startswith("application/vnd"):  # binary files
                continue
            with self.subTest(call, media=media):
                schema = content.get("schema", {})
                model = parts["schemas"].get(schema.get("$ref", "").rpartition("/")[2], {})
                examples = [content["example"]] if "example" in content else model["examples"]
                self.assertTrue(examples)
                if not media.endswith("json"):
                    continue
                whole = jsonschema_rs.Draft202012Validator({**schema, "components": parts})
                wrong = [str(e) for example in examples for e in whole.iter_errors(example)]
                self.assertEqual(wrong, [])

    def test_all_that_is_asked_says_what_it_means_and_the_viewpoint_the_same_everywhere(
        self,
    ) -> None:
        said: dict[str, set[str]] = {}
        for call, name, about in asked(document()):
            with self.subTest(call, asked=name):
                self.assertTrue(about.get("description"))
            said.setdefault(name, set()).add(about.get("description", ""))
        for name in Viewpoint.model_fields:
            self.assertEqual(len(said[name]), 1, said[name])

    def test_examples_name_nobody_s_secret_and_no_place_of_a_machine(self) -> None:
        shown = json.dumps([content.get("example") for _, _, content in bodies()])
        for word in ("/tmp/", "/home/", "/work/", "/root/"):
            self.assertNotIn(word, shown)
        self.assertEqual(
            set(filter(lambda w: w.startswith("wl_"), shown.split('"'))), {"wl_0123456789"}
        )
