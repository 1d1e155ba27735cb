"""Days or weeks that one of several names lacks, which the others have: what was not loaded, or is not there yet."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import timedelta

from marvex.app.columns_by_month import columns_by_month
from marvex.core.compare.point import NO_NAME
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenario_words import says_planned
from marvex.core.errors import listed, setting
from marvex.core.structure.gaps import Gap
from marvex.core.time.calendar import Grain
from marvex.core.words.printable import printable
from marvex.sources.engine.ledger import Ledger

_OFF = timedelta(days=3)  # by which the first or the last day of work is away from that of a month


def gaps_of(book: Ledger, months: Sequence[Reservation]) -> Iterator[Reservation]:
    """The runs of days or weeks without rows of a name that has nearly all others, by any column of names.

    Parameters
    ----------
    months : what is told of whole months; a run that holds one of them is not told again.
    """
    told: set[str] = set()
    spans = [span for one in months for span in one.of]
    for column in columns_by_month(book):
        for dates in (one for one in book.scenarios if one.grain in (Grain.DAY, Grain.WEEK)):
            for gap in column.found.gaps(dates.name):
                what, mend = _worded(gap, [one for one in column.amounts if one in gap.names], dates.name)
                is_month = any(gap.first - _OFF <= first and last <= gap.last + _OFF for first, last in spans)
                if what not in told and not is_month:
                    told.add(what)
                    yield Reservation(
                        what=what,
                        mend=mend,
                        source=column.source.name,
                        of=((gap.first, gap.last),),
                        scenario=dates.name,
                    )


def _worded(gap: Gap, own: Sequence[str], scenario: str | None) -> tuple[str, str]:
    """What is told of a gap, and how to leave its days out of both sides where it is at the end of what is known."""
    names = listed((printable(one) or NO_NAME for one in own), 4)
    of = f"{names} of {scenario}" if scenario else names
    have = "have" if len(own) > 1 else "has"
    if not gap.is_end or says_planned(scenario):
        when = f"on {gap.first}" if gap.first == gap.last else f"from {gap.first} to {gap.last}"
        return f"{of} {have} no rows {when}, where others have, and {have} at nearly all other times", ""
    when = f"on {gap.first}" if gap.first == gap.last else f"from {gap.first} on"
    others = "others have" if gap.first == gap.last else f"others have, to {gap.last}"
    mend = f"{setting('as_of', gap.first - timedelta(days=1))} leaves those days out"
    return f"{of} {have} no rows {when}, as if not all were there yet: {others}", mend
