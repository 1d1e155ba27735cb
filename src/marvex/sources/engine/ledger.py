"""All sources of a call together: how far their scenarios run, and the figures of any span."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from datetime import date, timedelta
from decimal import Decimal
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from marvex.core.compare.point import JOINS, NO_NAME, Cell
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.side import Span
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import total
from marvex.core.structure.statement import Statement
from marvex.core.time.calendar import Grain
from marvex.core.time.notation import notation
from marvex.core.time.period import period_of
from marvex.core.values import dataclass
from marvex.core.words.units import FigureFormat
from marvex.sources.amounts import PERIODS
from marvex.sources.dates import period_alone, written
from marvex.sources.engine import query
from marvex.sources.engine.calendar_order import in_calendar_order
from marvex.sources.engine.closing_days import last_period
from marvex.sources.engine.connection import Engine, shortened
from marvex.sources.engine.met import Met, met
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import Source
from marvex.sources.engine.undated import Undated, undated, undated_column
from marvex.sources.readers.file_dates import period_of_name, period_of_sheet
from marvex.sources.years_said import YEAR

if TYPE_CHECKING:
    from marvex.core.compare.trace import TracedRow
    from marvex.sources.engine.recount import Recount
    from marvex.sources.engine.spreading import Spreading

MOST_OF_TITLE = 60  # letters


@dataclass(frozen=True, slots=True, eq=False)
class SpanTotal:
    """The figure of a span over all categories, worked out by the engine, and its rows."""

    amount: Decimal | None
    rows: int


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class DayTotal:
    """What one day of one scenario comes to by itself."""

    scenario: str | None
    day: date
    amount: Decimal
    rows: int


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Answer:
    """What was asked of the engine, and what it said: some spans, by so many names, of all or some categories."""

    spans: tuple[Span, ...]
    width: int
    among: Sequence[str] | None
    cells: tuple[Cell, ...]


class Ledger:
    """The sources of a request, read, and their answers: figures of any span, and the rows behind them."""

    def __init__(
        self,
        sources: Sequence[Source],
        engine: Engine,
        scenarios: tuple[ScenarioDates, ...],
        *,
        has_scenarios: bool,
        spreading: Spreading | None = None,
        renamed: Mapping[str, str] | None = None,
    ) -> None:
        """Takes the sources with what was read of them; `renamed` has names that are shown, with those they are of."""
        self._spreading, self._renamed = spreading, renamed or {}
        self.sources, self.engine, self.scenarios = tuple(sources), engine, scenarios
        self._has_scenarios = has_scenarios
        self._total_as, self.calendar = sources[0].asked.total_as, sources[0].asked.calendar
        self._names_of: dict[str, tuple[str, ...]] = {}
        self._undivided: dict[tuple[Span, str], Decimal] = {}
        self.answers: list[Answer] = []

    def anew(self) -> Ledger:
        """The same sources for another request, of which nothing has been asked yet."""
        return Ledger(
            self.sources,
            self.engine,
            self.scenarios,
            has_scenarios=self._has_scenarios,
            spreading=self._spreading,
            renamed=self._renamed,
        )

    def name_in_source(self, label: str) -> str:
        """A category by the name that a source has for it, which says what it is, whatever it is shown as."""
        return JOINS.join(self._renamed.get(one, one) for one in label.split(JOINS)) if self._renamed else label

    @property
    def spread(self) -> tuple[str, ...]:
        """What was spread over shorter periods, in words."""
        return tuple(self._spreading.said.values()) if self._spreading else ()

    @property
    def is_daily(self) -> bool:
        """Whether any scenario is kept by day or week."""
        return any(one.grain in (Grain.DAY, Grain.WEEK) for one in self.scenarios)

    @property
    def name(self) -> str:
        return " and ".join(one.name for one in self.sources)

    @property
    def part(self) -> str:
        """The sheet that was asked for, or that says by its name when it is of, and so the title, where no row does."""
        if len(self.sources) > 1:
            return ""
        file, is_asked = self.first.file, self.first.asked.wanted.sheet is not None
        is_undated = not self.first.roles.has_dates
        is_told = is_asked or (is_undated and period_of_sheet(file.sheet or ""))
        sheet = f"sheet '{file.sheet}'" if file.sheet and is_told else ""
        title = next(filter(period_of_name, file.titles), "") if is_undated else ""
        return ", ".join(one for one in (sheet, f"'{shortened(title, MOST_OF_TITLE)}'" if title else "") if one)

    @property
    def period_said(self) -> str:
        """The period of all rows in notation, as the sheet's name, a title or the file's name says it, where no row
        does; else empty."""
        file = self.first.file
        if len(self.sources) > 1 or self.first.roles.has_dates:
            return ""
        texts = (period_of_sheet(file.sheet or ""), *map(period_of_name, (*file.titles, Path(file.title).stem)))
        found = next((its for one in texts if one and (its := written(one, self.calendar))), None)
        return notation(period_of(found.first, found.grain)) if found else ""

    @property
    def first(self) -> Source:
        """The source whose roles the others follow."""
        return self.sources[0]

    @property
    def statement(self) -> Statement | None:
        """The statement whose lines the categories are."""
        return self.first.statement

    @property
    def width(self) -> int:
        """How many columns make a category."""
        return len(self.first.roles.compared_by)

    @property
    def rows_read(self) -> int:
        return sum(one.rows_read for one in self.sources)

    @cached_property
    def undated(self) -> Undated | None:
        """The periods without a year that the rows are of, where nothing says when they are."""
        return undated(self.sources, self.engine)

    def met(self, source: Source, column: str) -> list[Met]:
        """Each value of a column of one of the sources with a scenario and a day of its amounts, as `met` says it."""
        own = [one for one in source.filters if one.column == column]
        return [row for row in met(source, [column], own, self.engine) if row[0]]

    @property
    def said(self) -> tuple[str, ...]:
        """What each source was taken for, and what was left out of it."""
        lines = []
        for one in self.sources:
            scenarios = listed(found.name for found in self.scenarios if found.name)
            known = f" ({scenarios})" if one.roles.scenario and len(self.sources) == 1 else ""
            lines += [one.taken_for + known, *one.said]
            kinds = {(period_alone(its.category or "") or " ")[0] for its in one.roles.amounts}
            if len(one.roles.amounts) > 1 and len(kinds) == 1 and (named := PERIODS.get(kinds.pop())):
                lines.append(f"{one.name}: its {named} say no year: {setting('year')} reads them as dates")
            if column := undated_column(one):
                told = next((text for text in one.rows.values(column) if text and YEAR.search(text)), None)
                is_named = f"is taken for names: '{told}' is no date that is known"
                no_year = f"says no year: {setting('year')} reads it as dates"
                lines.append(f"{one.name}: {column} {is_named if told else no_year}")
        return tuple(lines)

    @property
    def cautions(self) -> tuple[str, ...]:
        return tuple(caution for one in self.sources for caution in one.cautions)

    @property
    def reservations(self) -> tuple[Reservation, ...]:
        spread = self._spreading.reservations if self._spreading else ()
        return (*(reservation for one in self.sources for reservation in one.reservations), *spread)

    @property
    def kept_totals(self) -> tuple[str, ...]:
        """The rows that are totals of others and were kept, as asked."""
        return tuple(name for one in self.sources for name in one.file.kept_totals)

    @property
    def notes(self) -> tuple[str, ...]:
        """How each total and ratio of a found statement is made."""
        is_found = self.statement is not None and self.statement.is_found
        found = self.first.file.found if is_found else None
        return found.notes if found else ()

    @property
    def categories(self) -> str:
        """The columns that could be compared by, in words."""
        roles = self.first.roles
        texts = [column.name for column in self.first.columns if column.is_text or column.is_code]
        return listed(name for name in texts if name not in (roles.date, roles.scenario))

    @property
    def each(self) -> int:
        """How many columns make a category that has a last date of its own, of balances."""
        return len(self.first.roles.by) if self.first.asked.columns.is_by_panel else self.width

    def counted(self, span: Span) -> Span:
        """What of a span counts: of balances on each category's own last date the last period only."""
        return last_period(self.scenarios, self.calendar, span) if self._total_as.is_each else span

    def cells(
        self, spans: Sequence[Span], *, by_category: bool = True, among: Sequence[str] | None = None
    ) -> tuple[Cell, ...]:
        """A cell for each category that has a figure in a span; or one for each span, of all or some of them.

        Parameters
        ----------
        by_category : otherwise each span has one figure, whose category is empty.
        among : the only categories that count.
        """
        named = None if among is None else [self._names_of[one] for one in among if one in self._names_of]
        if not spans or named == []:
            return ()
        width = self.width if by_category else 0
        within = [self.counted(span) for span in spans]
        asked = query.cells_of(
            within, width, self._total_as, named, has_scenarios=self._has_scenarios, each=self.each
        )
        found = self.engine.rows(asked, self.name)
        cells = []
        for place, *names, row, kept, per, rows in found:
            amount = self._amount(kept)
            figure = self._total_as.figure(amount, per, rows, spans[place])
            category = self._category(names) if by_category else ""
            cells.append(
                Cell(category=category, amount=figure, rows=rows, row=row, place=place, volume=self._volume(per))
            )
            if figure is None and (by_category or not self.width):
                self._undivided[spans[place], category] = amount
        self.answers.append(Answer(spans=tuple(within), width=width, among=among, cells=tuple(cells)))
        return tuple(cells)

    def parts(self, spans: Sequence[Span]) -> tuple[Cell, ...]:
        """A cell for each part of each category in each span, one level down."""
        width, all_names = self.width, len(self.first.roles.by)
        within = [self.counted(span) for span in spans]
        found = self.engine.rows(query.cells_of(within, all_names, self._total_as, each=self.each), self.name)
        cells = tuple(
            Cell(
                category=self._category(names[:width]) if width else "",
                amount=self._total_as.figure(self._amount(amount), per, rows, spans[place]),
                rows=rows,
                row=row,
                place=place,
                part=_joined(names[width:]),
                volume=self._volume(per),
            )
            for place, *names, row, amount, per, rows in found
        )
        self.answers.append(Answer(spans=tuple(within), width=all_names, among=None, cells=cells))
        return cells

    def _amount(self, found: Any) -> Decimal:
        return self._spreading.amount(found) if self._spreading else Decimal(found)

    def recount(self) -> Recount:
        """All rows once more, one by one."""
        from marvex.sources.engine.recount import Recount

        return Recount(self.sources, self.engine, self._total_as)

    def label_of(self, names: Sequence[Any]) -> str:
        """The label that some names are joined to."""
        return _joined(names)

    @property
    def known_categories(self) -> Collection[str]:
        """The categories that have been met in some answer."""
        return self._names_of.keys()

    def names_of(self, label: str) -> tuple[str, ...]:
        """The names that a category's label joins, as the engine has them."""
        return self._names_of[label]

    def _volume(self, per: Decimal | None) -> Decimal | None:
        """The volume of a figure, which is read as what a rate would be divided by."""
        is_volume = self.first.roles.per is not None and self._total_as.per is None
        return per if is_volume else None

    def parts_in_given_order(self) -> tuple[str, ...]:
        """The names of all parts, in the order in which the sources first give them."""
        # The last of the appearances is of all rows.
        rows = (row for source in self.sources for row in [*source.rows.appearances(source.facts)][-1])
        return tuple(dict.fromkeys(_joined(row[self.width : len(self.first.roles.by)]) for row in rows))

    def undivided(self, figures: FigureFormat) -> tuple[Reservation, ...]:
        """A reservation about the figures that have nothing to be divided by."""
        if not self._undivided:
            return ()
        count, amount = len(self._undivided), total(self._undivided.values())
        of_what = self._total_as.per or "days"
        have, are = ("figure has", "is") if count == 1 else ("figures have", "are")
        told = f"{count} {have} no {of_what} to be divided by and {are} absent, but the amounts count in totals"
        return (Reservation(what=f"{told}: {figures.headline(amount)} in all"),)

    def kept_by_day(self) -> tuple[DayTotal, ...]:
        """What each day of each scenario comes to, all categories together, in order of days; for checks."""
        return tuple(
            DayTotal(scenario=scenario, day=day, amount=amount, rows=rows)
            for scenario, day, amount, rows in self.engine.rows(query.KEPT_BY_DAY, self.name)
        )

    def last_days(self, spans: Sequence[Span], *, is_whole: bool = False) -> dict[tuple[Span, str], date]:
        """The last day on which each category has a row, in each span, or in its last period alone."""
        within = spans if is_whole else [last_period(self.scenarios, self.calendar, span) for span in spans]
        return {
            (spans[place], self._category(names)): day
            for place, day, *names in self.engine.rows(query.last_days(within, self.width), self.name)
        }

    def extents(self, *, by_category: bool) -> dict[tuple[str, str | None], tuple[date, date]]:
        """The first and the last day on which kept rows of a category count, by category and scenario.

        Parameters
        ----------
        by_category : otherwise of all of them together, whose category is empty.
        """
        ahead = {one.name: timedelta(days=one.ahead) for one in self.scenarios}
        return {
            (self._category(names) if by_category else "", scenario): (
                first + ahead.get(scenario, timedelta()),
                last + ahead.get(scenario, timedelta()),
            )
            for scenario, first, last, *names in self.engine.rows(
                query.extents(self.width if by_category else 0), self.name
            )
        }

    def rows_in(self, spans: Sequence[Span]) -> tuple[int, ...]:
        """How many amounts each of several spans has."""
        return tuple(int(count) for count in self.engine.rows(query.rows_of(spans), self.name)[0])

    def rows_across(self, spans: Sequence[Span]) -> int:
        """How many rows have an amount in any of the spans, where those are columns side by side."""
        stretches = [one for span in spans for one in span.stretches]
        return sum(one.rows.with_a_figure(one.facts, stretches) for one in self.sources)

    def totals(self, spans: Sequence[Span], among: Sequence[str] | None = None) -> dict[Span, SpanTotal]:
        """The figure of each span over all its rows, or those of some categories, asked for together."""
        different = list(dict.fromkeys(spans))
        found = {span: SpanTotal(None, 0) for span in different}
        for cell in self.cells(different, by_category=False, among=among):
            found[different[cell.place]] = SpanTotal(cell.amount, cell.rows)
        return found

    def largest_rows(self, span: Span, label: str | None, most: int) -> tuple[TracedRow, ...]:
        """The rows that count most in one category, or in all of them, the largest first."""
        if not most:
            return ()
        found = []
        for source, stretch in itertools.product(self.sources, span.stretches):
            if source.scenario is not None and source.scenario != stretch.scenario:
                continue
            names = None if label is None else self._names_of[label]
            rows = source.rows.largest(source.facts, stretch, names, source.headings, most)
            found += [source.traced(*row) for row in rows]
        return tuple(sorted(found, key=lambda row: -abs(row.amount))[:most])

    def values_of(self, column: str) -> tuple[str, ...]:
        """The different values of a column of the first source, sorted; that of rows which say nothing is empty."""
        return tuple(self.first.rows.values(column))

    def largest_of_each(self, spans: Sequence[Span], most: int) -> dict[tuple[Span, str], tuple[TracedRow, ...]]:
        """The rows that count most in each category of each span, the largest first, all asked for together."""
        found: dict[tuple[Span, str], list[TracedRow]] = {}
        for source in self.sources:
            stretches = [
                (place, one)
                for place, span in enumerate(spans)
                for one in span.stretches
                if source.scenario is None or source.scenario == one.scenario
            ]
            if not stretches or not most:
                continue
            rows = source.rows.largest_of_each(source.facts, stretches, source.headings, most)
            for place, *names, number, column, amount, whole in rows:
                label = _joined(names[: self.width]) if self.width else ""
                found.setdefault((spans[place], label), []).append(source.traced(number, column, amount, whole))
        return {key: tuple(sorted(rows, key=lambda row: -abs(row.amount))[:most]) for key, rows in found.items()}

    def in_given_order(self, *cells: Sequence[Cell], by_calendar: bool = True) -> tuple[tuple[int | None, str], ...]:
        """The keys of the cells in the order in which the sources first give them.

        Parameters
        ----------
        by_calendar : names that are all of months or other periods come in the order of the calendar.
        """
        keys = {cell.key for cell in itertools.chain(*cells)}
        if by_calendar and (in_calendar := in_calendar_order(keys, self.calendar)):
            return in_calendar
        if self.first.roles.each_row or not keys:
            return tuple(sorted(keys, key=lambda key: key[0] or 0))
        wanted = {name for _, name in keys}
        places: dict[str, int] = {}
        for source in self.sources:
            for known in source.rows.appearances(source.facts):
                found = [self._category(one[: self.width]) for one in known]
                if wanted <= {*places, *found}:
                    break
            for name in found:
                places.setdefault(name, len(places))
        return tuple(sorted(keys, key=lambda key: places.get(key[1], len(places))))

    def is_spread(self, scenario: str | None) -> bool:
        """Whether the amounts of a scenario were spread over finer periods than they are kept by."""
        return self._spreading is not None and scenario in self._spreading.said

    def found_in_one_only(self) -> tuple[str, ...]:
        """A caution for each of several sources that names the categories which no other has."""
        if len(self.sources) < 2 or not self.width:
            return ()
        columns = ", ".join(f"c{place}" for place in range(self.width))
        rows = self.engine.rows(
            Query(
                f"SELECT {columns}, list(DISTINCT source) FROM facts WHERE kept AND figures > 0 GROUP BY {columns}"
            ),
            self.name,
        )
        cautions = []
        in_all = sum(len(one[-1]) == len(self.sources) for one in rows)
        if not in_all:
            cautions.append(f"no category is in all sources: {setting('name_map', 'FILE')} says which are the same")
        for place, source in enumerate(self.sources):
            alone = sorted(self._category(one[:-1]) for one in rows if one[-1] == [place])
            if alone:
                is_one = sum(one.name == source.name for one in self.sources) == 1
                name = source.name if is_one else f"{source.name} ({source.scenario})"
                cautions.append(f"only {name} has {listed(alone, 5)}")
        return tuple(cautions)

    def _category(self, names: Sequence[Any]) -> str:
        label = _joined(names)
        if self._names_of.setdefault(label, tuple(names)) != tuple(names):
            raise Mistake(
                f"{self.name}: two different categories would both be shown as '{label}'",
                f"Show one by another name with {setting('name_map', 'FILE')}, or compare by one column.",
            )
        return label


def _joined(names: Sequence[Any]) -> str:
    """The names of a category as one."""
    return JOINS.join(str(name) if name else NO_NAME for name in names)
