"""What of an earlier run today's source has under another name, or has no rows of any more."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal

from marvex.core.compare.point import Point
from marvex.core.compare.scenario_words import scenario_meant
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.since import (
    Days,
    EarlierLines,
    EarlierPoint,
    EarlierSide,
    Gone,
    LinesChanged,
    Restated,
    lines_changed,
)
from marvex.core.structure.statement import Statement
from marvex.core.time.calendar import CIVIL, ONE_DAY, Grain, coarsest
from marvex.sources.engine.ledger import Ledger

Names = Mapping[str | None, str | None]


def names_today(points: Sequence[EarlierPoint], scenarios: Sequence[ScenarioDates]) -> Names:
    """What the scenarios of earlier points are called today, where that is another form of the same word."""
    by_meaning: dict[str, list[str | None]] = {}
    for one in scenarios:
        by_meaning.setdefault(scenario_meant(one.name), []).append(one.name)
    known = {one.name for one in scenarios}
    found: dict[str | None, str | None] = {}
    for name in {side.scenario for point in points for side in point.sides} - known:
        alike = by_meaning.get(scenario_meant(name), []) if name else []
        if len(alike) == 1:
            found[name] = alike[0]
    return found


def named_as_today(point: EarlierPoint, names: Names) -> EarlierPoint:
    """A point whose sides are of scenarios as they are called today."""
    now, then = (EarlierSide(names.get(one.scenario, one.scenario), one.actual_to) for one in point.sides)
    return replace(point, sides=(now, then))


def gone_of(
    side: EarlierSide, days: Days | None, dates: ScenarioDates, held: Mapping[str | None, date]
) -> Gone | None:
    """The days of a side of which the source has no rows any more, as it is of others; None where it is of them.

    It is where it has none in the period before them either, and where it lacks the first of them and once had them,
    of which `held` tells.
    """
    if days is None or dates.first is None or dates.last is None:
        return None
    before = CIVIL.start(days[0] - ONE_DAY, coarsest(Grain.MONTH, dates.grain or Grain.MONTH))
    is_outside = not any(before <= day <= days[1] for day in dates.days)
    is_cut = days[0] < dates.first and (then := held.get(side.scenario)) is not None and then < dates.first
    if not (is_outside or is_cut):
        return None
    return Gone(scenario=side.scenario, days=days, begins=None if is_outside else dates.first)


def renamed_in(
    book: Ledger, restated: Sequence[Restated], known: Sequence[str], shown: Sequence[Point]
) -> tuple[tuple[str, str], ...]:
    """The categories that have nothing any more where one of another name has just their figures, with that name.

    Parameters
    ----------
    known : the names of the earlier run.
    shown : the points of today, which are asked where nothing has dates.
    """
    lapsed: dict[str, list[Restated]] = {}
    for one in restated:
        if one.category and one.point.label == one.category:
            lapsed.setdefault(one.category, []).append(one)
    lapsed = {name: its for name, its in lapsed.items() if all(one.was and one.now is None for one in its)}
    spans = list(dict.fromkeys(one.span for its in lapsed.values() for one in its if one.span is not None))
    new: dict[str, dict[object, Decimal]] = {}
    for cell in book.cells(spans) if spans and book.width else ():
        if cell.amount and cell.category not in known:
            new.setdefault(cell.category, {})[spans[cell.place]] = cell.amount
    for point in shown if lapsed and not spans else ():
        if point.label not in known:
            sides = ((False, point.current), (True, point.base))
            new[point.label] = {is_base: amount for is_base, amount in sides if amount}
    found = []
    for name, its in lapsed.items():
        own = {one.span or one.is_base: one.was for one in its}
        alike = [other for other, figures in new.items() if figures == own]
        if len(alike) == 1:
            found.append((name, alike[0]))
    return tuple(found)


def lines_today(
    then: EarlierLines | None, statement: Statement | None, renamed: Sequence[tuple[str, str]]
) -> LinesChanged | None:
    """How the lines of a found statement differ from those of the earlier run; None where they do not."""
    if then is None or statement is None or not statement.is_found:
        return None
    now = EarlierLines(
        lines=tuple(one.label for one in statement.lines if one.accounts),
        totals={one.label: frozenset(one.total_of) for one in statement.lines if one.is_total},
        result=statement.result.label if statement.result else None,
    )
    return lines_changed(then, now, dict(renamed))
