"""Names that a reader takes for one and that are not: alike but for case, blanks, accents, marks or leading zeros."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Iterable, Sequence

from marvex.core.errors import setting


def _without_hidden(name: str) -> str:
    """The name as it is seen, without signs that have no width, each letter and its accent one."""
    return "".join(one for one in unicodedata.normalize("NFC", name) if unicodedata.category(one) != "Cf")


def _without_accents(name: str) -> str:
    return "".join(one for one in unicodedata.normalize("NFKD", name) if not unicodedata.combining(one))


# Each makes more names alike than those before it.
_STEPS: tuple[tuple[str, Callable[[str], str]], ...] = (
    ("signs that are not seen", _without_hidden),
    ("case", str.casefold),
    ("blanks", lambda name: " ".join(name.split())),
    ("accents", _without_accents),
    ("leading zeros", lambda name: re.sub(r"(?<![\w.])0+(?=\d)", "", name)),
    ("marks between words", lambda name: " ".join(re.sub(r"[^\w.%]+", " ", name).split()) or name),
    ("blanks within", lambda name: re.sub(r"\s", "", name) if re.search(r"\d", name) is None else name),
)


def names_alike(labels: Iterable[str]) -> tuple[str, ...]:
    """A caution of the names that are alike but for something small, and so are categories of their own.

    >>> names_alike(["Fuel", "fuel", "0410", "410", "Crew"])  # doctest: +ELLIPSIS
    ('Fuel and fuel are alike but for case, ...', '0410 and 410 are alike but for leading zeros, ...')
    """
    names = list(dict.fromkeys(labels))
    kept = dict(zip(names, names, strict=True))
    found = []
    for what, made in _STEPS:
        groups: dict[str, list[str]] = {}
        kept = {name: made(so_far) for name, so_far in kept.items()}
        for name, so_far in kept.items():
            groups.setdefault(so_far, []).append(name)
        if alike := [group for group in groups.values() if len(group) > 1]:
            found.append(_told(alike, what))
        # What is told of once is one name from here on.
        kept = {group[0]: so_far for so_far, group in groups.items()}
    return tuple(found)


def without_small_marks(name: str) -> str:
    """The name as it is compared where case, blanks and signs that are not seen say nothing.

    >>> without_small_marks("North  Pier ") == without_small_marks("NORTH PIER")
    True
    """
    for _, made in _STEPS[:3]:
        name = made(name)
    return name


def _told(groups: Sequence[Sequence[str]], what: str) -> str:
    more = f" (and {len(groups) - 1} more such)" if len(groups) > 1 else ""
    are = f"{' and '.join(groups[0])} are alike but for {what}, and were kept apart{more}"
    return f"{are}: {setting('name_map', 'FILE')} shows them as one"
