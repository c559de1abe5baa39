"""Styles within a text that a terminal shows: marks that stand in no name.

The notation of the library that draws takes the brackets of "Tarrow [in liquidation]" for a style,
and leaves them out.
"""

import re
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rich.text import Text

# Of the private use area, which means nothing outside this program.
DIM, BOLD, RED, YELLOW, GREEN, CYAN, END = map(chr, range(0xE000, 0xE007))
_STYLES = {DIM: "dim", BOLD: "bold", RED: "red", YELLOW: "yellow", GREEN: "green", CYAN: "cyan"}
_PARTS = re.compile(f"([{DIM}-{END}])")
# What would move the cursor or recolour the terminal of who reads it.
_CONTROLS = dict.fromkeys([*range(9), *range(11, 32), *range(127, 160)], "\ufffd")


def still(text: str) -> str:
    """A text that moves and colours nothing on a terminal.

    >>> still("Tarrow\x1b[31m plc")
    'Tarrow\ufffd[31m plc'
    """
    return text.translate(_CONTROLS)


def inked(marked: str) -> "Text":
    """A text with its styles, one within another; every other character stands for itself.

    >>> inked(f"{BOLD}Tarrow [in {DIM}liquidation{END}]{END} plc").plain
    'Tarrow [in liquidation] plc'
    """
    from rich.text import Text

    text, styles = Text(), list[str]()
    for part in _PARTS.split(still(marked)):
        if part in _STYLES:
            styles.append(_STYLES[part])
        elif part == END:
            styles = styles[:-1]
        elif part:
            text.append(part, " ".join(styles))
    return text
