"""What was found of a table's lines: its totals and ratios, what has to be asked, and the readings on the way."""

from __future__ import annotations

from dataclasses import field
from decimal import Decimal
from enum import Enum
from functools import cached_property

from marvex.core.structure.evidence import TableLine
from marvex.core.structure.quotients import RatioFound
from marvex.core.structure.sums import Open, SumFound
from marvex.core.values import dataclass


class Doubt(Enum):
    """Why a table's structure cannot be told."""

    SIGNS = "more than one choice of signs"
    LEFT_OUT = "adds up without one line only"
    DIFFERENCE = "what one line leaves of another"
    GROUP = "the sum of the two lines below it"
    SEVERAL = "more than one reading"
    UNPROVEN = "the name of a total that nothing proves"


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What has to be asked: about which line, and the sums that could serve or come nearest.

    Parameters
    ----------
    off : for an unproven total, the column that differs most and by how much the line exceeds the sum.
    """

    line: int
    doubt: Doubt
    sums: tuple[SumFound, ...] = ()
    left_out: int | None = None
    nearest: tuple[tuple[int, int], ...] = ()
    off: tuple[int, Decimal] | None = None


@dataclass(frozen=True, kw_only=True)  # no slots, so that what is asked of it line by line can be kept
class Structure:
    """What was found of a table's lines, by their places.

    Parameters
    ----------
    sums : each total with its parts, in order; those of shape MEMO are of lines that are parts elsewhere.
    unproven : lines named as totals that nothing proves, where nothing speaks against their being lines.
    loose_ratios : lines in per cent that are the quotient of no two lines.
    maybe : lines without a total's name that come to all before them, though that may be chance.
    """

    lines: tuple[TableLine, ...]
    sums: tuple[SumFound, ...] = ()
    maybe: tuple[int, ...] = ()
    ratios: tuple[RatioFound, ...] = ()
    asked: Asked | None = None
    unproven: tuple[int, ...] = ()
    loose_ratios: tuple[int, ...] = ()

    @cached_property
    def totals(self) -> frozenset[int]:
        return frozenset(one.line for one in self.sums)

    @cached_property
    def leaves(self) -> tuple[int, ...]:
        """The lines that are neither totals nor ratios."""
        others = self.totals | {one.line for one in self.ratios} | set(self.loose_ratios)
        return tuple(place for place in range(len(self.lines)) if place not in others)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One way in which the lines so far can be read."""

    stack: Open
    sums: tuple[SumFound, ...] = ()
    unproven: frozenset[int] = frozenset()
    guessed: frozenset[int] = frozenset()  # totals without a name, which another is still to prove
    bits: float = 0.0
    left_out: tuple[SumFound, ...] = field(default=(), compare=False)

    @property
    def parts(self) -> frozenset[tuple[int, tuple[tuple[int, int], ...]]]:
        return frozenset((one.line, one.parts) for one in self.sums)
