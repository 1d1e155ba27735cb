"""Columns that hold what runs to date: taken, and asked of a month alone; left out, and what a window needs."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.compare.plan import Plan
from marvex.core.compare.scenario_words import version_said
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.total_names import speaks_of_variance
from marvex.core.time.calendar import Grain, is_finer
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.dates import written
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.source import Source
from marvex.sources.headings import holds_several_months, parted, runs_to_date, sided


def check_from_the_start(source: Source, planned: Sequence[Plan]) -> None:
    """Raises Mistake where what runs to date would be shown as that of a month alone."""
    windows = [plan.current.window for plan in planned if plan.current.window is not None]
    is_later = any(one.first != one.calendar.start(one.first, Grain.YEAR) for one in windows)
    if is_later or any(plan.every and is_finer(plan.every, Grain.YEAR) for plan in planned):
        ways = f"{setting('for_', 'year-to-date')}, by category ({setting('by')})"
        raise Mistake(
            f"{source.name}: {source.roles.amounts[0].name} runs to date by its heading, and is of no month alone",
            f"Ask for the year so far: {ways}; {setting('total_as', 'closing')} takes each as it stands.",
        )


def check_left_out(book: Ledger, planned: Sequence[Plan]) -> None:
    """Raises Mistake where a window begins before the data, and columns that were left out hold what it asks for.

    A sheet of October and of the year to date has no January: its October is not said to be that of a year.
    """
    known = {one.name: one for one in book.scenarios}
    for source in book.sources:
        holding = _holding_more(source)
        # Along time the base of a window's first period is before the window.
        sides = (side for plan in planned for side in (plan.sides if plan.every is None else (plan.current,)))
        for side in sides if holding else ():
            dates, days = known.get(side.scenario), side.days_summed
            if dates is None or dates.first is None or days is None or dates.first <= days[0]:
                continue
            if f"{days[0]:%Y-%m}" == f"{dates.first:%Y-%m}":
                continue
            taken = listed((one.name for one in source.roles.amounts), 2)
            pair = f"{setting('current', holding[0])} {setting('base', holding[1])}" if len(holding) > 1 else ""
            months = dict.fromkeys(f"{one:%Y-%m}" for one in (dates.first, dates.last or dates.first))
            raise Mistake(
                f"{source.name}: the window begins on {days[0]}, {taken} on {dates.first}; what is before stands in "
                f"{listed(holding, 2)}, left out so far",
                f"{f'{pair} sets these against one another; ' if pair else ''}"
                f"{setting('for_', '/'.join(months))} is of what was taken.",
            )


def _holding_more(source: Source) -> list[str]:
    """The columns of amounts beside those of periods that were not taken and hold several months: the current side
    first. A balance that runs along dated rows holds nothing before them."""
    if not any(one.period for one in source.roles.amounts):
        return []
    taken = source.roles.taken
    found = [
        one.name
        for one in source.columns
        if one.figures and one.name not in taken and (runs_to_date(one.name) or holds_several_months(one.name))
    ]
    amounts = [one for one in found if not speaks_of_variance(one) and "%" not in spelled_out(one)]
    return sorted(amounts, key=_as_sides)


def _as_sides(heading: str) -> tuple[bool, int]:
    """Where a heading stands among the sides of a comparison: actuals first, then the later year."""
    said = parted(heading)
    period = written(said.period) if said.period else None
    scenario, _ = sided(heading) or (said.scenario, "")
    version = version_said(scenario)
    return version is None or not version.is_actual, -period.first.toordinal() if period else 0
