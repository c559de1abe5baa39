"""Errors on the wire: RFC 9457 problem details."""

from pydantic import Field

from wise_ledger.wire.model import Model


class InputProblem(Model):
    """One thing wrong: where, the value, what is wrong, and the mend."""

    at: str
    value: str
    problem: str
    mend: str
    line: str = Field("", description="of an expression: the line of it that `at` names")


class ProblemDetails(Model):
    """A problem document, served as `application/problem+json`."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[InputProblem] = []
