"""The catalogue on the wire."""

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field


class Item(BaseModel):
    """One kind of figure."""

    code: str
    title: str
    statement: str
    nature: Literal["flow", "stock", "observation"]
    unit: str
    definition: str
    templates: list[str]
    source: str = Field(default="", description="of a registered item, where its figures come from")
    stale_after: int | None = Field(default=None, description="of an observation, days after which it is stale")


class NewItem(BaseModel):
    """An item of one's own; it stands in the statement `other`."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "code": "disclosure_score",
                    "title": "Disclosure score",
                    "unit": "pure",
                    "source": "Kestrel pages, read every quarter",
                    "stale_after": 200,
                    "who": "Ada",
                }
            ]
        }
    )

    code: str = Field(description="small letters, digits and _; what expressions call it")
    title: str
    nature: Literal["flow", "stock", "observation"] = "observation"
    unit: str = Field(description="money, money_per_share, shares, pure or count")
    definition: str = ""
    source: str = Field(description="where its figures come from")
    stale_after: int | None = Field(default=None, description="days; of an observation 400 unless said")
    who: str


class Catalogue(BaseModel):
    """The items, and the functions and attributes that an expression may use."""

    items: list[Item]
    attributes: list[str]
    functions: dict[str, str] = Field(description="how each is called, and what it does")
