"""The rows of a table that a database or a cluster has: it adds them up itself, and nothing but facts comes back."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from functools import partial
from typing import TYPE_CHECKING, Any

from marvex.core.compare.side import Stretch
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import EXACT, ZERO
from marvex.sources import cells
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.derived import FEW_DECIMALS, date_parts, decimals_left, least_decimals, lookup_of
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.query import Query
from marvex.sources.engine.rows import Row
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.expression import is_expression
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.files import SourceFile
from marvex.sources.readers.store import Kind, Store, Tally, as_text
from marvex.sources.roles import AmountColumn, Column, ColumnsAsked
from marvex.sources.where import Filter

if TYPE_CHECKING:
    from sqlalchemy import ColumnElement, Select

ROWS_AT_ONCE = 50_000
_GROUP = "\u2060group "  # of a name that no column has


@dataclass(frozen=True, slots=True, kw_only=True)
class Made:
    """A column that a table does not have itself: its texts are made here, of those of some of its columns."""

    of: tuple[str, ...]
    make: Callable[[tuple[str | None, ...]], str | None]


@dataclass(slots=True, eq=False)
class StoredRows:
    """The rows of a table of a store.

    Parameters
    ----------
    made : the columns that it does not have itself, by heading.
    codes : of a lookup, the column of the codes and those that it has.
    """

    store: Store
    engine: Engine
    name: str
    gathered: Gathered
    made: Mapping[str, Made] = field(default_factory=dict)
    codes: tuple[str, frozenset[str]] | None = None
    _binary: dict[str, int] = field(default_factory=dict)  # how many decimals the figures of a column have
    _facts: dict[tuple[Any, ...], list[Row]] = field(default_factory=dict)

    @property
    def row_column(self) -> str | None:
        return None

    def sample(self, headings: Sequence[str], most: int) -> Sequence[Sequence[str | None]]:
        own = list(self.store.kinds)
        rows = []
        for row in self.store.first[:most]:
            texts = dict(zip(own, map(as_text, row), strict=True))
            rows.append([self._made_of(one, texts) if one in self.made else texts[one] for one in headings])
        return rows

    def _made_of(self, heading: str, texts: Mapping[str, str | None]) -> str | None:
        made = self.made[heading]
        return made.make(tuple(texts[one] for one in made.of))

    # What a survey asks.

    @property
    def count(self) -> int:
        """How many rows there are."""
        from sqlalchemy import func, select

        return int(self.store.rows(select(func.count()).select_from(self.store.table))[0][0])

    def counted(self, heading: str) -> tuple[int, int]:
        """How many cells of a column say something, and how many different ones there are."""
        from sqlalchemy import func, select

        if heading in self.made:
            return self.count, len(self.values(heading))
        text = func.trim(self.store.text(heading))
        filled = select(func.count()).select_from(self.store.table).where(func.lower(text).not_in(cells.ABSENT))
        different = select(func.count(func.distinct(text))).select_from(self.store.table)
        return int(self.store.rows(filled)[0][0]), int(self.store.rows(different)[0][0])

    def sizes(
        self, heading: str, facts: Facts, scenario: str | None, among: Sequence[str]
    ) -> list[tuple[str | None, int, Decimal | None]]:
        """Each value of a column with its rows and its amounts, of some scenarios only where that is said."""
        from sqlalchemy import func, select

        of = self._columns_of([heading])
        names = [one.name for one in facts.roles.amounts]
        tallied = [(name, self.store.tallied(name, self._decimals(name), with_ends=False)) for name in names]
        labelled = [self.store.text(one).label(f"{_GROUP}{place}") for place, one in enumerate(of)]
        figures = [expression for _, some in tallied for expression in some]
        statement = select(*labelled, func.count(), *figures).select_from(self.store.table)
        if scenario is not None:
            statement = statement.where(func.lower(func.trim(self.store.text(scenario))).in_(among))
        found: dict[str | None, tuple[int, Decimal | None]] = {}
        for row in self.store.rows(statement.group_by(*(one.name for one in labelled))):
            texts = dict(zip(of, map(as_text, row[: len(of)]), strict=True))
            label = self._made_of(heading, texts) if heading in self.made else texts[heading]
            rest, (count, amount) = list(row[len(of) + 1 :]), found.get(label, (0, None))
            for name, some in tallied:
                own = self.store.tally_of(rest[: len(some)], name).amount
                amount = own if amount is None else EXACT.add(amount, own or ZERO)
                del rest[: len(some)]
            found[label] = count + int(row[len(of)]), amount
        return [(label, count, amount) for label, (count, amount) in found.items()]

    # What makes the facts.

    def create_raw(self, facts: Facts, asked: AskedOfSource, columns: Sequence[Column]) -> None:
        gathered = self.gathered.raw_of(facts, asked, columns, partial(self._fetch, kind="TABLE"))
        if facts.key or gathered:
            self.engine.run(gathered or facts.create_raw(), self.name)
        else:
            self._fetch(facts, "raw", kind="TEMP TABLE")

    def _fetch(self, facts: Facts, table: str, *, kind: str) -> None:
        """Has the store make the facts, and puts them into a table as `Facts.raw` describes it."""
        rows = self._raw_rows(facts)
        decimals, of_per = facts.reading.decimals, facts.per_reading.decimals
        names = [f"c{place}" for place in range(max(1, len(facts.roles.by)))]
        types = dict.fromkeys((*names, "scenario_text", "date_text"), "VARCHAR") | {
            "row": "BIGINT",
            "kept": "BOOLEAN",
            **dict.fromkeys(("amount", "highest", "lowest"), f"DECIMAL({MOST_DIGITS}, {decimals})"),
            "per": f"DECIMAL({MOST_DIGITS}, {of_per})",
            **dict.fromkeys(("figures", "rows", "unread", "decimals", "per_unread", "per_decimals"), "BIGINT"),
            "first_row": "BIGINT",
            "doubtful": "BOOLEAN",
        }
        order = (*names, "scenario_text", "date_text", "kept", "amount", "highest", "lowest", "per", "figures")
        order += ("rows", "unread", "decimals", "per_unread", "per_decimals")
        declared = ", ".join(f"{name} {kind}" for name, kind in types.items())
        self.engine.run(Query(f"CREATE OR REPLACE {kind} {table} ({declared})"), self.name)
        # What is bound as text becomes a decimal in the engine, to the last digit.
        values = ", ".join(f"CAST(unnest(?::VARCHAR[]) AS {types[name]})" for name in order)
        for start in range(0, len(rows), ROWS_AT_ONCE):
            some = list(zip(*rows[start : start + ROWS_AT_ONCE], strict=True))
            texts = tuple([None if one is None else str(one) for one in column] for column in some)
            self.engine.run(Query(f"INSERT INTO {table} ({', '.join(order)}) SELECT {values}", texts), self.name)
        self.engine.run(Query(f"UPDATE {table} SET doubtful = false"), self.name)

    def _raw_rows(self, facts: Facts) -> list[Row]:
        """The facts as the store has added them up, one row a group and column of amounts."""
        told_apart = (facts.roles.by, facts.roles.amounts, facts.filters, facts.has_ends)
        if told_apart not in self._facts:
            self._facts[told_apart] = self._added_up(facts)
        return self._facts[told_apart]

    def _added_up(self, facts: Facts) -> list[Row]:
        from sqlalchemy import func, select

        roles = facts.roles
        for name in (*(one.name for one in roles.amounts), *([roles.per] if roles.per else [])):
            if not self.store.holds_figures(name):
                raise Mistake(
                    f"{self.name}, column {name} holds {self.store.kinds[name].value}, and no figures",
                    f"Name another, or make it exact in a query: {setting('query', 'FILE.sql')}.",
                )
        inner, keys, kept = self._groups(facts)
        tallied = [
            (name, self.store.tallied(name, self._decimals(name), with_ends=facts.has_ends))
            for name in (*(one.name for one in roles.amounts), *([roles.per] if roles.per else []))
        ]
        figures = [expression for _, some in tallied for expression in some]
        labelled = [one.label(f"{_GROUP}{place}") for place, one in enumerate(inner)]
        statement = (
            select(*labelled, func.count(), *figures)
            .select_from(self.store.table)
            .group_by(*(one.name for one in labelled))
        )
        rows = []
        for found in self.store.rows(statement.group_by(*(one.name for one in labelled))):
            texts = dict(zip(keys, map(as_text, found[: len(keys)]), strict=True))
            is_kept = kept is None or bool(found[kept])
            count, rest = int(found[len(labelled)]), list(found[len(labelled) + 1 :])
            tallies = []
            for name, some in tallied:
                tallies.append(self.store.tally_of(rest[: len(some)], name))
                del rest[: len(some)]
            per = tallies.pop() if roles.per else Tally(amount=None, count=0)
            if not roles.amounts:
                tallies = [Tally(amount=Decimal(count), count=count)]
            for column, tally in zip(roles.amounts or (None,), tallies, strict=True):
                rows.append(self._raw_row(facts, texts, column, tally, per, count, is_kept))
        return rows

    def _raw_row(
        self,
        facts: Facts,
        texts: Mapping[str, str | None],
        column: AmountColumn | None,
        tally: Tally,
        per: Tally,
        count: int,
        is_kept: bool,
    ) -> Row:
        roles = facts.roles

        def text(heading: str) -> str | None:
            return self._made_of(heading, texts) if heading in self.made else texts[heading]

        names = [
            (column.category if heading == roles.headings and column else text(heading)) if is_kept else None
            for heading in roles.by
        ] or [None]
        scenario = (column.scenario if column else None) or (text(roles.scenario) if roles.scenario else None)
        date = (column.period if column else None) or (text(roles.date) if roles.date else None)
        if date is not None and facts.has_times and roles.date in self.store.kinds:
            date = date[:10]
        figures = (tally.amount, tally.highest, tally.lowest, per.amount)
        counts = (tally.count, count, tally.unread if is_kept else 0, _decimals_of(tally.amount))
        return (
            *names,
            scenario,
            date,
            is_kept,
            *figures,
            *counts,
            per.unread if is_kept else 0,
            _decimals_of(per.amount),
        )

    def _groups(self, facts: Facts, key: str | None = None) -> tuple[list[ColumnElement[Any]], list[str], int | None]:
        """What rows are grouped by, the columns that are among it, and the place of what says which are kept."""
        from sqlalchemy import case

        roles = facts.roles
        kept = self._kept(facts.filters)
        of_names = self._columns_of([one for one in roles.by if one != roles.headings] + ([key] if key else []))
        of_others = self._columns_of([one for one in (roles.scenario, roles.date) if one])
        found: dict[str, ColumnElement[Any]] = {}
        for name in of_names:
            text = self.store.text(name)
            # Rows that are not kept say only how far the data go.
            found[name] = text if kept is None or name in of_others else case((kept, text))
        for name in of_others:
            found[name] = self._day(name, facts) if name == roles.date else self.store.text(name)
        groups = list(found.values())
        if kept is None:
            return groups, list(found), None
        return [*groups, case((kept, 1), else_=0)], list(found), len(groups)

    def _day(self, name: str, facts: Facts) -> ColumnElement[Any]:
        """A column of dates without their times, which there are more of than days."""
        from sqlalchemy import Date, cast, func

        kind = self.store.kinds[name]
        if kind in (Kind.DAY, Kind.TIME):
            return cast(self.store.column(name), Date)
        return func.substr(self.store.text(name), 1, 10) if facts.has_times else self.store.text(name)

    def _columns_of(self, headings: Sequence[str]) -> list[str]:
        """The columns of the table that some headings need, each once."""
        return list(
            dict.fromkeys(name for one in headings for name in (self.made[one].of if one in self.made else (one,)))
        )

    def _kept(self, filters: Sequence[Filter]) -> ColumnElement[Any] | None:
        """What is true of the rows to keep, never unknown; None where all are kept."""
        from sqlalchemy import and_

        return and_(*map(self._passes, filters)) if filters else None

    def _passes(self, one: Filter) -> ColumnElement[Any]:
        from sqlalchemy import Numeric, String, case, cast, func, literal, or_

        if one.column in self.made:
            of = self.made[one.column].of
            found = self.store.rows(self._different(of))
            rows = [tuple(map(as_text, row)) for row in found]
            passing = [row for row in rows if one.keeps(self.made[one.column].make(row) or "")]
            return self._is_among(of, passing)
        text = func.coalesce(func.trim(self.store.text(one.column)), "")
        if one.sign in ("=", "!="):
            return text.in_(one.values) if one.sign == "=" else text.not_in(one.values)
        if one.sign == "~":
            return or_(*(text.like(_like(value), escape="!") for value in one.values))
        value = one.values[0]
        if one.is_about_figures:
            number = Numeric(MOST_DIGITS, 10)
            if self.store.kinds[one.column] is Kind.FIGURE:
                figure: Any = cast(self.store.column(one.column), number)
            else:
                # Only a text that is a figure is read as one.
                is_figure = text.regexp_match(r"^-?[0-9]+(\.[0-9]+)?$")
                figure = cast(case((is_figure, text), else_=None), number)
            return func.coalesce(figure.op(one.sign)(cast(literal(value, String), number)), False)
        return (text != "") & self.store.in_order(text).op(one.sign)(literal(value))

    def _different(self, columns: Sequence[str]) -> Select[Any]:
        from sqlalchemy import select

        return select(*(self.store.text(one) for one in columns)).select_from(self.store.table).distinct()

    def _is_among(self, columns: Sequence[str], rows: Sequence[Row]) -> ColumnElement[Any]:
        """Whether some columns have the texts of one of several rows."""
        from sqlalchemy import and_, false, func, or_

        texts = [func.coalesce(func.trim(self.store.text(one)), "") for one in columns]
        if len(texts) == 1:
            return texts[0].in_([row[0] or "" for row in rows]) if rows else false()
        alike = (and_(*(text == (value or "") for text, value in zip(texts, row, strict=True))) for row in rows)
        return or_(false(), *alike)

    def _decimals(self, name: str) -> int:
        """To how many decimals the binary figures of a column are rounded."""
        if self.store.has_types and self.store.kinds[name] is not Kind.BINARY:
            return MOST_DIGITS
        if name not in self._binary:
            from sqlalchemy import func, select

            column = self.store.column(name)
            shifted = [column * 10.0**few for few in range(FEW_DECIMALS)]
            off = (func.max(func.abs(one - func.round(one))) for one in shifted)
            statement = select(func.max(func.abs(column)), *off).select_from(self.store.table)
            largest, *missed = (None if one is None else float(one) for one in self.store.rows(statement)[0])
            self._binary[name] = least_decimals(decimals_left(largest), missed)
        return self._binary[name]

    def create_rows(self, facts: Facts) -> None:
        """The table of keys: each different one of a category, scenario and day once, with how often it is there."""
        from sqlalchemy import func, select

        assert facts.key is not None
        inner, keys, kept = self._groups(facts, facts.key)
        key_too = facts.key in (facts.roles.scenario, facts.roles.date)
        labelled = [one.label(f"{_GROUP}{place}") for place, one in enumerate(inner)]
        statement = select(*labelled, func.count()).select_from(self.store.table)
        names = [f"c{place}" for place in range(len(facts.roles.by))]
        stored = [*names, *(["scenario_text"] if facts.roles.has_scenarios else [])]
        stored += [
            *(["date_text"] if facts.roles.has_dates else []),
            "key",
            *(["kept"] if facts.filters else []),
            "n",
        ]
        rows = []
        for found in self.store.rows(statement.group_by(*(one.name for one in labelled))):
            texts = dict(zip(keys, map(as_text, found[: len(keys)]), strict=True))
            is_kept = kept is None or bool(found[kept])
            whole = self._raw_row(
                facts, texts, None, Tally(amount=None, count=0), Tally(amount=None, count=0), 0, is_kept
            )
            row = [*whole[: len(names)]]
            row += [whole[max(1, len(names))]] if facts.roles.has_scenarios else []
            row += [whole[max(1, len(names)) + 1]] if facts.roles.has_dates else []
            row += [
                texts[facts.key] if is_kept or key_too else None,
                *([is_kept] if facts.filters else []),
                found[-1],
            ]
            rows.append(row)
        kinds = {"kept": "BOOLEAN", "n": "BIGINT"}
        declared = ", ".join(f"{name} {kinds.get(name, 'VARCHAR')}" for name in stored)
        self.engine.run(Query(f"CREATE TEMP TABLE {facts.rows} ({declared})"), self.name)
        values = ", ".join(f"CAST(unnest(?::VARCHAR[]) AS {kinds.get(name, 'VARCHAR')})" for name in stored)
        for start in range(0, len(rows), ROWS_AT_ONCE):
            some = zip(*rows[start : start + ROWS_AT_ONCE], strict=True)
            texts_of = tuple([None if one is None else str(one) for one in column] for column in some)
            self.engine.run(Query(f"INSERT INTO {facts.rows} SELECT {values}", texts_of), self.name)

    # What is asked besides.

    def conventions(self, facts: Facts) -> Row:  # noqa: ARG002  # figures that are no text are written in one way
        return 1, 0, 0, 0, 0, 0

    def currencies(self, facts: Facts, column: str | None) -> list[str]:
        if column is None:
            return []
        kept = self._kept(facts.filters)
        found = self._different([column])
        rows = self.store.rows(found if kept is None else found.where(kept))
        return sorted({text for row in rows if (text := as_text(row[0]))})

    def last_times(self, facts: Facts, days: int) -> list[Row]:
        from sqlalchemy import func, select

        name = facts.roles.date or ""
        text, day = self.store.text(name), func.substr(self.store.text(name), 1, 10)
        statement = select(day, func.max(func.substr(text, 12, 5))).select_from(self.store.table)
        return self.store.rows(
            statement.where(func.substr(text, 14, 1) == ":").group_by(day).order_by(day.desc()).limit(days)
        )

    def unreadable(self, facts: Facts, what: str) -> Row:
        if what == "date":
            asked = Query(
                f"SELECT date_text FROM {facts.days} WHERE day IS NULL AND trim(date_text) <> '' ORDER BY 1"
            )
            return None, facts.roles.date, self.engine.rows(asked, self.name)[0][0]
        from sqlalchemy import func, select

        names = [facts.roles.per or ""] if what == "divisor" else [one.name for one in facts.roles.amounts]
        for name in names:
            column = self.store.column(name)
            odd = column.is_not(None) & (column != "") & self.store.exact(name, 0).is_(None)
            if found := self.store.rows(select(column).select_from(self.store.table).where(odd).limit(1)):
                return None, name, found[0][0]
        raise AssertionError(f"no cell of {names} is unreadable", func)

    def values(self, column: str) -> list[str]:
        of = self.made[column].of if column in self.made else (column,)
        rows = [tuple(map(as_text, row)) for row in self.store.rows(self._different(of))]
        texts = (self.made[column].make(row) if column in self.made else row[0] for row in rows)
        return sorted({text for text in texts if text})

    def codes_not_found(self, facts: Facts) -> tuple[str, ...]:
        if self.codes is None or not facts.roles.amounts:
            return ()
        from sqlalchemy import func, select

        name, known = self.codes
        code, amount = self.store.text(name), facts.roles.amounts[0].name
        tallied = self.store.tallied(amount, self._decimals(amount), with_ends=False)
        missing = func.coalesce(func.trim(code), "").not_in(known)
        statement = select(code, *tallied).select_from(self.store.table).where(missing).group_by(code)
        found = [
            (as_text(one), self.store.tally_of(rest, amount).amount or ZERO)
            for one, *rest in self.store.rows(statement)
        ]
        if not found:
            return ()
        found.sort(key=lambda one: (-abs(one[1]), one[0] or ""))
        names = listed((f"{one or '(none)'} ({total:,})" for one, total in found), 4)
        return (f"{self.name}: the lookup has no {name} {names}",)

    def appearances(self, facts: Facts) -> Iterator[list[Row]]:
        # A table of a database has no order of its own.
        names = facts.categories()
        columns = ", ".join(f"{one} NULLS LAST" for one in names.split(", ")) if facts.roles.by else "1"
        yield self.engine.rows(
            Query(f"SELECT DISTINCT {names} FROM {facts.table} WHERE kept ORDER BY {columns}"), self.name
        )

    # Rows as they are, where they are asked for.

    def largest(
        self, facts: Facts, stretch: Stretch, names: tuple[str, ...] | None, headings: Sequence[str], most: int
    ) -> list[Row]:
        found: list[Row] = []
        for column in facts.roles.amounts:
            statement = self._rows_of(facts, column, stretch, names)
            if statement is None:
                continue
            from sqlalchemy import func

            exact = self.store.exact(column.name, self._decimals(column.name))
            size = func.abs(exact)
            for *own, amount in self.store.rows(
                statement.add_columns(exact).where(exact.is_not(None)).order_by(size.desc()).limit(most)
            ):
                texts = dict(zip(self.store.kinds, map(as_text, own), strict=True))
                whole = [self._made_of(one, texts) if one in self.made else texts[one] for one in headings]
                account = whole[headings.index(facts.roles.by[0])] if facts.has_signs else None
                found.append((0, column.name, self._counted(facts, Decimal(str(amount)), account), whole))
        return sorted(found, key=lambda row: -abs(row[2]))[:most]

    def _counted(self, facts: Facts, amount: Decimal, account: str | None) -> Decimal:
        """An amount as it counts: in money, and turned where it is stored so."""
        scaled = EXACT.scaleb(amount, facts.power)
        if facts.has_signs:
            asked = Query(f"SELECT turned FROM {quoted_name(facts.names)} WHERE name = ?", (account,))
            found = self.engine.rows(asked, self.name)
            return EXACT.minus(scaled) if found and found[0][0] else scaled
        return EXACT.minus(scaled) if facts.is_negative else scaled

    def _rows_of(
        self, facts: Facts, column: AmountColumn, stretch: Stretch, names: tuple[str, ...] | None
    ) -> Select[Any] | None:
        """The rows of a figure, every column of them; None where the column of amounts is of no part of it."""
        from sqlalchemy import func, select

        roles = facts.roles
        conditions = [one for one in (self._kept(facts.filters),) if one is not None]
        if column.scenario is not None:
            if column.scenario != stretch.scenario:
                return None
        elif roles.scenario:
            own = func.coalesce(func.trim(self.store.text(roles.scenario)), "")
            conditions.append(own == (stretch.scenario or ""))
        days = self._dates_within(facts, stretch)
        if column.period is not None and days is not None:
            if column.period not in days:
                return None
        elif roles.date and days is not None:
            conditions.append(self._is_on(roles.date, facts, days))
        for place, name in enumerate(names or ()):
            heading = roles.by[place]
            if heading == roles.headings:
                if column.category != name:
                    return None
                continue
            conditions.append(self._is_named(facts, place, heading, name))
        columns = [self.store.column(one) for one in self.store.kinds]
        return select(*columns).select_from(self.store.table).where(*conditions)

    def _dates_within(self, facts: Facts, stretch: Stretch) -> list[str] | None:
        if stretch.first is None:
            return None
        asked = Query(f"SELECT date_text FROM {facts.days} WHERE day BETWEEN ? AND ?", tuple(stretch.as_dated))
        return [str(row[0]) for row in self.engine.rows(asked, self.name)]

    def _is_on(self, date: str, facts: Facts, days: Sequence[str]) -> ColumnElement[Any]:
        if date in self.made:
            of = self.made[date].of
            rows = [tuple(map(as_text, row)) for row in self.store.rows(self._different(of))]
            return self._is_among(of, [row for row in rows if self.made[date].make(row) in days])
        if self.store.kinds[date] in (Kind.DAY, Kind.TIME):
            from datetime import date as day_of

            return self._day(date, facts).in_([day_of.fromisoformat(one) for one in days])
        return self._day(date, facts).in_(days)

    def _is_named(self, facts: Facts, place: int, heading: str, name: str) -> ColumnElement[Any]:
        """Whether a category is shown by a name: its own, or the one that a map or a statement gives it."""
        shown = {str(name): str(name)} if name else {"": ""}
        if place < facts.named:
            asked = Query(f"SELECT name, shown FROM {quoted_name(facts.names)}")
            other = {str(own): str(new) for own, new in self.engine.rows(asked, self.name) if new is not None}
            shown = {own: new for own, new in other.items() if new == name}
            if name not in other:
                shown[name] = name
        if heading in self.made:
            of = self.made[heading].of
            rows = [tuple(map(as_text, row)) for row in self.store.rows(self._different(of))]
            return self._is_among(of, [row for row in rows if (self.made[heading].make(row) or "") in shown])
        return self._is_among((heading,), [(one,) for one in shown])

    def largest_of_each(
        self,
        facts: Facts,  # noqa: ARG002
        stretches: Sequence[tuple[int, Stretch]],  # noqa: ARG002
        headings: Sequence[str],  # noqa: ARG002
        most: int,  # noqa: ARG002
    ) -> list[Row]:
        return []  # rows are shown where one figure is traced, and not for all of them

    def with_a_figure(self, facts: Facts, stretches: Sequence[Stretch]) -> int:
        from sqlalchemy import func, or_, select

        conditions = []
        for column in facts.roles.amounts:
            exact = self.store.exact(column.name, MOST_DIGITS).is_not(None)
            for one in stretches:
                statement = self._rows_of(facts, column, one, None)
                if statement is not None:
                    where = statement.whereclause
                    conditions.append(exact if where is None else exact & where)
        if not conditions:
            return 0
        asked = select(func.count()).select_from(self.store.table).where(or_(*conditions))
        return int(self.store.rows(asked)[0][0])

    def each_row(self, facts: Facts) -> Iterator[Row]:
        from sqlalchemy import literal, null, select

        roles = facts.roles
        inner, keys, kept = self._groups(facts)
        others = [one.name for one in roles.amounts] + ([roles.per] if roles.per else [])
        exact = [self.store.exact(name, self._decimals(name)) for name in others]
        key = self.store.text(facts.key) if facts.key else null()
        labelled = [one.label(f"{_GROUP}{place}") for place, one in enumerate([*inner, *exact, key])]
        for found in self.store.each(select(*labelled, literal(1)).select_from(self.store.table)):
            texts = dict(zip(keys, map(as_text, found[: len(keys)]), strict=True))
            is_kept = kept is None or bool(found[kept])
            amounts = [as_text(one) for one in found[len(inner) : len(inner) + len(exact)]]
            per = amounts.pop() if roles.per else None
            for column, amount in zip(roles.amounts or (None,), amounts or ["1"], strict=True):
                nothing = Tally(amount=None, count=0)
                row = self._raw_row(facts, texts, column, nothing, nothing, 1, is_kept)
                size = max(1, len(roles.by))
                yield (*row[:size], None, *row[size : size + 3], amount, per, as_text(found[-2]))


def _decimals_of(amount: Decimal | None) -> int:
    """How many decimals an amount is written with."""
    return 0 if amount is None else max(0, -int(amount.as_tuple().exponent))


def _like(pattern: str) -> str:
    """A pattern in which only `*` stands for any text, as LIKE has it."""
    escaped = "".join(f"!{sign}" if sign in "!%_" else sign for sign in pattern)
    return escaped.replace("*", "%")


def stored_rows(
    store: Store, asked: AskedOfSource, lookup: SourceFile | None, engine: Engine, name: str, gathered: Gathered
) -> tuple[StoredRows, tuple[str, ...], ColumnsAsked]:
    """The rows of a store, its headings with those of columns that are made of others, and what is asked by them.

    Raises Mistake where an amount would be worked out row by row.
    """
    headings, columns = tuple(store.kinds), asked.columns
    for amount in columns.amounts:
        if is_expression(amount, headings):
            raise Mistake(
                f"{name}: {setting('amount')} '{amount}' would be worked out row by row",
                f"Work it out in a query, and name that with {setting('query', 'FILE.sql')}.",
            )
    made: dict[str, Made] = {}
    codes = None
    if lookup is not None:
        joined = lookup_of(headings, lookup, asked.lookup_column, engine, name)
        texts = ", ".join(f"trim(CAST({quoted_name(one)} AS VARCHAR))" for one in (joined.key, *joined.added))
        table = engine.rows(Query(f"SELECT {texts} FROM {lookup.relation()}"), lookup.name)
        codes = joined.code, frozenset(str(row[0]) for row in table if row[0])
        for place, heading in enumerate(joined.added, 1):
            made[heading] = Made(of=(joined.code,), make=_LookedUp({row[0]: row[place] for row in table}))
    parts = date_parts(headings, columns, name)
    if parts is not None:
        heading = f"{parts[0]} and {parts[1]}"
        made[heading] = Made(of=parts, make=partial(_period, parts[1].casefold() == "quarter"))
        columns = replace(columns, date=heading)
    return StoredRows(store, engine, name, gathered, made, codes), (*headings, *made), columns


@dataclass(frozen=True, slots=True)
class _LookedUp:
    """What a lookup has for a code."""

    known: Mapping[str | None, str | None]

    def __call__(self, texts: tuple[str | None, ...]) -> str | None:
        return self.known.get((texts[0] or "").strip()) or None


def _period(is_quarter: bool, texts: tuple[str | None, ...]) -> str | None:
    """A year and a month or a quarter as one text."""
    year, period = texts
    if year is None or period is None:
        return None
    if not (period.isdecimal() and len(period) < 3):
        return f"{year} {period}"
    return f"{year}-Q{period}" if is_quarter else f"{year}-{period.zfill(2)}"
