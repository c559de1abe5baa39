"""Mapping files: YAML that says what is where in a file, read into a model; what is wrong is told at its place."""

from collections.abc import Hashable
from typing import Annotated, Any, TypeVar

import yaml
from pydantic import BaseModel, BeforeValidator, ConfigDict, ValidationError

from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.nearest import mend_for

_LONGEST = 1_000_000  # characters
M = TypeVar("M", bound="Said")


def _as_text(value: object) -> object:
    """Days and numbers that YAML reads for itself are meant as they are written."""
    return value if value is None or isinstance(value, list | dict | bool) else str(value)


Text = Annotated[str, BeforeValidator(_as_text)]


class Said(BaseModel):
    """A mapping, or a part of one: what is not named in it is refused."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class _Loader(yaml.SafeLoader):
    """YAML in which a name is said once, and nothing stands for something else."""

    def compose_node(self, parent: Any, index: Any) -> Any:
        if self.check_event(yaml.AliasEvent):
            event = self.peek_event()
            raise yaml.MarkedYAMLError(None, None, "a mapping has no aliases: write it out", event.start_mark)
        return super().compose_node(parent, index)

    def construct_mapping(self, node: Any, deep: bool = False) -> dict[Hashable, Any]:
        seen = set()
        for key, _ in node.value:
            name = key.value if isinstance(key, yaml.ScalarNode) else None
            if name is None or name in seen:
                said = f"{name} stands here twice" if name is not None else "a name must be plain words"
                raise yaml.MarkedYAMLError(None, None, said, key.start_mark)
            seen.add(name)
        return super().construct_mapping(node, deep)


def read_mapping(text: str, model: type[M], document: str) -> M:
    """A mapping file as its model, which `document` describes; raises `BadInput` with every mistake in it."""
    if len(text) > _LONGEST:
        raise bad_input("mapping", f"{len(text):,} characters", "this is too long for a mapping", "name what counts")
    try:
        said = yaml.load(text, _Loader)  # a safe loader, and stricter
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        told = " ".join(str(error).split())[:200] or "it is nested too deep"
        raise bad_input("mapping", text[:60], f"this is no YAML: {told}", "mend it") from None
    if not isinstance(said, dict):
        raise bad_input("mapping", text[:60], "this is no mapping", f"give {', '.join(model.model_fields)}")
    try:
        return model.model_validate(said)
    except ValidationError as error:
        raise BadInput(*(_problem(e, model, document) for e in error.errors(include_url=False))) from None


def _problem(error: Any, model: type[Said], document: str) -> Problem:
    at = [str(part) for part in error["loc"] if not str(part).startswith(("function-", "str", "int", "literal"))]
    where, value = ", ".join(at) or "mapping", str(error["input"])[:60]
    if error["type"] == "extra_forbidden":
        known = [*model.model_fields] if len(at) == 1 else []
        return Problem(where, at[-1], "nothing is called like this", mend_for(at[-1], known) or f"see {document}")
    if error["type"] == "missing":
        return Problem(where, at[-1], "it is missing", f"say {at[-1]}:, as {document} does")
    return Problem(where, value, error["msg"].removeprefix("Value error, "), f"see {document}")
