"""Errors on the wire: RFC 9457 problem details."""

from pydantic import ConfigDict, Field
from pydantic.config import JsonDict

from wise_ledger.wire.model import Model


class InputProblem(Model):
    """One thing wrong: where, the value, what is wrong, and the mend."""

    at: str
    value: str
    problem: str
    mend: str
    line: str = Field("", description="of an expression: the line of it that `at` names")


_EXAMPLE: JsonDict = {
    "type": "/problems/bad-input",
    "title": "The expression cannot be used",
    "status": 422,
    "detail": "revenue is money (write an amount with its currency: 5mn EUR)",
    "errors": [
        {
            "at": "line 1, column 11",
            "value": "5",
            "problem": "revenue is money",
            "mend": "write an amount with its currency: 5mn EUR",
            "line": "revenue > 5",
        }
    ],
}


class ProblemDetails(Model):
    """A problem document, served as `application/problem+json`."""

    model_config = ConfigDict(json_schema_extra={"examples": [_EXAMPLE]})

    type: str
    title: str
    status: int
    detail: str
    errors: list[InputProblem] = []
