"""The rows behind figures, of a table that a database or a cluster has: the largest of them, and how many they are."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from marvex.core.compare.side import Stretch
from marvex.core.exact import EXACT
from marvex.core.values import dataclass
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query
from marvex.sources.engine.stored_columns import StoredColumns
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.store import Kind, as_sent, as_text
from marvex.sources.wide import AmountColumn

if TYPE_CHECKING:
    from sqlalchemy import ColumnElement, Select

Row = tuple[Any, ...]


@dataclass(frozen=True, slots=True, eq=False)
class RowsBehind:
    """What is asked of the rows of a table as they are."""

    columns: StoredColumns
    engine: Engine
    name: str

    def largest(
        self, facts: Facts, stretch: Stretch, names: tuple[str, ...] | None, headings: Sequence[str], most: int
    ) -> list[Row]:
        found: list[Row] = []
        for column in facts.roles.amounts:
            statement = self._rows_of(facts, column, stretch, names)
            if statement is None:
                continue
            from sqlalchemy import func

            exact = self.columns.store.exact(column.name, self.columns.decimals(column.name))
            size = func.abs(exact)
            for *own, amount in self.columns.store.rows(
                statement.add_columns(as_sent(exact)).where(exact.is_not(None)).order_by(size.desc()).limit(most)
            ):
                texts = dict(zip(self.columns.store.kinds, map(as_text, own), strict=True))
                whole = [
                    self.columns.made_of(one, texts) if one in self.columns.made else texts[one] for one in headings
                ]
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
        conditions = [one for one in (self.columns.kept(facts.filters),) if one is not None]
        if column.scenario is not None:
            if column.scenario not in (facts.held_as or (stretch.scenario,)):
                return None
        elif roles.scenario:
            own = func.coalesce(func.trim(self.columns.store.text(roles.scenario)), "")
            named = [
                *(facts.held_as or (stretch.scenario or "",)),
                *([""] if stretch.scenario == roles.unnamed else []),
            ]
            conditions.append(own.in_(named))
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
        columns = [self.columns.store.column(one) for one in self.columns.store.kinds]
        return select(*columns).select_from(self.columns.store.table).where(*conditions)

    def _dates_within(self, facts: Facts, stretch: Stretch) -> list[str] | None:
        if stretch.first is None:
            return None
        asked = Query(f"SELECT date_text FROM {facts.days} WHERE day BETWEEN ? AND ?", tuple(stretch.as_dated))
        return [str(row[0]) for row in self.engine.rows(asked, self.name)]

    def _is_on(self, date: str, facts: Facts, days: Sequence[str]) -> ColumnElement[Any]:
        if date in self.columns.made:
            of = self.columns.made[date].of
            rows = [tuple(map(as_text, row)) for row in self.columns.store.rows(self.columns.different(of))]
            return self.columns.is_among(of, [row for row in rows if self.columns.made[date].make(row) in days])
        if self.columns.store.kinds[date] in (Kind.DAY, Kind.TIME):
            from datetime import date as day_of

            return self.columns.day(date, facts).in_([day_of.fromisoformat(one) for one in days])
        return self.columns.day(date, facts).in_(days)

    def _is_named(self, facts: Facts, place: int, heading: str, name: str) -> ColumnElement[Any]:
        """Whether a category is shown by a name: its own, or the one that a map or a statement gives it."""
        shown = {str(name): str(name)} if name else {"": ""}
        if place < facts.named:
            asked = Query(f"SELECT name, shown FROM {quoted_name(facts.names)}")
            other = {str(own): str(new) for own, new in self.engine.rows(asked, self.name) if new is not None}
            shown = {own: new for own, new in other.items() if new == name}
            if name not in other:
                shown[name] = name
        if heading in self.columns.made:
            of = self.columns.made[heading].of
            rows = [tuple(map(as_text, row)) for row in self.columns.store.rows(self.columns.different(of))]
            return self.columns.is_among(
                of, [row for row in rows if (self.columns.made[heading].make(row) or "") in shown]
            )
        return self.columns.is_among((heading,), [(one,) for one in shown])

    def with_a_figure(self, facts: Facts, stretches: Sequence[Stretch]) -> int:
        from sqlalchemy import func, or_, select

        conditions = []
        for column in facts.roles.amounts:
            exact = self.columns.store.exact(column.name, MOST_DIGITS).is_not(None)
            for one in stretches:
                statement = self._rows_of(facts, column, one, None)
                if statement is not None:
                    where = statement.whereclause
                    conditions.append(exact if where is None else exact & where)
        if not conditions:
            return 0
        asked = select(func.count()).select_from(self.columns.store.table).where(or_(*conditions))
        return int(self.columns.store.rows(asked)[0][0])
