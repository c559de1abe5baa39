"""Bodies of the wire made up at random: any model, with whatever its fields may hold."""

from collections.abc import Iterable, Iterator
from datetime import UTC, date, datetime
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import Annotated, Any, Literal, get_args, get_origin

from hypothesis import strategies as st
from hypothesis.strategies import SearchStrategy
from pydantic.fields import FieldInfo

from wise_ledger import wire
from wise_ledger.wire.model import Model

# What a text may hold that a file, a reader or a spreadsheet takes for something else.
_ODD = (
    "", " ", "=1+1", "+1", "-x", "@a", "\t", "a\rb", "a\nb", "a\r\nb", "a,b", 'a"b', "a;b", "a: b", "'", "#N/A",
    "#DIV/0!", "1", "1e5", "true", "nan", "None", "2024-02-30", "_x000D_", "\x00", "\x1f", "\ufeff", "\u202e", "é",
    "🦜", "﷽" * 40, "x" * 33_000, "<b>", "&amp;", "]]>", "\\N",
)  # fmt: skip
TEXTS = st.sampled_from(_ODD) | st.text(st.characters(exclude_categories=["Cs"]), max_size=12)
NUMBERS = st.floats(allow_nan=False, allow_infinity=False)
INTEGERS = st.integers(-(2**53) + 1, 2**53 - 1)
DAYS = st.dates(date(1900, 1, 1), date(2200, 1, 1))
_INSTANTS = st.datetimes(datetime(1900, 1, 1), datetime(2200, 1, 1), timezones=st.just(UTC))  # noqa: DTZ001
INSTANTS = _INSTANTS | _INSTANTS.map(lambda at: at.replace(microsecond=0))  # as most are
_OF_TYPE: dict[Any, SearchStrategy[Any]] = {
    str: TEXTS,
    float: NUMBERS,
    int: INTEGERS,
    bool: st.booleans(),
    type(None): st.none(),
    Any: st.none() | st.booleans() | st.integers(-9, 9) | TEXTS,
    date: DAYS,
    datetime: INSTANTS,
}


def models() -> Iterator[type[Model]]:
    """Every model of the wire."""
    for module in iter_modules(wire.__path__, "wise_ledger.wire."):
        import_module(module.name)
    waiting = Model.__subclasses__()
    while waiting:
        model = waiting.pop()
        waiting += model.__subclasses__()
        if model.__module__.startswith("wise_ledger.wire."):
            yield model


@cache
def any_of(model: type[Model]) -> SearchStrategy[Model]:
    """Any body of a kind."""
    fields = {n: _of(f.annotation, f.metadata) for n, f in model.model_fields.items()}
    return st.builds(model, **fields)


def _of(kind: Any, limits: Iterable[Any] = ()) -> SearchStrategy[Any]:
    """Whatever a field of a type may hold, within its limits."""
    origin, parts = get_origin(kind), get_args(kind)
    if origin is Annotated:
        return _of(parts[0], parts[1:])
    if isinstance(kind, type) and issubclass(kind, Model):
        return st.deferred(lambda: any_of(kind))
    bounds = {
        name: getattr(limit, name)
        for given in limits
        for limit in (given.metadata if isinstance(given, FieldInfo) else [given])
        for name in ("ge", "gt", "le", "lt", "min_length", "max_length", "pattern")
        if getattr(limit, name, None) is not None
    }
    if pattern := bounds.get("pattern"):
        return st.from_regex(pattern, fullmatch=True)
    if kind in (int, float) and bounds:
        least, most = bounds.get("ge", bounds.get("gt")), bounds.get("le", bounds.get("lt"))
        return (st.integers if kind is int else st.floats)(least, most)
    if kind is str and bounds:
        least, most = bounds.get("min_length", 0), bounds.get("max_length", 99_999)
        return TEXTS.map(lambda t: t[:most].ljust(least, "x"))
    if kind in _OF_TYPE:
        return _OF_TYPE[kind]
    if origin is Literal:
        return st.sampled_from(parts)
    if origin is list:
        return st.lists(
            _of(parts[0]),
            max_size=min(3, bounds.get("max_length", 3)),
            min_size=bounds.get("min_length", 0),
        )
    if origin is tuple:
        return st.tuples(*map(_of, parts))
    if origin is dict:
        return st.dictionaries(*map(_of, parts), max_size=2)
    return st.one_of(*(_of(part, limits) for part in parts))
