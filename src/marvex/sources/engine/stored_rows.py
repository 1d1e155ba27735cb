"""The rows of a table that a database or a cluster has: it adds them up itself, and nothing but facts comes back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import field
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import NO_NAME
from marvex.core.compare.side import Stretch
from marvex.core.errors import listed
from marvex.core.exact import EXACT, ZERO
from marvex.core.values import dataclass
from marvex.sources import cells
from marvex.sources.columns import Column
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts, met_in
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.query import Query
from marvex.sources.engine.rows import Row
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.engine.stored_behind import RowsBehind
from marvex.sources.engine.stored_columns import StoredColumns
from marvex.sources.engine.stored_facts import StoredFacts
from marvex.sources.expression import DIVISION_BY_ZERO
from marvex.sources.readers.store import as_text

if TYPE_CHECKING:
    pass

_GROUP = "\u2060group "  # of a name that no column has


@dataclass(slots=True, eq=False)
class StoredRows:
    """The rows of a table of a store."""

    columns: StoredColumns
    engine: Engine
    name: str
    gathered: Gathered
    _facts: StoredFacts = field(init=False)

    def __post_init__(self) -> None:
        self._facts = StoredFacts(self.columns, self.engine, self.name)

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
            self._facts.create(facts, "raw")

    def create_table(self, facts: Facts, table: str) -> None:
        self._facts.create(facts, table, kind="TABLE")

    def create_rows(self, facts: Facts) -> None:
        self._facts.create_rows(facts)

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
        self._facts.create(facts, "met")
        return self.engine.rows(met_in("met", facts.scenario), self.name)

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

    def other_than(self, value: str, column: str, most: int) -> list[str]:
        return self.columns.other_than(value, column, most)

    def largest_of_each(
        self,
        facts: Facts,  # noqa: ARG002
        stretches: Sequence[tuple[int, Stretch]],  # noqa: ARG002
        headings: Sequence[str],  # noqa: ARG002
        most: int,  # noqa: ARG002
    ) -> list[Row]:
        return []  # rows are shown where one figure is traced, and not for all of them

    def each_row(self, facts: Facts) -> Iterator[Row]:
        return self._facts.each_row(facts)
