"""Columns that number the rows, or say how deep they stand, and hold no amounts."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from itertools import pairwise

from marvex.core.structure.cost_names import speaks_of_money
from marvex.core.structure.total_names import naming
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.cells import is_figure
from marvex.sources.dates import period_alone
from marvex.sources.headings import parted

AMOUNT_NAMES = (
    *("amount", "net", "value", "total", "sum", "net amount", "net_amount", "balance", "revenue", "sales"),
    *("fare", "fares", "price", "cost", "spend", "people", "headcount"),
    *("net sales", "net revenue", "net value", "line total", "transaction amount", "turnover", "fee"),
    *("betrag", "umsatz", "montant", "importe", "importo", "belopp", "beløb", "bedrag"),
)
LEAST_NUMBERED = 6  # rows, which are in order by no chance
_LEAST_OUTLINED = 4
_LEAST_RISING = 5
_MOST_OUTLINED = 5_000
_FIRST = 100  # rows: what does not number these numbers none
_NUMBERING = {
    "#", "no", "nr", "num", "number", "numbering", "pos", "position", "row", "line", "rank", "ranking", "order", "seq",
    "sequence", "sort", "sorting", "item", "step", "priority", "wbs", "outline", "section", "chapter", "code", "lfd",
    "ord", "rang", "zeile", "index", "idx", "id", "ref", "task", "account", "key",
}  # fmt: skip
_DEPTH = {"level", "lvl", "tier", "depth", "indent", "outline", "hierarchy", "ebene", "niveau", "nivel"}
_REFERENCES = {"note", "notes", "anhang"}
_REFERENCE = re.compile(r"\d{1,2}(?:\.\d{1,2})*[a-z]?(?:(?:\s*[,;/&+–-]\s*|\s+)\d{1,2}(?:\.\d{1,2})*[a-z]?)*")
_NUMBER = re.compile(r"\d{1,7}(?:\.\d{1,3})*\.?")
_BEFORE_NAME = re.compile(r"(\d{1,3}(?:\.\d{1,3})*)\.?(?:[\s:)–-]|$)")
_Code = tuple[int, ...]


def speaks_of_amounts(heading: str) -> bool:
    return spelled_out(heading).casefold() in AMOUNT_NAMES or speaks_of_money(heading)


def numbers_rows(heading: str, cells: Sequence[str]) -> bool:
    """Whether a column numbers the rows: 1, 2, 3 …; 10, 20 …; as an outline does, 1, 1.1, 1.1.1, 1.2; or by depth.

    Parameters
    ----------
    cells : those that are filled, from the first.

    >>> [numbers_rows(one, ["1", "2", "3"]) for one in ("Pos.", "Line no", "Routes", "Sales")]
    [True, True, False, False]
    >>> numbers_rows("Part", ["1", "1.1", "1.2", "1.2.1", "2"]), numbers_rows("Part", ["1", "1.1", "1.3", "1.4", "2"])
    (True, False)
    >>> numbers_rows("Note", ["1", "3a", "2, 5"]), numbers_rows("Sales", ["1", "3a", "2"])
    (True, False)
    >>> numbers_rows("Level", ["1", "2", "2", "3", "1"]), numbers_rows("Level", ["1", "3", "2", "3", "1"])
    (True, False)
    """
    words = _words(heading)
    if words and words <= _REFERENCES and not all(map(_NUMBER.fullmatch, cells)):
        return all(map(_REFERENCE.fullmatch, cells))  # 3a, or 4, 5: no amounts
    if len(cells) < 2 or speaks_of_amounts(heading) or not all(map(_NUMBER.fullmatch, cells)):
        return False
    if len(cells) > _FIRST and not numbers_rows(heading, cells[:_FIRST]):
        return False
    codes = [tuple(int(one) for one in cell.rstrip(".").split(".")) for cell in cells]
    if any(len(code) > 1 for code in codes):
        is_called = bool(words) and words <= _NUMBERING
        least = 2 if is_called else _LEAST_OUTLINED
        return len(codes) >= least and all(
            _follows(one, after) or (is_called and one < after) for one, after in pairwise(codes)
        )
    numbers = [code[0] for code in codes]
    steps = {after - one for one, after in pairwise(numbers)}
    if words & _DEPTH and words <= _DEPTH:
        # Groups stand above what is theirs, or below.
        lowest = min(numbers)
        return (numbers[0] == lowest and max(steps) == 1) or (numbers[-1] == lowest and min(steps) == -1)
    if words and words <= _REFERENCES:
        return min(steps) >= 0 and len(cells) > 2
    step, is_called = min(steps), bool(words) and words <= _NUMBERING
    is_from_the_first = numbers[0] in ((0, 1, step) if is_called else (0, 1))
    return (
        len(steps) == 1
        and is_from_the_first
        and (step > 0 if is_called else step == 1 and len(cells) >= LEAST_NUMBERED)
    )


def _words(heading: str) -> set[str]:
    return set(re.findall(r"#|[^\W_]+", spelled_out(heading).casefold()))


def _follows(code: _Code, after: _Code) -> bool:
    """Whether a number of an outline comes right after another: a first one below it, or the next of one above it."""
    if after[:-1] == code:
        return after[-1] <= 1
    at = len(after) - 1
    return at < len(code) and after[:at] == code[:at] and after[at] == code[at] + 1


def rise_as_codes(heading: str, cells: Sequence[str]) -> bool:
    """Whether whole numbers of one length rise from row to row, as the codes of a list do, 1000, 1010, 2000, once or in
    each of several blocks.

    So may amounts, where no others stand beside them.
    """
    codes = [*dict.fromkeys(cells)]
    are_whole = len(cells) >= _LEAST_RISING and all(map(str.isdecimal, cells)) and len({*map(len, cells)}) == 1
    in_blocks = all(one < after for one, after in pairwise(codes)) and all(one != its for one, its in pairwise(cells))
    return are_whole and not speaks_of_amounts(heading) and in_blocks


def numbers_are_names(headings: Sequence[str], place: int, cells: Collection[str], *, is_first: bool = True) -> bool:
    """Whether the numbers of a column are names, as of routes and stores: a total is named among them, or they are
    whole and the first, beside amounts of periods or sides.

    Parameters
    ----------
    cells : those that are filled, each different one.
    is_first : no column of names stands before it.

    >>> [numbers_are_names((one, "2025", "2026"), 0, {"101", "102"}) for one in ("Route", "Sales")]
    [True, False]
    >>> [numbers_are_names(("Route", "Net"), 0, {"101", one}) for one in ("Total", "102")]
    [True, False]
    """
    if speaks_of_amounts(headings[place]) or is_side(headings[place]):
        return False
    if any(naming(cell).is_total for cell in cells if not is_figure(cell)):
        return True
    return is_first and sum(map(is_side, headings)) > 1 and all(map(str.isdecimal, cells))


def is_side(heading: str) -> bool:
    """Whether amounts below a heading are of a period or of a scenario."""
    return parted(heading).is_said or period_alone(heading) is not None


def depths(heading: str, cells: Sequence[str]) -> list[int] | None:
    """How deep each row stands, by a column of levels or by the numbers of an outline, alone or before names.

    None where a column says nothing of that.

    >>> depths("Task", ["1 Quay", "1.1 Wall", "1.2 Steps", "2 Slip", "Total"]), depths("Level", ["1", "2", "2"])
    ([0, 1, 1, 0, 0], [0, 1, 1])
    """
    filled = [cell for cell in cells if cell]
    if not 1 < len(filled) <= _MOST_OUTLINED or not _BEFORE_NAME.match(filled[0]):
        return None
    codes = [_BEFORE_NAME.match(cell) for cell in filled]
    numbers = [code[1] for code in codes if code]
    are_alone = numbers == filled
    if not numbers_rows(heading if are_alone else "", numbers):
        return None
    words = _words(heading)
    if are_alone and words <= _DEPTH and not any("." in one for one in numbers):
        return [int(cell) - 1 if cell else 0 for cell in cells]
    if not any("." in one for one in numbers):
        return None
    return [code[1].count(".") if (code := _BEFORE_NAME.match(cell)) else 0 for cell in cells]
