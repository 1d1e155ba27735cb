"""What cannot be read, and rows that are in no window or on no side: a mistake, or told with their amount."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.compare.reservation import Reservation
from marvex.core.errors import Mistake, setting
from marvex.core.values import dataclass
from marvex.sources.dates import outside_the_months
from marvex.sources.engine import facts as facts_of
from marvex.sources.engine.connection import Engine, shortened
from marvex.sources.engine.derived import date_parts
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.reading_checks import outside_the_year
from marvex.sources.engine.rows import Rows
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.readers.source_file import SourceFile


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class UnreadCells:
    """The cells of one source, of which some may not be read; each method gives what is to be told of them."""

    file: SourceFile
    engine: Engine
    asked: AskedOfSource
    rows: Rows
    headings: Sequence[str]

    def figures(self, facts: Facts, kind: str, count: int) -> list[Reservation]:
        """Of amounts (`figure`) or what they are divided by (`divisor`). Raises Mistake unless they may be absent."""
        return self._told(facts, kind, count, "is not a figure") if count else []

    def dates(self, facts: Facts) -> list[Reservation]:
        """Of dates, and of rows that have none. Raises Mistake where one is no date, unless they may be absent."""
        unreadable, undated, amount = self.engine.rows(facts_of.undated(facts.table), self.file.name)[0]
        told = self._unread_dates(facts, int(unreadable)) if unreadable else []
        if undated:
            rows_are = "row without a date is" if undated == 1 else "rows without a date are"
            told.append(Reservation(what=f"{undated} {rows_are} in no window: {amount or 0} in all"))
        return told

    def scenarios(self, facts: Facts) -> list[Reservation]:
        """Of rows that say no scenario."""
        rows, amount = self.engine.rows(facts_of.without_scenario(facts.table), self.file.name)[0]
        rows_are = "row without a scenario is" if rows == 1 else "rows without a scenario are"
        return [Reservation(what=f"{rows} {rows_are} on no side: {amount or 0} in all")] if rows else []

    def _unread_dates(self, facts: Facts, unreadable: int) -> list[Reservation]:
        asked, name = self.asked, self.file.name
        if not asked.blank_bad_cells:
            number, column, _ = self.rows.unreadable(facts, "date")
            column = facts.roles.date or column
            unread = self.engine.rows(facts_of.unread_dates(facts.table), name)
            texts, year, part = [str(text) for text, _, _ in unread], None, column
            if said := asked.wanted.year:
                unread = [(f"{said[:4]}-{text}", count, amount) for text, count, amount in unread]
            if parts := date_parts(self.headings, asked.columns, name):
                year, part = parts[:2]
                texts = [one for one in self.rows.values(part) if outside_the_months(f"2000-{one}") is not None]
            if mistake := outside_the_year(self.file.place(number, column), unread, part, texts, year):
                raise mistake
        return self._told(facts, "date", unreadable, "is not a date")

    def _told(self, facts: Facts, kind: str, count: int, what: str) -> list[Reservation]:
        if self.asked.blank_bad_cells:
            cells_are = "cell that cannot be read is" if count == 1 else "cells that cannot be read are"
            return [Reservation(what=f"{count} {cells_are} taken as absent")]
        number, column, text = self.rows.unreadable(facts, kind)
        if kind == "date" and facts.roles.date:
            column = facts.roles.date
        more = f" (and {count - 1} more)" if count > 1 else ""
        raise Mistake(
            f"{self.file.place(number, column)}: '{shortened(str(text))}' {what}{more}",
            f"{setting('bad_cells', 'blank')} reads such cells as absent.",
        )
