"""A source becomes its table of facts: roles, filters, figures and dates, and what was left out."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from typing import TypeVar

from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenarios import unnamed
from marvex.core.compare.totals import Total, TotalAs
from marvex.core.errors import Mistake, setting
from marvex.sources import roles
from marvex.sources.cells import Convention, FigureReading
from marvex.sources.columns import Column, columns_of, with_later
from marvex.sources.columns_asked import found_column
from marvex.sources.engine import facts as facts_of
from marvex.sources.engine.accounts import account_column, create_lines
from marvex.sources.engine.amount_readings import AmountReadings
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.debits import check_stored, credits_of, with_credits_turned
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.figure_columns import Table, in_money, readings, with_readings
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.held import holding
from marvex.sources.engine.names import has_named, names_table
from marvex.sources.engine.opening import opened
from marvex.sources.engine.reading_checks import (
    DAYS_LOOKED_AT,
    check_filters,
    check_percentages,
    in_no_row,
    nothing_kept,
    passed_by,
    stops_early,
    without_headings,
)
from marvex.sources.engine.rows import FileRows
from marvex.sources.engine.source import Source
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.engine.source_doubts import with_doubts
from marvex.sources.engine.source_units import currency_of, power_of, units_in
from marvex.sources.engine.typed_columns import Typed, with_decimals
from marvex.sources.engine.unread_cells import UnreadCells
from marvex.sources.engine.written_dates import create_days, told_of_two_years
from marvex.sources.expression import adds_columns, parse_expression
from marvex.sources.readers.source_file import ENOUGH_ROWS, SourceFile
from marvex.sources.where import Filter, filters_among, parse_filters
from marvex.sources.years_said import says_another

T = TypeVar("T")
LINES = "line"  # the column that headings become the values of, where they are lines of a statement


def read_source(
    place: int,
    file: SourceFile,
    engine: Engine,
    asked: AskedOfSource,
    *,
    gathered: Gathered,
    lookup: SourceFile | None = None,
    is_held: bool = False,
) -> Source:
    """The source, read.

    Parameters
    ----------
    place : which of the sources it is.
    gathered : what is kept of it for other requests.
    lookup : a second table that is joined with it.
    is_held : its rows are kept in the engine, for a survey that asks them many things.

    Raises Mistake where a role is unclear, a cell cannot be read or no row is left.
    """
    return _Reader(file, engine, asked, gathered, lookup).read(place, is_held=is_held)


class _Reader:
    """One source while it is being read."""

    def __init__(
        self, file: SourceFile, engine: Engine, asked: AskedOfSource, gathered: Gathered, lookup: SourceFile | None
    ) -> None:
        self.gathered, self.lookup = gathered, lookup
        self.file, self.engine, self.asked, self.name = file, engine, asked, file.name
        self.cautions = tuple(f"{file.name}: {one}" for one in file.cautions)
        self.reservations = tuple(Reservation(what=one, source=file.name) for one in file.doubts)
        year = asked.wanted.year
        if year and (other := says_another(year, [*file.titles, file.sheet or ""])):
            what = f"what says no year is taken to be of {year}, and '{other}' says another"
            self.reservations += (Reservation(what=what, mend=f"mend it with {setting('year')}", source=file.name),)
        self.said: tuple[str, ...] = ()
        self.rows_read = self.rows_kept = self.power = 0
        self.filters: tuple[Filter, ...] = ()
        self.lacks_headings = False
        self.kept_headings: tuple[Filter, ...] = ()
        self.currency: str | None = None

    def read(self, place: int, *, is_held: bool) -> Source:
        self._open(f"held_{place}" if is_held else None)
        self._see_columns(is_held=is_held)
        self._work_out_roles()
        self._name_the_unnamed()
        self._turn_credits()
        self._keep_headings()
        self._check_kept()
        self._put_in_money()
        facts = self._read(place)
        self._tell_columns(facts)
        if self.asked.name is not None:
            facts = holding(facts, self.asked.name, self.engine, self.name)
        if facts.key:
            self.engine.run(facts.create_keys(), self.name)
        return with_doubts(self._source(facts), self.typed, self.gathered, self.engine)

    def _open(self, held: str | None) -> None:
        found = opened(self.file, self.engine, self.asked, self.gathered, self.lookup, held=held)
        self.rows, self.headings, self.columns_asked = found.rows, found.headings, found.asked
        self.relation, self.typed = found.relation, found.typed

    def _see_columns(self, *, is_held: bool) -> None:
        """Looks at what the columns hold, and at whether the first row is one of headings."""
        self.sample, self.columns = self._once("columns", self._looked_at)
        if not any(column.filled for column in self.columns):
            raise Mistake(f"{self.name} has headings but no rows", "Give a file with rows of data.")
        if not self.asked.columns.amounts and (mistake := without_headings(self.columns, self.name)):
            if not is_held:  # a survey goes on, and says so
                raise mistake
            self.cautions, self.lacks_headings = (*self.cautions, mistake.what), True

    def _work_out_roles(self) -> None:
        """Which column plays which role, with those of a statement's lines; and which statement that is."""
        asked, file = self.asked, self.file
        columns = replace(
            self.columns_asked,
            parts_across=file.parts_across,
            total_across=file.total_across,
            led_across=file.led_across,
            of_one=frozenset(
                one.column for one in filters_among(asked.where, self.headings, self.name) if one.names_one
            ),
        )
        for text in columns.worked_out:
            if adds_columns(parse_expression(text, self.headings, self.name)):
                self.said += (f"an empty cell counts as nothing in {text}",)
        self.statement = asked.statement
        if asked.statement is not None:
            account = account_column(asked.statement, self.headings, self.sample, asked.account, self.name)
            columns = replace(columns, by=(account,))
        elif file.found is not None and asked.finds_statement:
            own, column = file.found.statement, file.found.column
            self.statement = asked.merged or own
            if column is None:
                leaves = tuple(line.label for line in own.lines if line.accounts)
                columns = replace(columns, by=(LINES,), headings_are=LINES, amounts=leaves, then_by=asked.panels)
            else:
                columns = replace(columns, by=(column,), are_lines=True, then_by=asked.panels)
        self.roles = roles.work_out(self.columns, columns, self.name)
        if asked.named_by is not None and not self.roles.by:
            same = [one for one in self.headings if one.casefold() == asked.named_by.casefold()]
            self.roles = roles.work_out(self.columns, replace(columns, by=tuple(same)), self.name)
        # A row's number says nothing of a database, and the same line stands on several sheets.
        if file.store is not None or asked.is_one_of_several or file.parts:
            self.roles = replace(self.roles, each_row=False)

    def _check_kept(self) -> None:
        """Refuses conditions that cannot be asked, and percentages that would be added up."""
        check_filters(self.filters, self.roles, self.headings, self.columns, self.sample)
        told = passed_by(self.filters, self._texts)
        if self.file.is_small:  # of others a value may stand behind the rows that are looked at
            told += in_no_row(self.filters, self._texts)
        self.cautions += tuple(f"{self.name}: {one}" for one in told)
        are_lines = self.statement is not None or (self.roles.each_row and self.asked.wanted.keep_totals)
        total_as = self.asked.total_as
        check_percentages(self.name, self.headings, self._kept, self.roles, total_as, are_lines=are_lines)
        if not are_lines and not self.filters:
            self._check_late_percentages()

    @property
    def _kept(self) -> list[Sequence[str | None]]:
        """Those of its first rows that are kept."""
        return [row for row in self.sample if all(one.keeps_row(row, self.headings) for one in self.filters)]

    def _put_in_money(self) -> None:
        """Works out the unit of its figures, and reads the figures of conditions in money."""
        amounts = [one.name for one in self.roles.amounts]
        self.power = self.asked.power or 0
        if self.asked.power is None and amounts:
            self.power, said = power_of(self.file, self.headings, self.sample, self._kept, amounts)
            self.said += said
        self.filters, cautions = in_money(self.filters, amounts, self.power)
        if self.file.store is None:
            self.filters, unread = with_readings(self.filters, self._table, self.typed, self._beside)
            cautions += unread
        self.cautions += tuple(f"{self.name}: {one}" for one in cautions)

    def _tell_columns(self, facts: Facts) -> None:
        """Tells of codes that a lookup does not have, and of columns without a figure."""
        by_name = {column.name: column for column in self.columns}
        if self.roles.amounts:
            self.cautions += self.rows.codes_not_found(facts)
        empty = [one.name for one in self.roles.amounts if one.scenario and not by_name[one.name].filled]
        self.cautions += tuple(f"column {name} holds no figure" for name in empty)

    def _source(self, facts: Facts) -> Source:
        return Source(
            file=self.file,
            asked=self.asked,
            rows=self.rows,
            headings=self.headings,
            sample=self.sample,
            columns=self.columns,
            roles=self.roles,
            filters=self.filters,
            kept_headings=self.kept_headings,
            lacks_headings=self.lacks_headings,
            facts=facts,
            rows_read=self.rows_read,
            written_grain=self.dates.grain,
            written_grains={} if self.asked.name else self.dates.grains,
            written_periods=self.dates.periods,
            cautions=self.cautions,
            reservations=self.reservations,
            statement=self.statement,
            own_said=self.said,
            stops=stops_early(self.rows.last_times(facts, DAYS_LOOKED_AT)) if facts.has_times else None,
            currency=self.currency,
            worked_out=self.columns_asked.worked_out,
            units=units_in(facts, self.headings, self.rows),
        )

    def _keep_headings(self) -> None:
        """The filters of rows, and of what headings say: the latter leave amount columns out."""
        amounts, new = self.roles.amounts, self.roles.headings
        are_lines = self.statement is not None
        of_headings = not are_lines and new not in (None, *self.headings) and all(one.category for one in amounts)
        known = (*self.headings, new) if new is not None and of_headings else self.headings
        filters = parse_filters(self.asked.where, known, self.name)
        self.filters = tuple(one for one in filters if one.column in self.headings)
        self.kept_headings = tuple(one for one in filters if one.column not in self.headings)
        if self.kept_headings:
            kept = [one for one in amounts if all(each.keeps(one.category or "") for each in self.kept_headings)]
            if not kept:
                there = list(dict.fromkeys(one.category or "" for one in amounts))
                raise nothing_kept(self.name, self.kept_headings, lambda _: there)
            self.roles = replace(self.roles, amounts=tuple(kept))

    def _name_the_unnamed(self) -> None:
        """Takes rows without a scenario as actual, where all others are of a budget or the like."""
        column = self.roles.scenario
        if column is None or self.asked.name is not None:
            return
        place = self.headings.index(column)
        first = {(row[place] or "").strip() for row in self.sample} - {""}
        if first and unnamed(first) is None:
            return
        texts = self._values(column)
        if "" in texts and (name := unnamed(list(filter(None, texts)))):
            self.roles = replace(self.roles, unnamed=name)
            self.said += (f"rows without a {column} are taken as {name}",)

    def _check_late_percentages(self) -> None:
        """Raises Mistake where percentages would be added up with amounts that all first rows have."""
        if len(self.sample) < ENOUGH_ROWS or not self.file.is_small or not isinstance(self.rows, FileRows):
            return
        for one in self.roles.amounts:
            if one.name not in self.typed and (found := self.rows.like(one.name, ".*%", 1)):
                check_percentages(self.name, [one.name], [["1"], found], self.roles, self.asked.total_as)

    def _turn_credits(self) -> None:
        """Takes credits as negative, where a column says which amounts they are and all are positive."""
        if not self.roles.amounts or (self.file.found is not None and self.statement is not None):
            return
        found = credits_of(self.headings, self.sample, self.roles, self._values)
        if found is None:
            return
        if not isinstance(self.rows, FileRows):
            check_stored(found, self.headings, self.sample, self.roles.amounts[0].name)
            return
        turned = with_credits_turned(self.relation, found, self.roles, self.typed, self.engine, self.name)
        if turned is not None:
            self.relation = turned
            self.rows = replace(self.rows, relation=replace(self.rows.relation, sql=turned))
            told = f"amounts count as negative where {found.column} is {found.called}"
            if found.is_by_words:  # whoever sees the figures may know better
                self._reserve(Reservation(what=told))
            else:
                self.said += (told,)

    def _looked_at(self) -> tuple[Sequence[Sequence[str | None]], tuple[Column, ...]]:
        is_as_filed = self.file.layout is None or self.headings == self.file.layout.headings
        first = self.file.first_rows if is_as_filed else ()
        sample = first or self.rows.sample(self.headings, ENOUGH_ROWS)
        columns = columns_of(self.headings, sample)
        # What is in order of a column has one value of it first: actuals that say no scenario, and budgets after them.
        later = {
            one.name: self.rows.other_than(one.few[0] if one.filled else "", one.name, ENOUGH_ROWS)
            for one in (columns if len(sample) >= ENOUGH_ROWS else ())
            if not one.filled or (one.shows_one and self.file.is_small)
        }
        return sample, with_later(columns, sample, later)

    def _once(self, what: str, ask: Callable[[], T]) -> T:
        """What all requests of these rows are told alike: a tenth of a pack of 24 views of ten million rows."""
        return self.gathered.once((what, *self.asked.rows_of(self.relation, self.headings)), ask)

    def _texts(self, column: str) -> Collection[str]:
        """The different texts of a column: of its first rows, where it would take long to ask all of them."""
        place = self.headings.index(column)
        is_whole = len(self.sample) < ENOUGH_ROWS or not self.file.is_small
        return {(row[place] or "").strip() for row in self.sample} if is_whole else self._values(column)

    def _values(self, column: str) -> list[str]:
        return self._once(f"values of {column}", lambda: self.rows.values(column))

    @property
    def _table(self) -> Table:
        return Table(self.relation, self.engine, self.name, self.asked.numbers, self.file.shown)

    @property
    def _beside(self) -> list[str]:
        """The columns of amounts that are read as text."""
        return [one.name for one in self.roles.amounts if one.name not in self.typed]

    def _read(self, place: int) -> Facts:
        """Creates the facts, with what cannot be read told or refused."""
        facts = self._read_figures(self._facts(place))
        if self.statement is not None:
            create_lines(self.statement, self.asked.spare, facts, self.engine, self.name)
        if (
            self.asked.name_map is not None
            and facts.roles.by
            and not has_named(facts, self.file.found, self.engine, self.name)
        ):
            told = (
                f"no name of {setting('name_map', self.asked.name_map)} is in {self.name}: all are shown as they are"
            )
            self.cautions += (told,)
        self.dates = create_days(facts, self.columns, self.asked, self.engine, self.name)
        self.cautions += self.dates.cautions
        self._reserve(*self.dates.doubts)
        self.said += told_of_two_years(self.roles.amounts, self.asked.calendar)
        self.engine.run(facts.create(), self.name)
        if self.roles.has_dates:
            self._reserve(*self._unread.dates(facts))
        if self.roles.scenario is not None and self.asked.name is None:
            self._reserve(*self._unread.scenarios(facts))
        if not self.rows_kept:
            raise nothing_kept(self.name, self.filters, self.rows.values)
        return facts

    def _facts(self, place: int) -> Facts:
        """The facts as they are first asked for."""
        total_as = self.asked.total_as
        typed = self._typed_amount()
        facts = Facts(
            place=place,
            relation=self.relation,
            roles=self.roles,
            filters=self.filters,
            reading=FigureReading(0) if typed is None else FigureReading(typed.decimals or 0, typed.is_wide),
            is_negative=self.asked.is_negative,
            power=self.power,
            is_numbered=self.file.is_small,
            has_times=self._has_times(),
            row_column=self.rows.row_column,
            key=self._key(total_as),
            has_counts=self.file.store is not None,
            names=self._names(place),
            has_signs=self.statement is not None,
            has_ends=total_as.way in (Total.HIGHEST, Total.LOWEST),
            per_reading=self._reading_of_per(),
            typed=self._typed(typed),
        )
        return facts if typed is not None else replace(facts, reading=self._readings.first(facts))

    def _read_figures(self, facts: Facts) -> Facts:
        """The facts, with the reading widened until no digit is lost and no cell left doubtful."""
        if facts.key:
            self.rows.create_rows(facts)
        while True:
            self.rows.create_raw(facts, self.asked, self.columns)
            rows, unread, decimals, doubtful, kept, per_decimals, per_unread = self.engine.rows(
                facts_of.RAW_SUMMARY, self.name
            )[0]
            wider = self._readings.wider(facts, int(decimals), bool(doubtful), int(unread))
            if wider is None and per_decimals <= facts.per_reading.decimals:
                break
            per_reading = replace(facts.per_reading, decimals=max(int(per_decimals), facts.per_reading.decimals))
            facts = replace(facts, reading=wider or facts.reading, per_reading=per_reading)
        parts = len(self.roles.amounts) if self.roles.sides_are_columns else 1
        self.rows_read, self.rows_kept = int(rows or 0) // parts, int(kept or 0) // parts
        self._reserve(*self._unread.figures(facts, "divisor", int(per_unread)))
        self.currency = currency_of(self.file, facts, self.headings, self.sample, self.rows, self.columns_asked)
        self._reserve(*self._unread.figures(facts, "figure", int(unread)))
        return facts

    @property
    def _readings(self) -> AmountReadings:
        return AmountReadings(
            name=self.name,
            rows=self.rows,
            columns=self.columns,
            sample=self.sample,
            numbers=self.asked.numbers,
            shown=self.file.shown,
        )

    @property
    def _unread(self) -> UnreadCells:
        return UnreadCells(
            file=self.file, engine=self.engine, asked=self.asked, rows=self.rows, headings=self.headings
        )

    def _typed(self, amount: Typed | None) -> dict[str, str]:
        """What is read as it is: its amount where that is a figure, its date where it is a day; each in a query."""
        found: dict[str, str] = {}
        if amount is not None:
            found[self.roles.amounts[0].name] = amount.sql
        date = self.roles.date
        if date is not None and date in self.typed and not self.typed[date].is_figure:
            found[date] = self.typed[date].sql
        return found

    def _typed_amount(self) -> Typed | None:
        """The column of amounts, where it is one and has a type; of binary figures with the decimals that they need."""
        name = self.roles.amounts[0].name if len(self.roles.amounts) == 1 else ""
        typed = self.typed.get(name)
        if typed is None or not typed.is_figure:
            return None
        if typed.decimals is None:
            self.typed[name] = typed = with_decimals(typed, self.relation, self.engine, self.name)
        return typed

    def _names(self, place: int) -> str:
        """The table that says which name is shown for one in the source, or nothing."""
        if self.statement is not None:
            return f"lines_{place}"
        return names_table(place) if self.asked.name_map else ""

    def _reading_of_per(self) -> FigureReading:
        """How the column divided by is read; its decimals are widened as they are met."""
        per = self.roles.per
        if per is None or per in self.typed or self.file.store is not None:
            return FigureReading(0, True, Convention.POINT)
        return readings(self._table, [per], self._beside)[per]

    def _reserve(self, *reservations: Reservation) -> None:
        self.reservations += tuple(replace(one, source=self.name) for one in reservations)

    def _key(self, total_as: TotalAs) -> str | None:
        if total_as.way is not Total.DISTINCT or total_as.column is None:
            return None
        return found_column(total_as.column, self.headings, self.name, "total_as")

    def _has_times(self) -> bool:
        if self.roles.date is None:
            return False
        place = self.headings.index(self.roles.date)
        timed = re.compile(r"\d{4}-\d\d-\d\d[T ]+\d\d?:\d\d.*")
        return any(row[place] and timed.fullmatch(str(row[place])) for row in self.sample)
