"""The periods that the names of several files or sheets say, where nothing in them says any: an export a month."""

from __future__ import annotations

import csv
import gzip
import re
from collections.abc import Sequence
from itertools import islice, pairwise
from pathlib import Path

from marvex.core.errors import Mistake
from marvex.core.time.calendar import CIVIL
from marvex.sources.columns import columns_of
from marvex.sources.dates import month_alone, period_alone, written
from marvex.sources.headings import parted
from marvex.sources.readers.layout import Layout

LOOKED_AT = 200  # rows
HEADING = "date"  # of the column that they become
_YEAR = r"(?:19|20)\d\d"
_NUMBERED = re.compile(rf"(?<!\d)({_YEAR})[-_. ]?(0[1-9]|1[0-2]|[QqHh][1-4])(?:[-_. ]?([0-3]\d))?(?!\d)")
_NAMED = re.compile(
    rf"(?<![^\W\d_])([^\W\d_]{{3,10}})[-_. ]?({_YEAR})(?!\d)|(?<!\d)({_YEAR})[-_. ]?([^\W\d_]{{3,10}})"
)
_YEAR_ALONE = re.compile(rf"(?<!\d)(?<![Ff][Yy])({_YEAR})(?!\d)")


def period_of_name(name: str) -> str | None:
    """The one period that a file's name says.

    >>> [period_of_name(one) for one in ("ledger-2026-01.csv", "TB_Mar2026.csv", "2026Q2 sales.csv", "fares.csv")]
    ['2026-01', 'Mar 2026', '2026-Q2', None]
    """
    found = {"-".join(one for one in (year, part.upper(), day) if one) for year, part, day in _NUMBERED.findall(name)}
    for word, of_word, year, word_after in _NAMED.findall(name):
        if month_alone(word or word_after):
            found.add(f"{word or word_after} {of_word or year}")
    if not found:
        found = set(_YEAR_ALONE.findall(name))
    return text if len(found) == 1 and written(text := found.pop()) else None


def period_of_sheet(title: str) -> str | None:
    """The one period that a sheet's name says, if only without its year.

    >>> [period_of_sheet(one) for one in ("Jan 2026", "P&L Mar 2026", "March", "FY26 P03", "Summary", "3")]
    ['Jan 2026', 'Mar 2026', 'March', 'FY26 P03', None, None]
    """
    if written(title) is not None and not title.isdecimal():
        return title
    found = period_alone(title)
    return title if found and found[0] else period_of_name(title)


def same_days(periods: Sequence[str]) -> tuple[str, str] | None:
    """Two periods that have days in common, as a month and its quarter have; None where there are none.

    >>> same_days(["Jan 2026", "Feb 2026", "2026-Q1"]), same_days(["Jan", "Q1"]), same_days(["Jan", "Feb"])
    (('Jan 2026', '2026-Q1'), ('Jan', 'Q1'), None)
    """
    found = [(its.first, CIVIL.end(its.first, its.grain), text) for text in periods if (its := written(text))]
    in_order = sorted(found, key=lambda one: one[:2])
    for one, after in pairwise(in_order):
        if after[0] <= one[1]:
            return one[2], after[2]
    known: dict[tuple[str, int], str] = {}
    for text in periods:
        if alone := period_alone(text):
            for (letter, number), before in known.items():
                if letter != alone[0] or number == alone[1]:
                    return before, text
            known[alone] = text
    return None


def dates_of(periods: Sequence[str | None], first: Path, layout: Layout | None) -> list[str] | None:
    """The period of each of several tables; None where one has none, or something in them says when they are.

    Parameters
    ----------
    periods : by their names.
    first, layout : the first of the files, plain or gzipped, and how all are laid out.
    """
    if layout is None or None in periods or len(set(periods)) < 2:
        return None
    has_dates = any(
        column.is_dates or column.is_undated for column in columns_of(layout.headings, _rows(first, layout))
    )
    says_dates = any(parted(one).period or month_alone(one) for one in layout.headings)
    if has_dates or says_dates:
        return None
    found = [str(one) for one in periods]
    if same := same_days(found):
        raise Mistake(
            f"the names {same[0]} and {same[1]} say periods with days in common, which would count twice",
            "Leave one of them out.",
        )
    return found


def _rows(path: Path, layout: Layout) -> list[Sequence[str]]:
    width = len(layout.headings)
    opened = gzip.open if path.suffix == ".gz" else open
    with opened(path, "rt", encoding="utf-8", newline="") as file:
        rows = list(islice(csv.reader(file, delimiter=layout.delimiter), 1, LOOKED_AT))
    return [row[:width] for row in rows if len(row) >= width]
