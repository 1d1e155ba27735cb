"""The columns of a sheet that are of a period, each with those of its parts: a quarter's with those of its months."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date

from marvex.core.time.calendar import CIVIL, Grain, is_finer
from marvex.core.values import dataclass
from marvex.sources.dates import Written, period_alone, written
from marvex.sources.headings import part_beside_side, parted, sided
from marvex.sources.readers.sheet_table import SheetTable

_ALONE = {"m": Grain.MONTH, "p": Grain.MONTH, "q": Grain.QUARTER, "h": Grain.HALF}  # by what `period_alone` says
_ANY_YEAR = 2001  # of periods where none says one, to see which are parts of which


@dataclass(frozen=True, slots=True, kw_only=True)
class _Of:
    """What a column is of: its period, its scenario, and what its heading says beside them."""

    period: Written
    scenario: str | None
    rest: str


def columns_of_periods(table: SheetTable) -> Iterator[tuple[int, list[int]]]:
    """The columns of a period, each with those of its parts, all by their places in the table.

    They are of its own scenario, and of all, as a year's outlook has them of actuals and forecast. Parts that are still
    empty, such as the months to come, are among them.
    """
    found: dict[int, _Of] = {}
    year = next((of.period.first.year for heading in table.headings if (of := _of(heading, 0))), _ANY_YEAR)
    for place, heading in enumerate(table.headings):
        if (of := _of(heading, year)) is not None:
            found[place], year = of, of.period.first.year
    for at, own in found.items():
        end = CIVIL.end(own.period.first, own.period.grain)
        parts = [
            place
            for place, its in found.items()
            if its.rest == own.rest
            and is_finer(its.period.grain, own.period.grain)
            and own.period.first <= its.period.first <= end
        ]
        of_own = [place for place in parts if found[place].scenario == own.scenario]
        before = _just_before(at, own, found)
        for some in (of_own, parts, *_by_grain(of_own, found), *([before] if before else [])):
            # A budget is no sum of actuals alone.
            is_of_side = own.scenario is None or own.scenario in {found[place].scenario for place in some}
            if some and len(some) == len({found[place].period for place in some}) and is_of_side:
                yield at, some


def _of(heading: str, year: int) -> _Of | None:
    """What a heading is of; where it says no year, of the one that is given, if any."""
    said = parted(heading)
    if said.period is not None:
        period = written(said.period)
        return None if period is None else _Of(period=period, scenario=said.scenario, rest=said.rest)
    part, _ = part_beside_side(heading)
    letter, number = period_alone(part or heading) or ("", 0)
    grain = _ALONE.get(letter)
    if not year or grain is None or not 1 <= number <= 12 // grain.months:
        return None
    side, _ = (sided(heading) if part else None) or (None, "")
    first = date(year, (number - 1) * grain.months + 1, 1)
    return _Of(period=Written(first=first, grain=grain), scenario=side, rest="")


def _just_before(at: int, own: _Of, found: Mapping[int, _Of]) -> list[int]:
    """The months just before a longer period, since the last that is as long: those of a reporting year's quarter,
    where they are as many as it has."""
    months: list[int] = []
    for place in range(at - 1, -1, -1):
        its = found.get(place)
        if its is None or (its.scenario, its.rest) != (own.scenario, own.rest):
            continue
        if not is_finer(its.period.grain, own.period.grain):
            break
        months += [place] if not is_finer(Grain.MONTH, its.period.grain) else []  # its first day may stand for it
    return months[::-1] if len(months) == own.period.grain.months else []


def _by_grain(parts: Iterable[int], found: Mapping[int, _Of]) -> Sequence[list[int]]:
    """Parts of a period by their grain: a year may have its months and their quarters beside it."""
    by_grain: dict[Grain, list[int]] = {}
    for part in parts:
        by_grain.setdefault(found[part].period.grain, []).append(part)
    return list(by_grain.values())
