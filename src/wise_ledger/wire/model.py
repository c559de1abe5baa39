"""What every model of the wire has in common."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

# The number of a run, a batch, a fact: as large as every reader of JSON keeps whole (RFC 8259, 6), and the ledger too.
Number = Annotated[int, Field(ge=0, le=2**53 - 1)]


class Model(BaseModel):
    """A body as it travels; an answer carries every field, so its schema promises each of them."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)
