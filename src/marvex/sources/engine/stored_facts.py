"""What a database or a cluster has added up of its table, taken into the engine as the facts of a source."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import field
from decimal import Decimal
from itertools import islice
from typing import TYPE_CHECKING, Any

from marvex.core.values import dataclass
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query
from marvex.sources.engine.rows import Row
from marvex.sources.engine.stored_columns import StoredColumns
from marvex.sources.readers.store import NOTHING, Tally, as_sent, as_text
from marvex.sources.wide import AmountColumn

if TYPE_CHECKING:
    from sqlalchemy import ColumnElement

ROWS_AT_ONCE = 50_000
_GROUP = "\u2060group "  # of a name that no column has
_Texts = Sequence[str | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Groups:
    """How rows are grouped.

    Parameters
    ----------
    by : with the columns that each is made of, of the same number but for what says whether rows are kept.
    """

    by: Sequence[ColumnElement[Any]]
    columns: Sequence[str]
    says_kept: bool


@dataclass(slots=True, eq=False)
class StoredFacts:
    """The facts of a store; it is asked for each set of them once."""

    columns: StoredColumns
    engine: Engine
    name: str
    _tables: dict[tuple[Any, ...], str] = field(default_factory=dict)

    def create(self, facts: Facts, table: str, *, kind: str = "TEMP TABLE") -> None:
        """Creates a table as `Facts.raw` describes it."""
        decimals, of_per = facts.reading.decimals, facts.per_reading.decimals
        exact = ", ".join(
            f"CAST({name} AS DECIMAL({MOST_DIGITS}, {places})) AS {name}"
            for name, places in (("amount", decimals), ("highest", decimals), ("lowest", decimals), ("per", of_per))
        )
        self.engine.run(
            Query(
                f"""CREATE OR REPLACE {kind} {table} AS SELECT * REPLACE ({exact}),
                {_decimals("amount")} AS decimals, {_decimals("per")} AS per_decimals,
                NULL::BIGINT AS row, NULL::BIGINT AS first_row, false AS doubtful FROM {self._added_up(facts)}"""
            ),
            self.name,
        )

    def create_rows(self, facts: Facts) -> None:
        """Creates the table of keys: each different one of a category, scenario and day, with how often it is there."""
        from sqlalchemy import func

        assert facts.key is not None
        groups = self._groups(facts, facts.key)
        found = self._asked(groups, [func.count()])
        texts, kept = self._texts(groups, found)
        names, scenario, date = self._named(facts, texts, kept, None)
        key = texts[facts.key]
        if facts.key not in (facts.roles.scenario, facts.roles.date):
            key = [one if is_kept else None for one, is_kept in zip(key, kept, strict=True)]
        roles = facts.roles
        self._take(
            facts.rows,
            {
                **(_numbered(names) if roles.by else {}),
                **({"scenario_text": scenario} if roles.has_scenarios else {}),
                **({"date_text": date} if roles.has_dates else {}),
                "key": key,
            },
            {**({"kept": kept} if facts.filters else {}), "n": [int(one) for one in found[-1]]},
        )

    def each_row(self, facts: Facts) -> Iterator[Row]:
        """Each amount by itself: its categories, row, scenario, date, whether it is kept, the figures and the key."""
        from sqlalchemy import literal, null

        roles = facts.roles
        groups = self._groups(facts)
        others = [one.name for one in roles.amounts] + ([roles.per] if roles.per else [])
        store = self.columns.store
        exact = [as_sent(store.exact(name, self.columns.decimals(name))) for name in others]
        key = store.text(facts.key) if facts.key else null()
        answer = store.each(self._selected([*groups.by, *exact, key], [literal(1)]))
        while some := list(islice(answer, ROWS_AT_ONCE)):
            found = list(zip(*some, strict=True))
            texts, kept = self._texts(groups, found)
            figures = [list(map(as_text, one)) for one in found[len(groups.by) : -2]]
            keys: _Texts = list(map(as_text, found[-2]))
            per: _Texts = figures.pop() if roles.per else [None] * len(kept)
            for column, amounts in zip(roles.amounts or (None,), figures or [["1"] * len(kept)], strict=True):
                names, scenario, date = self._named(facts, texts, kept, column)
                nothing = [None] * len(kept)
                yield from zip(*names, nothing, scenario, date, kept, amounts, per, keys, strict=True)

    def _added_up(self, facts: Facts) -> str:
        """The table of what the store has added up, one row a group and column of amounts; its figures are texts."""
        told_apart = (facts.roles.by, facts.roles.amounts, facts.filters, facts.has_ends)
        if told_apart not in self._tables:
            table = f"added_up_{facts.place}_{len(self._tables)}"
            self._take_groups(facts, table)
            self._tables[told_apart] = table
        return self._tables[told_apart]

    def _take_groups(self, facts: Facts, table: str) -> None:
        from sqlalchemy import func

        roles, store = facts.roles, self.columns.store
        figured = [*(one.name for one in roles.amounts), *([roles.per] if roles.per else [])]
        self.columns.check_figures(figured, self.name)
        groups = self._groups(facts)
        tallied = [store.tallied(one, self.columns.decimals(one), with_ends=facts.has_ends) for one in figured]
        found = self._asked(groups, [func.count(), *(one for some in tallied for one in some)])
        texts, kept = self._texts(groups, found)
        counts, rest = [int(one) for one in found[len(groups.by)]], found[len(groups.by) + 1 :]
        tallies: list[list[Tally]] = []
        for name, some in zip(figured, tallied, strict=True):
            own, rest = rest[: len(some)], rest[len(some) :]
            tallies.append([store.tally_of(one, name) for one in zip(*own, strict=True)])
        per = tallies.pop() if roles.per else [NOTHING] * len(counts)
        if not roles.amounts:
            tallies = [[Tally(amount=None, figures=one) for one in counts]]
        texts_of: dict[str, list[str | None]] = {}
        others: dict[str, list[Any]] = {}
        for column, of in zip(roles.amounts or (None,), tallies, strict=True):
            names, scenario, date = self._named(facts, texts, kept, column)
            made = {
                **_numbered(names),
                "scenario_text": scenario,
                "date_text": date,
                "amount": list(map(str, counts)) if column is None else [_written(one.amount) for one in of],
                "highest": [_written(one.highest) for one in of],
                "lowest": [_written(one.lowest) for one in of],
                "per": [_written(one.amount) for one in per],
            }
            for name, values in made.items():
                texts_of.setdefault(name, []).extend(values)
            counted: dict[str, list[Any]] = {
                "kept": kept,
                "figures": [one.figures for one in of],
                "rows": counts,
                "unread": [one.unread * is_kept for one, is_kept in zip(of, kept, strict=True)],
                "per_unread": [one.unread * is_kept for one, is_kept in zip(per, kept, strict=True)],
            }
            for name, numbers in counted.items():
                others.setdefault(name, []).extend(numbers)
        self._take(table, texts_of, others)

    def _take(self, table: str, texts: Mapping[str, _Texts], others: Mapping[str, Sequence[Any]]) -> None:
        """Puts columns of texts, and others of numbers or of yes and no, into a table of the engine."""
        import numpy as np

        arrays = {name: np.array(values, dtype=object) for name, values in texts.items()}
        for name, values in others.items():
            arrays[name] = np.array(values, dtype=bool if name == "kept" else np.int64)
        declared = [f"CAST({name} AS VARCHAR) AS {name}" for name in texts]
        self.engine.take(table, arrays, ", ".join((*declared, *others)), self.name)

    def _groups(self, facts: Facts, key: str | None = None) -> _Groups:
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
        says_kept = [] if kept is None else [case((kept, 1), else_=0)]
        return _Groups(by=[*found.values(), *says_kept], columns=list(found), says_kept=kept is not None)

    def _selected(self, by: Sequence[ColumnElement[Any]], others: Sequence[ColumnElement[Any]]) -> Any:
        from sqlalchemy import select

        labelled = [one.label(f"{_GROUP}{place}") for place, one in enumerate(by)]
        return select(*labelled, *others).select_from(self.columns.store.table)

    def _asked(self, groups: _Groups, figures: Sequence[ColumnElement[Any]]) -> list[Sequence[Any]]:
        """What the store says of each group, column by column."""
        statement = self._selected(groups.by, figures)
        statement = statement.group_by(*(f"{_GROUP}{place}" for place in range(len(groups.by))))
        rows = self.columns.store.rows(statement)
        return list(zip(*rows, strict=True)) if rows else [()] * (len(groups.by) + len(figures))

    def _texts(self, groups: _Groups, found: Sequence[Sequence[Any]]) -> tuple[dict[str, _Texts], list[bool]]:
        """The texts of each column that rows are grouped by, and whether the rows of each group are kept."""
        texts: dict[str, _Texts] = {
            name: list(map(as_text, values)) for name, values in zip(groups.columns, found, strict=False)
        }
        size = len(found[-1])
        return texts, list(map(bool, found[len(groups.columns)])) if groups.says_kept else [True] * size

    def _named(
        self, facts: Facts, texts: Mapping[str, _Texts], kept: Sequence[bool], column: AmountColumn | None
    ) -> tuple[list[_Texts], _Texts, _Texts]:
        """The names of the categories, the scenario and the date of some rows, each in step with them."""
        roles, nothing = facts.roles, [None] * len(kept)
        names: list[_Texts] = []
        for heading in roles.by:
            is_said = column is not None and heading == roles.headings
            own = [column.category] * len(kept) if column and is_said else self._made(heading, texts)
            names.append([one if is_kept else None for one, is_kept in zip(own, kept, strict=True)])
        scenario: _Texts = self._made(roles.scenario, texts) if roles.scenario else nothing
        if roles.unnamed:
            scenario = [one if one and one.strip() else roles.unnamed for one in scenario]
        date: _Texts = self._made(roles.date, texts) if roles.date else nothing
        if column is not None and column.scenario:
            scenario = [column.scenario] * len(kept)
        if column is not None and column.period:
            date = [column.period] * len(kept)
        elif facts.has_times and roles.date in self.columns.store.kinds:
            date = [one and one[:10] for one in date]
        return names or [nothing], scenario, date

    def _made(self, heading: str, texts: Mapping[str, _Texts]) -> _Texts:
        if heading not in self.columns.made:
            return texts[heading]
        made = self.columns.made[heading]
        of: list[tuple[str | None, ...]] = list(zip(*(texts[one] for one in made.of), strict=True))
        known = {one: made.make(one) for one in set(of)}
        return [known[one] for one in of]


def _numbered(names: Sequence[_Texts]) -> dict[str, _Texts]:
    """The columns of categories, as facts call them."""
    return {f"c{place}": column for place, column in enumerate(names)}


def _written(amount: Decimal | None) -> str | None:
    return None if amount is None else f"{amount:f}"


def _decimals(column: str) -> str:
    """How many decimals the texts of a column are written with."""
    return f"CASE WHEN strpos({column}, '.') > 0 THEN length({column}) - strpos({column}, '.') ELSE 0 END"
