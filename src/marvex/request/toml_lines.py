"""In which line of a TOML file a key stands: what reads such files does not say it."""

from __future__ import annotations

import re
from collections.abc import Sequence

_HEADER = re.compile(r"\s*(\[\[?)\s*([^\[\]#]+?)\s*\]\]?\s*(#.*)?$")
_KEY = re.compile(r"""\s*("(?:[^"\\]|\\.)*"|'[^']*'|[\w-]+)\s*[.=]""")


def line_of(text: str, loc: Sequence[int | str]) -> int | None:
    """The line, from 1 on, of a key or a table; None where it cannot be told.

    Parameters
    ----------
    loc : the names of the tables, each with the place of the one that is meant where there are several, then the key.

    >>> line_of('[pack]\\n[[view]]\\ndraw = "a"\\n[[view]]\\ndraw = "b"', ["view", 1, "draw"])
    5
    """
    counts: dict[str, int] = {}
    table: list[int | str] = []
    best: int | None = None
    for number, line in enumerate(text.splitlines(), 1):
        header = _HEADER.match(line)
        if header:
            names = [_bare(one) for one in re.split(r"\s*\.\s*", header[2])]
            joined = ".".join(names)
            counts[joined] = counts.get(joined, -1) + 1
            table = [*names, counts[joined]] if header[1] == "[[" else list(names)
            if table and table == list(loc[: len(table)]):
                best = number
        elif table == list(loc[: len(table)]) and len(loc) > len(table):
            key = _KEY.match(line)
            if key and _bare(key[1]) == loc[len(table)]:
                return number
    return best


def _bare(name: str) -> str:
    return name[1:-1] if name[:1] in "\"'" else name
