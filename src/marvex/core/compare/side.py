"""The two sides: a `Span` is what a source is asked for, a `Side` one scenario in one window."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from marvex.core.time.window import Window


@dataclass(frozen=True, slots=True)
class Stretch:
    """One scenario between two days, both included; None where the table has no such column."""

    scenario: str | None
    first: date | None = None
    last: date | None = None

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1 if self.first and self.last else 0


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
    stretches : what it is made of, where that is not the scenario in the whole of the window.
    """

    scenario: str | None
    window: Window | None
    stretches: tuple[Stretch, ...] = ()

    @property
    def span(self) -> Span:
        if self.stretches:
            return Span(self.stretches)
        if self.window is None:
            return Span((Stretch(self.scenario),))
        return Span((Stretch(self.scenario, self.window.first, self.window.end),))

    @property
    def first(self) -> date | None:
        return self.window.first if self.window else None

    @property
    def last(self) -> date | None:
        return self.window.end if self.window else None

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

    `period` is the one that the point is named by.
    """

    period: Window
    current: Side | None
    base: Side | None
