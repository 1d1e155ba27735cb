"""Values of options as they are written: sizes, counts, lists, amounts, each with what is wrong with it.

Every reader raises ValueError with a few words on how to write it.
"""

from __future__ import annotations

import datetime
import re
from dataclasses import replace
from decimal import Decimal, InvalidOperation

from marvex.core.exact import POWERS
from marvex.core.values import dataclass

RANKED_BY = ("change", "current", "base", "percent")


@dataclass(frozen=True, slots=True)
class Size:
    """The size of a picture in pixels."""

    width: int
    height: int


@dataclass(frozen=True, slots=True)
class Counted:
    """`top:5`, `bottom:3`, or a word alone: which end, and how many; 0 where a word says all.

    Parameters
    ----------
    by : the figure that they are the top or bottom of.
    alone : the rest is left out.
    """

    word: str
    count: int = 0
    by: str = "change"
    alone: bool = False


@dataclass(frozen=True, slots=True)
class Ends:
    """The ends of an axis."""

    lowest: Decimal
    highest: Decimal


@dataclass(frozen=True, slots=True)
class Column:
    """One group of columns: its window, and the scenario and the base where it names them."""

    window: str
    scenario: str | None = None
    versus: str | None = None


def column(text: str) -> Column:
    """`2026-10`, `full-year of actual+forecast`, `latest of actual versus budget`."""
    found = re.fullmatch(r"\s*(\S+)(?:\s+of\s+(.+?))?(?:\s+versus\s+(.+?))?\s*", text, re.IGNORECASE)
    if found is None:
        raise ValueError("write it as 'full-year of actual+forecast versus budget'")
    return Column(*found.groups())


def names(text: str) -> tuple[str, ...]:
    """`a,b` as its parts."""
    parts = tuple(part.strip() for part in text.split(",") if part.strip())
    if not parts:
        raise ValueError("name at least one")
    return parts


def day(text: str) -> datetime.date:
    try:
        return datetime.date.fromisoformat(text)
    except ValueError:
        raise ValueError("write a day such as 2026-10-31") from None


def size(text: str) -> Size:
    """`1280x800`, from 200x150 to 8000x8000."""
    width, _, height = text.lower().partition("x")
    if not (width.isdecimal() and height.isdecimal()):
        raise ValueError("write it as 1280x800")
    if not (200 <= int(width) <= 8000 and 150 <= int(height) <= 8000):
        raise ValueError("the least is 200x150, the most 8000x8000")
    return Size(int(width), int(height))


def kept(text: str) -> Counted:
    """`top:5`, `bottom:3`, or `top:5,alone`."""
    counted, comma, alone = text.partition(",")
    if comma and alone.strip() != "alone":
        raise ValueError("write top:5, bottom:5 or top:5,alone")
    return replace(_counted(counted.strip(), ()), alone=bool(comma))


def labelled(text: str) -> Counted:
    """`all`, `none`, `ends`, `flagged`, `top:5`, `bottom:3`, or `top:5:current`."""
    counted, figure = text, ""
    if text.count(":") == 2:
        counted, _, figure = text.rpartition(":")
    if figure and figure not in RANKED_BY:
        raise ValueError(f"'{figure}' is none of {', '.join(RANKED_BY)}")
    found = _counted(counted, ("all", "none", "ends", "flagged"))
    return replace(found, by=figure or "change")


def cut_at(text: str) -> Decimal | str:
    """`auto`, `none`, or an amount such as 5.8m."""
    if text in ("auto", "none"):
        return text
    try:
        return _amount(text)
    except (InvalidOperation, KeyError):
        raise ValueError("write auto, none or an amount such as 5.8m") from None


def ends(text: str) -> Ends:
    """`-50k/200k`: the ends of an axis, zero between them."""
    lowest, _, highest = text.partition("/")
    try:
        found = Ends(_amount(lowest), _amount(highest))
    except (InvalidOperation, KeyError):
        raise ValueError("write both ends, such as 0/200k") from None
    if not found.lowest <= 0 <= found.highest or found.lowest == found.highest:
        raise ValueError("zero must lie between the ends: what stands on it would float")
    return found


def _amount(text: str) -> Decimal:
    """An amount such as 5.8m."""
    letters = text.lstrip("-0123456789.")
    number = Decimal(text.removesuffix(letters)) if letters else Decimal(text)
    return number.scaleb(POWERS[letters]) if letters else number


def decimals(text: str) -> int:
    if not text.isdecimal() or int(text) > 6:
        raise ValueError("write a number from 0 to 6")
    return int(text)


def count(text: str) -> int:
    if not text.isdecimal() or len(text) > 4:
        raise ValueError("write a whole number from 0 to 9999")
    return int(text)


def seconds(text: str) -> int:
    if not text.isdecimal() or not 0 < int(text) <= 100_000:
        raise ValueError("write a whole number of seconds from 1 to 100000")
    return int(text)


def memory(text: str) -> str:
    """`1GB` or `500MB`, of which 100MB is the least."""
    found = re.fullmatch(r"(\d{1,6}(?:\.\d)?) ?([MG]B)", text.strip().upper())
    if not found or float(found[1]) * (1_000 if found[2] == "GB" else 1) < 100:
        raise ValueError("write it as 1GB or 500MB, of which 100MB is the least")
    return f"{found[1]}{found[2]}"


def change_for_variance(word: str) -> str:
    """The word as it is: a variance, which people type for it, is a change."""
    return "change" if word == "variance" else word


def shown(text: str) -> tuple[str, ...]:
    parts = tuple(change_for_variance(part) for part in names(text))
    known = ("current", "base", "change", "percent", "contribution")
    for part in parts:
        if part not in known:
            raise ValueError(f"'{part}' is none of {', '.join(known)}")
    return parts


def _counted(text: str, words: tuple[str, ...]) -> Counted:
    if text in words:
        return Counted(text)
    word, _, count = text.partition(":")
    if word not in ("top", "bottom") or not count.isdecimal() or int(count) < 1:
        raise ValueError(f"write {', '.join((*words, 'top:5'))} or bottom:5")
    return Counted(word, int(count))
