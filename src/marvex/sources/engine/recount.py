"""The figures of a ledger a second time: from its rows one by one, added up in decimals of Python's.

The engine reads, turns and adds up in SQL; here each cell is read again as text, so that a figure which comes out
the same has been found in two ways that share no arithmetic.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import field
from datetime import date
from decimal import Decimal
from typing import Any

from marvex.core.compare.side import Span
from marvex.core.compare.totals import Total, TotalAs
from marvex.core.exact import EXACT, ZERO
from marvex.core.values import dataclass
from marvex.sources.cells import Convention, value_of
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import Source
from marvex.sources.quoting import quoted_name

Names = tuple[Any, ...]
_SPACES = (  # the separators that the engine trims
    " \xa0\u1680\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a\u202f\u205f\u3000"
)


@dataclass(slots=True, eq=False)
class Tally:
    """What some rows come to.

    `count` is how many amounts there are, or rows where distinct keys are counted; `per` the sum of the column that
    the amount is divided by.
    """

    amount: Decimal = ZERO
    count: int = 0
    per: Decimal | None = None
    highest: Decimal | None = None
    lowest: Decimal | None = None
    keys: set[str] = field(default_factory=set)

    def add(self, other: Tally) -> None:
        self.amount = EXACT.add(self.amount, other.amount)
        self.count += other.count
        if other.per is not None:
            self.per = EXACT.add(self.per or ZERO, other.per)
        if other.highest is not None and other.lowest is not None:
            self.highest = other.highest if self.highest is None else max(self.highest, other.highest)
            self.lowest = other.lowest if self.lowest is None else min(self.lowest, other.lowest)
        self.keys |= other.keys

    def figure(self, total_as: TotalAs, span: Span) -> Decimal | None:
        """What the rows come to as a figure of a span; None where it would be divided by nothing."""
        match total_as.way:
            case Total.HIGHEST:
                return self.highest
            case Total.LOWEST:
                return self.lowest
            case Total.DISTINCT:
                return total_as.figure(Decimal(len(self.keys)), self.per, self.count, span)
        return total_as.figure(self.amount, self.per, self.count, span)


class Recount:
    """All rows of some sources, tallied by scenario, day and category as they come.

    Parameters
    ----------
    sources : that have been read; their rows are streamed, so that there may be more than memory holds.
    """

    def __init__(self, sources: Sequence[Source], engine: Engine, total_as: TotalAs) -> None:
        self._total_as = total_as
        self.rows = 0  # that were kept and counted
        # Of every day with any row, kept or not: a closing date is the last such.
        self._days: dict[tuple[str | None, date | None], dict[Names, Tally]] = {}
        for source in sources:
            for day, names, tally in _rows_of(source, engine):
                of_day = self._days.setdefault(day, {})
                if tally is not None:
                    self.rows += 1
                    of_day.setdefault(names, Tally()).add(tally)

    def tallies(self, span: Span, width: int, *, each: int = 0) -> dict[Names, Tally]:
        """What the rows of a span come to, by row number and the first so many names of their category.

        Parameters
        ----------
        each : of balances on own closing dates, how many names make a category that has one.
        """
        days = [
            day
            for one in span.stretches
            for day in self._days
            if day[0] == one.scenario and (one.first is None or _is_within(day[1], one.as_dated))
        ]
        last = max((day for _, day in days if day), default=None)
        if self._total_as.way is Total.CLOSING and not self._total_as.is_each:
            days = [day for day in days if day[1] == last]
        own: dict[Names, date | None] = {}
        if self._total_as.is_each:
            for day in sorted(days, key=lambda one: one[1] or date.min):
                own |= {names[1 : each + 1]: day[1] for names, tally in self._days[day].items() if tally.count}
        found: dict[Names, Tally] = {}
        for day in days:
            for names, tally in self._days[day].items():
                if own and own.get(names[1 : each + 1], day[1]) != day[1]:
                    continue
                found.setdefault(names[: width + 1] if width else (None,), Tally()).add(tally)
        return {names: tally for names, tally in found.items() if tally.count}

    def of_some(self, span: Span, among: Collection[Names], *, each: int = 0) -> Tally:
        """What the rows of a span come to in some categories together."""
        width = len(next(iter(among), ()))
        found = Tally()
        for (_, *names), tally in self.tallies(span, width, each=each).items():
            if tuple(names) in among:
                found.add(tally)
        return found

    def figures(self, span: Span, width: int, *, each: int = 0) -> dict[Names, Decimal | None]:
        """The same as figures."""
        found = self.tallies(span, width, each=each)
        return {names: tally.figure(self._total_as, span) for names, tally in found.items()}


def _is_within(day: date | None, ends: tuple[date | None, date | None]) -> bool:
    first, last = ends
    return day is not None and first is not None and last is not None and first <= day <= last


def _rows_of(source: Source, engine: Engine) -> Iterator[tuple[tuple[str | None, date | None], Names, Tally | None]]:
    """Scenario and day of every row, its number and names, and what it counts for where it is kept."""
    facts, name = source.facts, source.name
    asked = Query(f"SELECT date_text, day FROM {facts.days}")
    days = {str(text): day for text, day in engine.rows(asked, name)}
    shown = _names_shown(source, engine)
    with_names = 0 if not shown else 1 if facts.has_signs else len(facts.roles.by)
    for *texts, row, scenario_text, date_text, kept, amount_text, per_text, key in source.rows.each_row(facts):
        scenario = _trimmed(scenario_text) or None
        if facts.held is not None:
            if facts.held_as and scenario not in facts.held_as:
                continue
            scenario = facts.held
        day = scenario, None if date_text is None else days.get(date_text)
        if facts.roles.has_dates and day[1] is None and facts.key:
            continue  # a row without a date is in no window
        if not kept:
            yield day, (), None
            continue
        names = [_trimmed(text) for text in texts]
        turned = bool(with_names and facts.has_signs and shown.get(names[0], ("", False))[1])
        names[:with_names] = [shown.get(one, (one, False))[0] for one in names[:with_names]]
        yield day, (row, *names), _tally(source, amount_text, per_text, key, turned=turned)


def _names_shown(source: Source, engine: Engine) -> dict[str, tuple[str, bool]]:
    """The name that is shown for one in the source, and whether its amounts are turned."""
    facts = source.facts
    if not facts.names:
        return {}
    turned = "turned" if facts.has_signs else "false"
    rows = engine.rows(Query(f"SELECT name, shown, {turned} FROM {quoted_name(facts.names)}"), source.name)
    return {str(name): (str(shown), bool(is_turned)) for name, shown, is_turned in rows if shown is not None}


def _tally(source: Source, amount_text: str | None, per_text: str | None, key: str | None, *, turned: bool) -> Tally:
    facts = source.facts
    if facts.key:
        own = _trimmed(key)
        return Tally(count=1, keys={own} if own else set())
    amount = None if amount_text is None else value_of(amount_text, facts.reading.convention or Convention.POINT)
    per = None if per_text is None else value_of(per_text, facts.per_reading.convention or Convention.POINT)
    if amount is None:
        return Tally(per=per)
    scaled = EXACT.scaleb(amount, facts.power)
    if turned or (facts.is_negative and not facts.has_signs):
        scaled = EXACT.minus(scaled)
    return Tally(amount=scaled, count=1, per=per, highest=scaled, lowest=scaled)


def _trimmed(text: str | None) -> str:
    return (text or "").strip(_SPACES)
