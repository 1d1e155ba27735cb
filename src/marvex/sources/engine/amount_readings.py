"""How the amounts of a source are read: in which convention, and with decimals widened until no digit is lost."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from marvex.core.errors import listed
from marvex.core.values import dataclass
from marvex.sources.cells import MOST_DIGITS, Convention, FigureReading, convention_told, unclear_convention
from marvex.sources.columns import Column
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.rows import Rows


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class AmountReadings:
    """What is known of how a source writes its amounts.

    Parameters
    ----------
    numbers : how figures are written, as the call says: `auto` where it does not.
    shown : what other cells show of that, where the amounts do not.
    sample : its first rows, of which `columns` says what they hold.
    """

    name: str
    rows: Rows
    columns: Sequence[Column]
    sample: Sequence[Sequence[str | None]]
    numbers: str
    shown: Convention | None

    def first(self, facts: Facts) -> FigureReading:
        """The plain reading, unless figures are of one convention by option or could be of either."""
        amounts = [column for column in self.columns if column.name in self._names(facts)]
        reading = FigureReading(max((column.decimals for column in amounts), default=0))
        if self.numbers != "auto":
            return replace(reading, convention=Convention(self.numbers))
        if any(column.all_could_be_thousands for column in amounts):
            return replace(reading, convention=self._convention(facts))
        return reading

    def wider(self, facts: Facts, decimals: int, doubtful: bool, unread: int) -> FigureReading | None:
        """A reading that misses less, or None where theirs misses nothing that another would not.

        Parameters
        ----------
        facts : as they were read.
        decimals : the most that a cell has.
        doubtful : some cell could be of either convention; `unread` of them are no figure.
        """
        reading = facts.reading
        if (doubtful or unread) and reading.convention is None:
            return replace(reading, convention=self._convention(facts))
        if decimals > reading.decimals and reading.decimals < MOST_DIGITS:
            return replace(reading, decimals=min(decimals, MOST_DIGITS), is_wide=True)
        if unread and not reading.is_wide:
            return replace(reading, is_wide=True)
        return None

    def _convention(self, facts: Facts) -> Convention:
        """The convention that the whole column shows; asks where it shows neither."""
        found = convention_told(self.rows.conventions(facts)) or self.shown
        if found is None:
            raise unclear_convention(f"{self.name}, {listed(self._names(facts))}", self._example(facts))
        return found

    def _example(self, facts: Facts) -> str:
        names = self._names(facts)
        places = [place for place, column in enumerate(self.columns) if column.name in names]
        cells = (str(row[place]) for row in self.sample for place in places if row[place])
        return next(cell for cell in cells if cell.strip("0123456789 "))

    @staticmethod
    def _names(facts: Facts) -> list[str]:
        return [one.name for one in facts.roles.amounts]
