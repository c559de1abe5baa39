"""The functions and operators of the language: one object each, read by checker, evaluator,
finder and docs alike.

To add one, write a `Function` in the module of its kind.
"""

from collections.abc import Mapping

from wise_ledger.core.language.functions.across import ACROSS
from wise_ledger.core.language.functions.choices import CHOICES
from wise_ledger.core.language.functions.elementwise import ELEMENTWISE
from wise_ledger.core.language.functions.function import Function
from wise_ledger.core.language.functions.intime import IN_TIME
from wise_ledger.core.language.functions.windows import WINDOWS

FUNCTIONS: Mapping[str, Function] = {
    f.name: f for f in (*IN_TIME, *WINDOWS, *CHOICES, *ELEMENTWISE, *ACROSS)
}
