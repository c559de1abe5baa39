"""Mapping files: YAML that says what is where in a file, read into a model;
what is wrong is named at its place.
"""

import re
from collections.abc import Hashable, Iterator
from typing import Annotated, Any, TypeVar, get_args

import yaml
from pydantic import BaseModel, BeforeValidator, ConfigDict, ValidationError

from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.yamltext import NotYaml, read_yaml

# What the models add to a place to say which of several shapes they tried.
_TAG = re.compile(r"function-.*|str|int|literal\[.*\]|constrained-\w+|_[A-Z]\w*")
M = TypeVar("M", bound="MappingPart")


def _as_text(value: object) -> object:
    """Days and numbers that YAML reads for itself are meant as they are written."""
    return value if value is None or isinstance(value, list | dict | bool) else str(value)


def short_for(name: str) -> BeforeValidator:
    """A part of a mapping that may be written as the one value of this name alone."""
    return BeforeValidator(lambda given: given if isinstance(given, dict) else {name: given})


Text = Annotated[str, BeforeValidator(_as_text)]


class MappingPart(BaseModel):
    """A mapping, or a part of one: what is not named in it is refused."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class _Loader(yaml.SafeLoader):
    """A safe loader, and stricter: a name is said once."""

    def construct_mapping(self, node: Any, deep: bool = False) -> dict[Hashable, Any]:
        seen = set()
        for key, _ in node.value:
            name = key.value if isinstance(key, yaml.ScalarNode) else None
            if name is None or name in seen:
                given = (
                    f"{name} stands here twice"
                    if name is not None
                    else "a name must be plain words"
                )
                raise yaml.MarkedYAMLError(None, None, given, key.start_mark)
            seen.add(name)
        return super().construct_mapping(node, deep)


def read_mapping(text: str, model: type[M], document: str) -> M:
    """A mapping file as its model, which `document` describes;
    raises `BadInput` with every mistake in it.
    """
    try:
        given = read_yaml(text, _Loader)
    except NotYaml as error:
        raise bad_input("mapping", text[:60], f"this is no YAML: {error}", "mend it") from None
    if not isinstance(given, dict):
        raise bad_input(
            "mapping", text[:60], "this is no mapping", f"give {', '.join(model.model_fields)}"
        )
    try:
        return model.model_validate(given)
    except ValidationError as error:
        found: dict[str, Problem] = {}
        for wrong in error.errors(include_url=False):
            problem = _problem(wrong, model, document)
            # of several shapes that a value may have the first is named
            found.setdefault(problem.at, problem)
        raise BadInput(*found.values()) from None


def _problem(error: Any, model: type[MappingPart], document: str) -> Problem:
    at = [str(part) for part in error["loc"] if not _TAG.fullmatch(str(part))]
    where, value = ", ".join(at) or "mapping", str(error["input"])[:60]
    known = (
        [*model.model_fields] if len(at) <= 1 else [*_names(model.model_fields[at[0]].annotation)]
    )
    if error["type"] == "extra_forbidden":
        return Problem(where, at[-1], "nothing is called like this", mend_for(at[-1], known))
    if error["type"] == "missing":
        return Problem(
            where,
            at[-1],
            f"{at[-1]} is missing",
            f"of {', '.join(known)} some must stand here: see {document}",
        )
    given = error["msg"].removeprefix("Value error, ").removeprefix("Input ")
    return Problem(
        where, value, f"{at[-1] if at else 'it'} cannot be this: it {given}", f"see {document}"
    )


def _names(annotation: Any) -> Iterator[str]:
    """What may be named in the parts of a mapping of this kind."""
    if isinstance(annotation, type) and issubclass(annotation, MappingPart):
        yield from annotation.model_fields
    for part in get_args(annotation):
        yield from _names(part)
