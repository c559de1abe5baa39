"""What every model of the wire has in common."""

from pydantic import BaseModel, ConfigDict


class Model(BaseModel):
    """A body as it travels; an answer carries every field, so its schema promises each of them."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)
