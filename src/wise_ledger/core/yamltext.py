"""YAML that people write: read as plain values, whatever is sent for it."""

from typing import Any

import yaml

LONGEST = 1_000_000  # characters
DEEPEST = 40  # lists and mappings inside one another
FAST = getattr(yaml, "CSafeLoader", yaml.SafeLoader)


class NotYaml(ValueError):
    """Why a text is no YAML of ours, and in which line, if in one."""

    def __init__(self, problem: str, line: int | None = None) -> None:
        super().__init__(problem if line is None else f"{problem}, in line {line}")
        self.problem, self.line = problem, line


def read_yaml(text: str, loader: Any = FAST) -> Any:
    """The plain values of a text; raises `NotYaml`.

    Nothing in it stands for something else: aliases make a short text a large one. What is nested
    without end is found before it is read, since the fast reader calls itself for each level.
    """
    if len(text) > LONGEST:
        raise NotYaml(f"the text has {len(text):,} characters, and at most {LONGEST:,} are read")
    try:
        _walk(text)
        return yaml.load(text, loader)
    except yaml.MarkedYAMLError as error:
        words = " ".join(str(error.problem or error).split())[:200]
        raise NotYaml(words, _line(error.problem_mark)) from None
    except NotYaml:
        raise
    except Exception as error:  # what the reader raises for odd numbers and dates has no root
        raise NotYaml(" ".join(str(error).split())[:200] or "it cannot be read") from None


def _line(mark: Any) -> int | None:
    return None if mark is None else mark.line + 1


def _walk(text: str) -> None:
    """Look at a text piece by piece, each of which is small."""
    depth = 0
    for event in yaml.parse(text, FAST):
        if isinstance(event, yaml.AliasEvent):
            raise NotYaml(
                "an alias stands in it, which has to be written out", _line(event.start_mark)
            )
        if isinstance(event, yaml.CollectionStartEvent):
            depth += 1
            if depth > DEEPEST:
                raise NotYaml("it is nested too deep", _line(event.start_mark))
        elif isinstance(event, yaml.CollectionEndEvent):
            depth -= 1
