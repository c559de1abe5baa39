"""One tree of errors, made from the service's problem details."""

from wise_ledger.wire.problems import InputProblem, ProblemDetails


class WiseLedgerError(Exception):
    """Anything that went wrong; `problems` says what, where and the mend."""

    def __init__(self, title: str, detail: str, problems: tuple[InputProblem, ...] = ()) -> None:
        self.title = title
        self.detail = detail
        self.problems = problems
        super().__init__(f"{title}: {detail}")


class InputRefused(WiseLedgerError):
    """The question or its input is wrong."""


class NotThere(InputRefused):
    """What was named does not exist."""


class AccessDenied(WiseLedgerError):
    """No token, or one that is not accepted."""


class ServiceFailed(WiseLedgerError):
    """The service could not do it."""


class ServiceUnreachable(WiseLedgerError):
    """Nothing answers at the address."""


def refused(at: str, value: object, problem: str, mend: str) -> InputRefused:
    """The error of an argument that cannot be sent."""
    refused = InputProblem(at=at, value=str(value), problem=problem, mend=mend, line="")
    return InputRefused("This cannot be asked", f"{at}: {problem}; {mend}", (refused,))


def error_of(problem: ProblemDetails) -> WiseLedgerError:
    """The error that a problem document stands for."""
    kinds = {
        401: AccessDenied,
        403: AccessDenied,
        404: NotThere,
        413: InputRefused,
        422: InputRefused,
    }
    kind = kinds.get(problem.status, ServiceFailed)
    return kind(problem.title, problem.detail, tuple(problem.errors))
