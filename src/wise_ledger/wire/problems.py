"""Errors on the wire: RFC 9457 problem details."""

from pydantic import BaseModel


class InputProblem(BaseModel):
    """One thing wrong: where, the value, what is wrong, and the mend."""

    at: str
    value: str
    problem: str
    mend: str


class ProblemDetails(BaseModel):
    """A problem document, served as `application/problem+json`."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[InputProblem] = []
