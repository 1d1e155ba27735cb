"""A window: a run of whole periods of one grain, whole or part filled."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from marvex.core.time.calendar import CIVIL, Calendar, Grain, month_end
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """A run of whole periods of one grain, possibly cut: from `first` to `last`, both included.

    Parameters
    ----------
    last : where the whole window ends.
    known_to : the day to which it is filled, where that is before its end.
    calendar : the calendar whose periods of `grain` it is made of.
    to_date_of : the grain of which it is a part to date, such as the quarter so far.
    """

    first: date
    last: date
    grain: Grain
    known_to: date | None = None
    calendar: Calendar = CIVIL
    to_date_of: Grain | None = None

    @property
    def end(self) -> date:
        """The last day that counts: where the window is cut, or its own end."""
        return self.known_to or self.last

    @property
    def is_cut(self) -> bool:
        return self.known_to is not None and self.known_to < self.last

    @property
    def days(self) -> int:
        return (self.end - self.first).days + 1

    @property
    def is_whole(self) -> bool:
        """Whether it begins and ends with a whole period of its grain."""
        calendar, grain = self.calendar, self.grain
        return calendar.start(self.first, grain) == self.first and calendar.end(self.end, grain) == self.end

    def cut(self, to: date) -> Window:
        """The same window, filled to that day only; unchanged where it ends no later."""
        known_to = to if to < self.last else None
        return self if known_to == self.known_to else replace(self, known_to=known_to)

    def overlaps(self, first: date, last: date) -> bool:
        return self.first <= last and first <= self.end

    def months(self) -> int | None:
        """Whole months from start to end of the whole window, or None where it is not made of such."""
        if self.first.day != 1 or self.last != month_end(self.last):
            return None
        return (self.last.year - self.first.year) * 12 + self.last.month - self.first.month + 1
