"""Periods that say no year, such as the months of a sheet of one year: which of them each side has."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence

from marvex.core.compare.side import Span
from marvex.core.time.calendar import Grain, is_finer
from marvex.core.values import dataclass
from marvex.sources.dates import period_alone
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.derived import date_parts
from marvex.sources.engine.met import Met, met
from marvex.sources.engine.source import Source
from marvex.sources.headings import parted

_OF_A_YEAR = {"h": (2,), "q": (4,), "p": (12, 13), "m": (12,), "w": (52, 53), "": (12, 52, 53)}
_BESIDE_MONTHS = {0, 13, 14, 15, 16}  # what a ledger brings forward, and its adjustments of a whole year
Named = tuple[str, int]  # what a period without a year is, as `period_alone` says it


@dataclass(frozen=True, slots=True)
class Undated:
    """Columns of periods without a year, and each of those with the scenario and the day of its amounts, as `met` says.

    Parameters
    ----------
    columns : by the scenario that a source is said to hold.
    """

    columns: Mapping[str | None, str]
    met: tuple[Met, ...]

    def where(self, scenario: str | None) -> tuple[str, str]:
        """The column of a scenario's rows, and how a condition names it."""
        own = scenario if scenario in self.columns else None
        column = self.columns.get(own) or next(iter(self.columns.values()))
        return column, column if own is None or len(self.columns) == 1 else f"{own}={column}"

    def of(self, span: Span) -> dict[Named, str]:
        """The periods of which a span has amounts, by what they name, in order; without those that are 0 to the end."""
        found, amounts = dict[Named, str](), set[Named]()
        for text, scenario, day, is_zero, _ in self.met:
            if any(
                one.scenario == scenario
                and (day is None or one.first is None or one.first <= day <= (one.last or day))
                for one in span.stretches
            ):
                named = period_alone(text) or (text.casefold(), 0)
                found.setdefault(named, text)
                amounts |= set() if is_zero else {named}
        in_order = sorted(found)
        last = max((place for place, one in enumerate(in_order) if one in amounts), default=len(in_order))
        return {one: found[one] for one in in_order[: last + 1]}


def undated(sources: Sequence[Source], engine: Engine) -> Undated | None:
    """The periods without a year of all sources; None where one of them says when its rows are."""
    columns = [undated_column(one) or _numbered_column(one) for one in sources]
    if not all(columns):
        return None
    rows = [
        row
        for source, column in zip(sources, columns, strict=True)
        for row in met(source, [column], [one for one in source.filters if one.column == column], engine)
        if row[0]
    ]
    by_name = dict(zip((one.asked.name for one in sources), columns, strict=True))
    return Undated(by_name, tuple(rows))


def undated_column(source: Source) -> str:
    """The column of periods, where dates do not say as much; empty where there is none."""
    grain, roles = source.written_grain, source.roles
    if roles.has_dates and (grain is None or not is_finer(Grain.MONTH, grain)):
        return ""
    taken = {*roles.taken, *(date_parts(source.headings, source.asked.columns, source.name) or ())}
    found = (one.name for one in source.columns if one.is_undated and one.name not in taken)
    return next((name for name in found if parted(name).period is None), "")  # not the amounts of `Year ended 2025`


def _numbered_column(source: Source) -> str:
    """The column that numbers all parts of a year where the dates are years: 1 to 12, Q1 to Q4; empty without one."""
    grain, roles = source.written_grain, source.roles
    if grain is not Grain.YEAR:
        return ""
    some = {one.name: source.headings.index(one.name) for one in source.columns if one.name not in roles.taken}
    for name, place in some.items():
        is_part = all(_part(text) for row in source.sample if (text := (row[place] or "").strip()))
        if is_part and _are_parts_of_a_year(filter(None, source.rows.values(name))):
            return name
    return ""


def _part(text: str) -> tuple[str, int] | None:
    """The part of a year that a text numbers; also 001, as some ledgers write it, and 0 for what is brought forward."""
    bare = re.sub(r"^0(?=\d\d$)", "", text.strip())
    return ("", 0) if bare in ("0", "00") else period_alone(bare)


def _are_parts_of_a_year(texts: Iterable[str]) -> bool:
    """Whether texts are all the parts of one kind that a year has, or its quarters up to one.

    >>> _are_parts_of_a_year(["Q4", "Q1", "Q2", "Q3"]), _are_parts_of_a_year(["Q1", "Q2"])
    (True, True)
    >>> _are_parts_of_a_year(["P1", "P2"])
    False
    >>> _are_parts_of_a_year(str(one) for one in range(14))
    True
    """
    named = {_part(text) for text in texts}
    letters = {one[0] if one else None for one in named}
    numbers = {one[1] for one in named if one}
    if letters == {"q"} and len(numbers) > 1 and numbers == set(range(1, len(numbers) + 1)):
        return True
    counts = _OF_A_YEAR.get(letters.pop() or "", ()) if len(letters) == 1 and None not in named else ()
    return any(
        numbers == set(range(1, count + 1)) or (count == 12 and numbers - _BESIDE_MONTHS == set(range(1, 13)))
        for count in counts
    )
