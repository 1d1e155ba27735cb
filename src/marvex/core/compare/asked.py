"""What a call says about the two sides, as it says it; what it means is settled in `sides`."""

from __future__ import annotations

from datetime import date

from marvex.core.time.base_window import Pairing
from marvex.core.time.calendar import CIVIL, Calendar, Grain
from marvex.core.time.widening import Widening
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class SidesAsked:
    """What the call says about the two sides, as it says it; None where it says nothing.

    Parameters
    ----------
    window, scenario, versus : `--for`, `--of` and `--versus` as written.
    as_of : the data are known to here.
    today : by the clock, for windows that say so.
    full_base : keep the whole base where the current window is part filled.
    absent : whether a side without rows is absent (`gap`), or counts as nothing (`zero`); None where it is not said.
    calendar : the reporting calendar.
    along_time : time is the axis, one point a period of the grain `every`.
    span, cumulative : how far the window, or each point, is widened.
    pairing : how days are paired a year apart.
    with_history : the same comparison of earlier windows is wanted too.
    are_columns : both sides are columns of one table.
    with_beyond : the base of the periods that the current side has not reached is wanted too.
    """

    window: str | None = None
    scenario: str | None = None
    versus: str | None = None
    as_of: date | None = None
    today: date | None = None
    full_base: bool = False
    absent: str | None = None
    calendar: Calendar = CIVIL
    along_time: bool = False
    every: Grain | None = None
    span: Widening | None = None
    cumulative: Widening | None = None
    pairing: Pairing | None = None
    with_history: bool = False
    with_beyond: bool = False
    are_columns: bool = False
