"""What may be wrong with the figures themselves: it stands under every picture and table that shows them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from marvex.core.compare.side import Side
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Reservation:
    """A doubt about amounts that count, or do not.

    Parameters
    ----------
    what : for whoever reads the result.
    mend : what the one who runs the command can do about it; empty where it is said by `what`.
    source : the one whose rows it is about, where the result may be of several.
    of : the first and the last days of the periods that it is about; empty where it is about all.
    scenario : the one whose amounts it is about; None where it is about all.
    """

    what: str
    mend: str = ""
    source: str = ""
    of: tuple[tuple[date, date], ...] = ()
    scenario: str | None = None

    @property
    def caution(self) -> str:
        """The whole of it, for the one who runs the command."""
        return ": ".join(part for part in (self.source, self.what, self.mend) if part)

    def note(self, *, names_source: bool) -> str:
        """What a reader is told of it."""
        return f"{self.what} ({self.source})" if names_source and self.source else self.what

    def touches(self, sides: Sequence[Side]) -> bool:
        """Whether a side has days of its periods, of its scenario.

        >>> march = Reservation(what="20 rows are there twice", of=((date(2026, 3, 1), date(2026, 3, 31)),))
        >>> march.touches(())
        False
        """
        made_of = [one for side in sides for one in side.span.stretches]
        stretches = [one for one in made_of if self.scenario in (None, one.scenario)]
        return not self.of or any(
            (one.first is None or one.first <= last) and (one.last is None or first <= one.last)
            for one in stretches
            for first, last in self.of
        )
