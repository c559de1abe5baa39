"""What every model of the wire has in common."""

from datetime import date
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

# The number of a run, a batch, a fact: as large as every reader of JSON keeps whole (RFC
# 8259, 6), and the ledger too.
Number = Annotated[int, Field(ge=0, le=2**53 - 1)]


def iso_text(value: date) -> str:
    """A day, or an aware UTC instant, as it stands in JSON: for rows that are made by hand."""
    return value.isoformat().replace("+00:00", "Z")


class Model(BaseModel):
    """A body as it travels; an answer carries every field, so its schema promises each of them.

    What checks a body is built when it is first needed: a caller needs few of them.
    """

    model_config = ConfigDict(json_schema_serialization_defaults_required=True, defer_build=True)


def build_all() -> None:
    """Build what checks bodies of every kind: whoever answers calls needs them all."""
    waiting: list[type[Model]] = [Model]
    while waiting:
        model = waiting.pop()
        waiting += model.__subclasses__()
        model.model_config["defer_build"] = False  # what is made of it is not put off either
        model.model_rebuild()
