"""The two sides: a `Span` is what a source is asked for, a `Side` one scenario in one window."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta

from marvex.core.time.window import Window
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True)
class Stretch:
    """One scenario between two days, both included; None where the table has no such column.

    Parameters
    ----------
    ahead : by how many days those on which amounts count are ahead of their dates: a Monday stands for a week
        that counts where its Thursday is.
    """

    scenario: str | None
    first: date | None = None
    last: date | None = None
    ahead: int = 0

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1 if self.first and self.last else 0

    @property
    def as_dated(self) -> tuple[date | None, date | None]:
        """The first and the last date that its rows may have."""
        ahead = timedelta(days=self.ahead)
        return self.first and self.first - ahead, self.last and self.last - ahead


@dataclass(frozen=True, slots=True)
class Span:
    """What a source is asked for as one figure: one stretch, or several that do not overlap."""

    stretches: tuple[Stretch, ...]

    @property
    def days(self) -> int:
        return sum(one.days for one in self.stretches)


@dataclass(frozen=True, slots=True)
class Side:
    """One side of a comparison: a scenario in a window, None where the table has no such column.

    Parameters
    ----------
    window : what is looked at.
    stretches : what it is made of, where that is not the scenario in the whole of the window.
    joined_at : the last day of actuals, where a forecast goes on from there within the window.
    """

    scenario: str | None
    window: Window | None
    stretches: tuple[Stretch, ...] = ()
    joined_at: date | None = None

    @property
    def span(self) -> Span:
        if self.stretches:
            return Span(self.stretches)
        if self.window is None:
            return Span((Stretch(self.scenario),))
        return Span((Stretch(self.scenario, self.window.first, self.window.end),))

    @property
    def summed(self) -> Window | None:
        """The window from the first to the last day that it is made of."""
        first, last = (self.stretches[0].first, self.stretches[-1].last) if self.stretches else (None, None)
        if self.window is None or first is None or last is None:
            return self.window
        if (first, last) == (self.window.first, self.window.end):
            return self.window
        return replace(self.window, first=first, known_to=None).cut(last)

    @property
    def days_summed(self) -> tuple[date, date] | None:
        """The first and the last day that it is made of; None where there are no dates."""
        return (self.summed.first, self.summed.end) if self.summed else None

    @property
    def runs(self) -> tuple[Window, ...]:
        """What it is made of as windows, days that follow one another as one, whichever scenario they are of."""
        found: list[Window] = []
        for one in self.stretches:
            if self.window is None or one.first is None or one.last is None:
                continue
            if found and one.first <= found[-1].end + timedelta(days=1):
                found[-1] = replace(found[-1], last=max(one.last, found[-1].last))
            else:
                found.append(replace(self.window, first=one.first, last=one.last, known_to=None))
        if self.window is None or len(found) > 1:
            return tuple(found)
        assert self.summed is not None
        return (self.summed,)

    def within(self, runs: Sequence[tuple[date, date]]) -> Side:
        """The side made of these runs of days only."""
        return replace(
            self,
            stretches=tuple(
                replace(one, first=max(one.first, first), last=min(one.last, last))
                for first, last in runs
                for one in self.span.stretches
                if one.first and one.last and one.first <= last and first <= one.last
            ),
        )

    @property
    def first(self) -> date | None:
        return self.window.first if self.window else None

    @property
    def last(self) -> date | None:
        return self.window.end if self.window else None

    @property
    def is_mixed(self) -> bool:
        """Whether it is an outlook in which both of its scenarios have a part."""
        return len({one.scenario for one in self.stretches}) > 1

    @property
    def goes_on(self) -> bool:
        """Whether it is what follows the actuals in an outlook."""
        return (
            bool(self.stretches) and self.scenario != self.in_use and str(self.scenario).endswith(f"+{self.in_use}")
        )

    @property
    def in_use(self) -> str | None:
        """The scenario of its rows: of an outlook, the one where there is but one in the window."""
        found = {one.scenario for one in self.stretches}
        return found.pop() if len(found) == 1 else self.scenario


@dataclass(frozen=True, slots=True)
class Pair:
    """What one point along time sets against what; a side is None where it has no namesake.

    Parameters
    ----------
    period : what the point is named by.
    is_matched : both sides have rows throughout.
    has_rows : whether the scenario of each side has any row in it at all, of whatever category.
    """

    period: Window
    current: Side | None
    base: Side | None
    is_matched: bool = True
    has_rows: tuple[bool, bool] = (True, True)
