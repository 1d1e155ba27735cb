"""The rows of a table that a database or a cluster has: it adds them up itself, and nothing but facts comes back."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from marvex.core.compare.point import NO_NAME
from marvex.core.compare.side import Stretch
from marvex.core.errors import listed
from marvex.core.exact import EXACT, ZERO
from marvex.sources import cells
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.columns import Column
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.query import Query
from marvex.sources.engine.rows import Row
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.engine.stored_behind import RowsBehind
from marvex.sources.engine.stored_columns import StoredColumns
from marvex.sources.expression import DIVISION_BY_ZERO
from marvex.sources.readers.store import Tally, as_sent, as_text
from marvex.sources.wide import AmountColumn

if TYPE_CHECKING:
    from sqlalchemy import ColumnElement

ROWS_AT_ONCE = 50_000
_GROUP = "\u2060group "  # of a name that no column has


@dataclass(slots=True, eq=False)
class StoredRows:
    """The rows of a table of a store."""

    columns: StoredColumns
    engine: Engine
    name: str
    gathered: Gathered
    _facts: dict[tuple[Any, ...], list[Row]] = field(default_factory=dict)

    @property
    def row_column(self) -> str | None:
        return None

    def sample(self, headings: Sequence[str], most: int) -> Sequence[Sequence[str | None]]:
        own = list(self.columns.store.kinds)
        rows = []
        for row in self.columns.store.first[:most]:
            texts = dict(zip(own, map(as_text, row), strict=True))
            rows.append(
                [self.columns.made_of(one, texts) if one in self.columns.made else texts[one] for one in headings]
            )
        return rows

    # What a survey asks.

    @property
    def count(self) -> int:
        """How many rows there are."""
        from sqlalchemy import func, select

        return int(self.columns.store.rows(select(func.count()).select_from(self.columns.store.table))[0][0])

    def counted(self, heading: str) -> tuple[int, int]:
        """How many cells of a column say something, and how many different ones there are."""
        from sqlalchemy import func, select

        if heading in self.columns.made:
            return self.count, sum(one != "" for one in self.values(heading))
        text = func.trim(self.columns.store.text(heading))
        filled = (
            select(func.count()).select_from(self.columns.store.table).where(func.lower(text).not_in(cells.ABSENT))
        )
        different = select(func.count(func.distinct(text))).select_from(self.columns.store.table)
        return int(self.columns.store.rows(filled)[0][0]), int(self.columns.store.rows(different)[0][0])

    def sizes(
        self, heading: str, facts: Facts, scenario: str | None, among: Sequence[str]
    ) -> list[tuple[str | None, int, Decimal | None]]:
        """Each value of a column with its rows and its amounts, of some scenarios only where that is said."""
        from sqlalchemy import func, select

        of = self.columns.columns_of([heading])
        names = [one.name for one in facts.roles.amounts]
        tallied = [
            (name, self.columns.store.tallied(name, self.columns.decimals(name), with_ends=False)) for name in names
        ]
        labelled = [self.columns.store.text(one).label(f"{_GROUP}{place}") for place, one in enumerate(of)]
        figures = [expression for _, some in tallied for expression in some]
        statement = select(*labelled, func.count(), *figures).select_from(self.columns.store.table)
        if scenario is not None:
            statement = statement.where(func.trim(self.columns.store.text(scenario)).in_(among))
        found: dict[str | None, tuple[int, Decimal | None]] = {}
        for row in self.columns.store.rows(statement.group_by(*(one.name for one in labelled))):
            texts = dict(zip(of, map(as_text, row[: len(of)]), strict=True))
            label = self.columns.made_of(heading, texts) if heading in self.columns.made else texts[heading]
            rest, (count, amount) = list(row[len(of) + 1 :]), found.get(label, (0, None))
            for name, some in tallied:
                own = self.columns.store.tally_of(rest[: len(some)], name).amount
                amount = own if amount is None else EXACT.add(amount, own or ZERO)
                del rest[: len(some)]
            found[label] = count + int(row[len(of)]), amount
        return [(label, count, amount) for label, (count, amount) in found.items()]

    # What makes the facts.

    def create_raw(self, facts: Facts, asked: AskedOfSource, columns: Sequence[Column]) -> None:
        gathered = self.gathered.raw_of(facts, asked, columns, self.create_table)
        if facts.key or gathered:
            self.engine.run(gathered or facts.create_raw(), self.name)
        else:
            self._fetch(facts, "raw", kind="TEMP TABLE")

    def create_table(self, facts: Facts, table: str) -> None:
        self._fetch(facts, table, kind="TABLE")

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
        self.columns.check_figures(
            [*(one.name for one in roles.amounts), *([roles.per] if roles.per else [])], self.name
        )
        inner, keys, kept = self._groups(facts)
        tallied = [
            (name, self.columns.store.tallied(name, self.columns.decimals(name), with_ends=facts.has_ends))
            for name in (*(one.name for one in roles.amounts), *([roles.per] if roles.per else []))
        ]
        figures = [expression for _, some in tallied for expression in some]
        labelled = [one.label(f"{_GROUP}{place}") for place, one in enumerate(inner)]
        statement = (
            select(*labelled, func.count(), *figures)
            .select_from(self.columns.store.table)
            .group_by(*(one.name for one in labelled))
        )
        rows = []
        for found in self.columns.store.rows(statement.group_by(*(one.name for one in labelled))):
            texts = dict(zip(keys, map(as_text, found[: len(keys)]), strict=True))
            is_kept = kept is None or bool(found[kept])
            count, rest = int(found[len(labelled)]), list(found[len(labelled) + 1 :])
            tallies = []
            for name, some in tallied:
                tallies.append(self.columns.store.tally_of(rest[: len(some)], name))
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
            return self.columns.made_of(heading, texts) if heading in self.columns.made else texts[heading]

        names = [
            (column.category if heading == roles.headings and column else text(heading)) if is_kept else None
            for heading in roles.by
        ] or [None]
        scenario = (column.scenario if column else None) or (text(roles.scenario) if roles.scenario else None)
        date = (column.period if column else None) or (text(roles.date) if roles.date else None)
        if date is not None and facts.has_times and roles.date in self.columns.store.kinds:
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
        kept = self.columns.kept(facts.filters)
        of_names = self.columns.columns_of(
            [one for one in roles.by if one != roles.headings] + ([key] if key else [])
        )
        of_others = self.columns.columns_of([one for one in (roles.scenario, roles.date) if one])
        found: dict[str, ColumnElement[Any]] = {}
        for name in of_names:
            text = self.columns.store.grouped(name)
            # Rows that are not kept say only how far the data go.
            found[name] = text if kept is None or name in of_others else case((kept, text))
        for name in of_others:
            found[name] = self.columns.day(name, facts) if name == roles.date else self.columns.store.grouped(name)
        groups = list(found.values())
        if kept is None:
            return groups, list(found), None
        return [*groups, case((kept, 1), else_=0)], list(found), len(groups)

    def create_rows(self, facts: Facts) -> None:
        """The table of keys: each different one of a category, scenario and day once, with how often it is there."""
        from sqlalchemy import func, select

        assert facts.key is not None
        inner, keys, kept = self._groups(facts, facts.key)
        key_too = facts.key in (facts.roles.scenario, facts.roles.date)
        labelled = [one.label(f"{_GROUP}{place}") for place, one in enumerate(inner)]
        statement = select(*labelled, func.count()).select_from(self.columns.store.table)
        names = [f"c{place}" for place in range(len(facts.roles.by))]
        stored = [*names, *(["scenario_text"] if facts.roles.has_scenarios else [])]
        stored += [
            *(["date_text"] if facts.roles.has_dates else []),
            "key",
            *(["kept"] if facts.filters else []),
            "n",
        ]
        rows = []
        for found in self.columns.store.rows(statement.group_by(*(one.name for one in labelled))):
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
        kept = self.columns.kept(facts.filters)
        found = self.columns.different([column])
        rows = self.columns.store.rows(found if kept is None else found.where(kept))
        return sorted({text for row in rows if (text := as_text(row[0]))})

    def met(self, facts: Facts) -> list[Row]:
        found: dict[Row, tuple[bool, Decimal]] = {}
        for name, scenario, date, is_kept, amount, highest, lowest, _, figures, *_ in self._raw_rows(facts):
            if is_kept and figures:
                of = (name or "").strip(), (scenario or "").strip() or None, date
                was_zero, so_far = found.get(of, (True, ZERO))
                found[of] = was_zero and highest == lowest == 0, EXACT.add(so_far, amount or ZERO)
        return [(*of, *rest) for of, rest in found.items()]

    def last_times(self, facts: Facts, days: int) -> list[Row]:
        from sqlalchemy import func, select

        name = facts.roles.date or ""
        text, day = self.columns.store.text(name), func.substr(self.columns.store.text(name), 1, 10)
        statement = select(day, func.max(func.substr(text, 12, 5))).select_from(self.columns.store.table)
        return self.columns.store.rows(
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
            if name in self.columns.store.odd:
                return None, name, DIVISION_BY_ZERO
            column = self.columns.store.column(name)
            odd = column.is_not(None) & (column != "") & self.columns.store.exact(name, 0).is_(None)
            if found := self.columns.store.rows(
                select(column).select_from(self.columns.store.table).where(odd).limit(1)
            ):
                return None, name, found[0][0]
        raise AssertionError(f"no cell of {names} is unreadable", func)

    def codes_not_found(self, facts: Facts) -> tuple[str, ...]:
        if self.columns.codes is None or not facts.roles.amounts:
            return ()
        from sqlalchemy import func, select

        name, known = self.columns.codes
        code, amount = self.columns.store.text(name), facts.roles.amounts[0].name
        tallied = self.columns.store.tallied(amount, self.columns.decimals(amount), with_ends=False)
        missing = func.coalesce(func.trim(code), "").not_in(known)
        statement = select(code, *tallied).select_from(self.columns.store.table).where(missing).group_by(code)
        found = [
            (as_text(one), self.columns.store.tally_of(rest, amount).amount or ZERO)
            for one, *rest in self.columns.store.rows(statement)
        ]
        if not found:
            return ()
        found.sort(key=lambda one: (-abs(one[1]), one[0] or ""))
        names = listed((f"{one or NO_NAME} ({total:,})" for one, total in found), 4)
        return (f"{self.name}: the lookup has no {name} {names}",)

    def appearances(self, facts: Facts) -> Iterator[list[Row]]:
        # A table of a database has no order of its own.
        names = facts.categories()
        asked = f"SELECT DISTINCT {names} FROM {facts.table} WHERE kept ORDER BY ALL"
        yield self.engine.rows(Query(asked), self.name)

    def largest(
        self, facts: Facts, stretch: Stretch, names: tuple[str, ...] | None, headings: Sequence[str], most: int
    ) -> list[Row]:
        return self._behind.largest(facts, stretch, names, headings, most)

    def with_a_figure(self, facts: Facts, stretches: Sequence[Stretch]) -> int:
        return self._behind.with_a_figure(facts, stretches)

    @property
    def _behind(self) -> RowsBehind:
        return RowsBehind(self.columns, self.engine, self.name)

    def values(self, column: str) -> list[str]:
        return self.columns.values(column)

    def largest_of_each(
        self,
        facts: Facts,  # noqa: ARG002
        stretches: Sequence[tuple[int, Stretch]],  # noqa: ARG002
        headings: Sequence[str],  # noqa: ARG002
        most: int,  # noqa: ARG002
    ) -> list[Row]:
        return []  # rows are shown where one figure is traced, and not for all of them

    def each_row(self, facts: Facts) -> Iterator[Row]:
        from sqlalchemy import literal, null, select

        roles = facts.roles
        inner, keys, kept = self._groups(facts)
        others = [one.name for one in roles.amounts] + ([roles.per] if roles.per else [])
        exact = [as_sent(self.columns.store.exact(name, self.columns.decimals(name))) for name in others]
        key = self.columns.store.text(facts.key) if facts.key else null()
        labelled = [one.label(f"{_GROUP}{place}") for place, one in enumerate([*inner, *exact, key])]
        for found in self.columns.store.each(select(*labelled, literal(1)).select_from(self.columns.store.table)):
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
