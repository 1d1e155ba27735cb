"""What is in doubt of the rows and columns of a source once it is read: it stands under whatever shows its figures."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace

from marvex.core.compare.reservation import Reservation
from marvex.core.errors import listed, setting
from marvex.core.time.calendar import CIVIL
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.doubtful_rows import (
    digits_lost,
    holds_not_found,
    in_several_files,
    lines_twice,
    loaded_twice,
    not_available,
    signed_apart,
    void_rows,
)
from marvex.sources.engine.figure_columns import Table, readings
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.query import Query
from marvex.sources.engine.reading_checks import beside_the_periods
from marvex.sources.engine.source import Source
from marvex.sources.engine.source_units import CURRENCY_NAMES
from marvex.sources.period_words import span_said
from marvex.sources.quoting import quoted_name
from marvex.sources.where import filter_text
from marvex.sources.years_said import YEAR

_MOST_NUMBERS = 8  # columns that may number documents


def with_doubts(source: Source, typed: Collection[str], gathered: Gathered, engine: Engine) -> Source:
    """The source with what is in doubt of it, and what was not looked into.

    Parameters
    ----------
    typed : the columns that are no text.
    gathered : what is kept of it for other requests.
    """
    kept = [row for row in source.sample if all(one.keeps_row(row, source.headings) for one in source.filters)]
    found = [*_of_no_period(source, typed, engine), *void_rows(source.headings, source.values, source.filters)]
    if source.file.store is None:
        amounts = [one.name for one in source.roles.amounts if one.name not in typed]
        if source.are_few or any(
            holds_not_found(source.first_values(one)) for one in amounts if one in source.headings
        ):
            found += not_available(source.facts, amounts, engine, source.name)
    found += _of_no_currency(source, kept)
    found += _of_titles(source)
    found += lines_twice(kept) if source.roles.each_row else ()
    found += digits_lost(source.headings, source.sample, typed)
    said = source.own_said
    if source.are_few:
        found += _twice(source, gathered, engine)
    else:
        told = "rows say the same twice was asked of names alone, not of figures"
        said += (f"whether its {source.rows_read:,} {told}",)
    reservations = (*source.reservations, *(replace(one, source=source.name) for one in found))
    return replace(source, reservations=reservations, own_said=said)


def _of_no_currency(source: Source, kept: Sequence[Sequence[str | None]]) -> Iterator[Reservation]:
    """That rows say no currency beside others that say one, and are added up with them.

    Parameters
    ----------
    kept : its first rows that pass its filters; of all rows it is told where it has none.
    """
    column = next((one for one in source.headings if one.casefold() in CURRENCY_NAMES), None)
    if column is None or source.roles.each_row or any(one.column == column for one in source.filters):
        return
    place = source.headings.index(column)
    texts = {(row[place] or "").strip() for row in kept} if source.filters else {*source.values(column)}
    if "" in texts and len(texts) > 1:
        said = sorted(texts - {""})
        yield Reservation(
            what=f"rows without a {column} count with those of {listed(said, 3)}",
            mend=f"{setting('where', filter_text(column, '=', said))} keeps those that say one",
        )


def _of_titles(source: Source) -> Iterator[Reservation]:
    """What a title says of the span of columns that are called by their years alone."""
    periods = [one.period or "" for one in source.roles.amounts]
    if not periods or not all(map(YEAR.fullmatch, periods)) or source.asked.calendar != CIVIL:
        return
    for said in filter(None, map(span_said, source.file.titles)):
        yield Reservation(what=f"the title says '{said}', and the columns are shown as the years that they name")


def _of_no_period(source: Source, typed: Collection[str], engine: Engine) -> Iterator[Reservation]:
    """The columns of amounts that a year holds beside its periods across, with what each comes to."""
    roles = source.roles
    if source.file.store is not None or source.asked.columns.amounts or not roles.amounts:
        return
    names = beside_the_periods(source.columns, roles, source.file.parts_across)
    relation = source.facts.relation
    table = Table(relation, engine, source.name, source.asked.numbers, source.file.shown)
    beside = [one.name for one in roles.amounts if one.name not in typed]
    for name, reading in readings(table, names, beside).items() if names else ():
        amount = reading.amount(f"CAST({quoted_name(name)} AS VARCHAR)")
        found = engine.rows(Query(f"SELECT sum({amount}) FROM {relation}"), source.name)[0][0]
        yield Reservation(what=f"{name} is of none of the periods and not counted: {found or 0} in all")


def _twice(source: Source, gathered: Gathered, engine: Engine) -> Iterator[Reservation]:
    """What stands in the source twice, or in several of its files, and files that are signed the other way round."""
    facts, headings, roles, name = source.facts, source.headings, source.roles, source.name
    if files := [one.name for one in source.file.parts]:
        of = "files", facts.relation, headings
        yield from gathered.once(of, lambda: in_several_files(facts, headings, files, engine, name))
        if len(roles.amounts) == 1:
            yield from signed_apart(facts, files, engine, name)
    if source.file.store is None and not roles.is_wide:
        key = "twice", facts.relation, headings, roles.date
        others = roles.taken
        numbered = [one for one in source.columns if one.name not in others and one.distinct > one.filled / 2]
        # Of what numbers the rows none is alike; each column that is counted costs the engine a join.
        numbers = [one.name for one in sorted(numbered, key=lambda one: -one.distinct)[:_MOST_NUMBERS]]
        yield from gathered.once(key, lambda: loaded_twice(facts, headings, numbers, engine, name))
