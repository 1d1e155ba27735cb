"""On which day a balance closes, and the period that it closes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.side import Span
from marvex.core.time.calendar import Calendar, Grain, coarsest


def closing_date(scenarios: Sequence[ScenarioDates], span: Span) -> date | None:
    """The last date with any row of the scenario in a span, kept or not."""
    known = {one.name: one for one in scenarios}
    days = [
        day
        for one in span.stretches
        if one.scenario in known
        for day in known[one.scenario].days_within(one.first, one.last)[-1:]
    ]
    return max(days, default=None)


def closing_end(scenarios: Sequence[ScenarioDates], calendar: Calendar, span: Span) -> date | None:
    """The day on which a balance is, as it is said: of a date that stands for a month or the like, its last day."""
    closing = closing_date(scenarios, span)
    of = {one.name: one.grain for one in scenarios}
    grains = [grain for one in span.stretches if (grain := of.get(one.scenario)) not in (None, Grain.DAY, Grain.WEEK)]
    return closing if closing is None or not grains else calendar.end(closing, coarsest(*grains))


def last_period(scenarios: Sequence[ScenarioDates], calendar: Calendar, span: Span) -> Span:
    """The part of a span that is in the month, or the longer period of the data, of its closing date."""
    closing = closing_date(scenarios, span)
    if closing is None:
        return span
    grain = coarsest(Grain.MONTH, *(one.grain for one in scenarios if one.grain))
    first = calendar.start(closing, grain)
    return Span(
        tuple(
            replace(one, first=max(one.first, first))
            for one in span.stretches
            if one.first and one.last and one.last >= first
        )
    )
