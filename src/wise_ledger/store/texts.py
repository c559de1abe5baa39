"""Several names in one column."""

import json
from collections.abc import Sequence
from contextlib import suppress


def in_one_text(names: Sequence[str]) -> str:
    """Names parted by spaces; as JSON where one of them would be parted itself, or be taken for it.

    >>> in_one_text(["files", "fernmark"]), in_one_text(["Kestrel pages"])
    ('files fernmark', '["Kestrel pages"]')
    """
    text = " ".join(names)
    return text if text.split() == list(names) and text[:1] != "[" else json.dumps(list(names))


def out_of_one_text(text: str) -> list[str]:
    """The names again.

    >>> out_of_one_text("files fernmark"), out_of_one_text('["Kestrel pages"]')
    (['files', 'fernmark'], ['Kestrel pages'])
    """
    if text[:1] == "[":
        with suppress(ValueError):  # one of old, of a name that begins so
            return [str(name) for name in json.loads(text)]
    return text.split()
