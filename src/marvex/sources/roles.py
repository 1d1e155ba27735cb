"""Which column plays which role: as named by an option, or worked out from names and values.

A heading may itself be a period, a scenario, both ("Jan 2026 Budget") or a category: the table is
then wide, and each such column is an `AmountColumn` that knows what its heading says. Where two
readings serve equally the analyst is asked; nothing is guessed.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from marvex.core.compare.scenario_words import ABBREVIATIONS, PLANNED_WORDS, are_versions, version_said
from marvex.core.compare.scenarios import unnamed
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.structure.amount_names import adds_up
from marvex.core.structure.aspect_names import same_numbers_across
from marvex.core.structure.cost_names import speaks_of_money, unlike_measures
from marvex.core.structure.opposite_names import DEBITS_AND_CREDITS, IN_AND_OUT
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.columns import DATE_NAMES, LEAST_NUMBERED, Column
from marvex.sources.dates import month_alone, period_alone
from marvex.sources.headings import SEVERAL_MONTHS, parted, runs_to_date, split
from marvex.sources.scales import without_unit
from marvex.sources.wide import (
    AmountColumn,
    against_plan,
    bases_beside,
    beside_its_base,
    by_period,
    check_each_once,
    check_months_said,
    check_one_basis,
    check_one_budget,
    is_to_date,
    short_sides,
    wide_columns,
)
from marvex.sources.years_said import YEAR, said_headings

AMOUNT_NAMES = (
    *("amount", "net", "value", "total", "sum", "net amount", "net_amount", "balance", "revenue", "sales"),
    *("fare", "fares", "price", "cost", "spend", "people", "headcount"),
    *("net sales", "net revenue", "net value", "line total", "transaction amount", "turnover", "fee"),
    *("betrag", "umsatz", "montant", "importe", "importo", "belopp", "beløb", "bedrag"),
)
_PERIODS = {"m": "months", "w": "weeks", "q": "quarters", "h": "halves", "p": "periods"}  # by what names them alone
_OF_A_TIME = re.compile(r"\b(?:(?:19|20)\d\d|this|current|prior|previous|last)\b", re.IGNORECASE)
_BALANCES = {
    *(
        "balance",
        "running balance",
        "saldo",
        "solde",
        "kontostand",
        "balans",
        "opening",
        "closing",
        "opening balance",
    ),
    *("closing balance", "brought forward", "carried forward", "b/f", "c/f", "saldovortrag", "endsaldo"),
}
SCENARIO_NAMES = ("scenario", "version", "scenarios", "scen")
UNNAMED_HEADINGS = "heading"  # headings that are categories of a column without a name


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnsAsked:
    """The columns that options name, and what they say of the headings.

    Parameters
    ----------
    per : the column that the amounts are divided by.
    along_time : time is the axis, so that no column of names is needed.
    then_by : the columns of the parts of each category, one level down.
    are_lines : `by` is of the lines of a statement, in which categories among the headings are added up.
    fields : what the call names `by`, `then_by` and `per` with.
    is_by_panel : the columns of `by` are panels, and those of `then_by` the categories within each.
    year : that of months that say none; `dates` the order of day and month.
    parts_across : columns of amounts that together are one that was left out.
    worked_out : the amounts that are worked out of several columns.
    """

    date: str | None = None
    amounts: tuple[str, ...] = ()
    scenario: str | None = None
    current: str | None = None
    base: str | None = None
    by: tuple[str, ...] = ()
    headings_are: str | None = None
    year: str | None = None
    dates: str = "auto"
    parts_across: tuple[str, ...] = ()
    needs_amounts: bool = True
    per: str | None = None
    along_time: bool = False
    then_by: tuple[str, ...] = ()
    are_lines: bool = False
    fields: tuple[str, str, str] = ("by", "then_by", "per")
    is_by_panel: bool = False
    worked_out: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Roles:
    """Which column plays which role; None where no column does.

    `headings` names the new column that headings become categories of; `each_row` is true where
    every row is a category of its own, named by the first of `by`; `per` is divided by;
    the last `inner` columns of `by` are of the parts of a category; `unnamed` is the scenario of rows that name none.
    """

    date: str | None
    scenario: str | None
    amounts: tuple[AmountColumn, ...]
    by: tuple[str, ...]
    headings: str | None = None
    each_row: bool = False
    per: str | None = None
    inner: int = 0
    unnamed: str | None = None

    @property
    def compared_by(self) -> tuple[str, ...]:
        """The columns that make a category, without those of its parts."""
        return self.by[: len(self.by) - self.inner]

    @property
    def runs_to_date(self) -> bool:
        """Whether the headings of its periods say that each holds those of its year before it."""
        return bool(self.amounts) and all(one.period and is_to_date(one.name) for one in self.amounts)

    @property
    def taken(self) -> set[str | None]:
        """The columns of dates, scenarios and amounts, which nothing is compared by."""
        return {self.date, self.scenario, self.per, *(one.name for one in self.amounts)}

    @property
    def has_dates(self) -> bool:
        return self.date is not None or any(one.period for one in self.amounts)

    @property
    def has_scenarios(self) -> bool:
        return self.scenario is not None or any(one.scenario for one in self.amounts)

    @property
    def is_wide(self) -> bool:
        """Whether a row holds several facts, so that what is counted are cells."""
        return len(self.amounts) > 1 and not self.sides_are_columns

    @property
    def sides_are_columns(self) -> bool:
        """Whether both sides of a row are that row: scenarios that are no periods, as columns."""
        return len(self.amounts) > 1 and all(one.scenario and not one.period for one in self.amounts)


def work_out(columns: Sequence[Column], asked: ColumnsAsked, source: str) -> Roles:
    """The roles of the columns of a source; raises Mistake where that cannot be told."""
    names = [column.name for column in columns]
    date = _named(asked.date, names, source, "date")
    scenario = _named(asked.scenario, names, source, "scenario")
    headings = _new_column(asked, names)
    by = tuple(one if one == headings else found_column(one, names, source, asked.fields[0]) for one in asked.by)
    then_by = tuple(
        one if one == headings else found_column(one, names, source, asked.fields[1]) for one in asked.then_by
    )
    per = _named(asked.per, names, source, asked.fields[2])
    free = [column for column in columns if column.name not in {date, scenario, per, *by}]
    amounts = _amount_columns(
        [column for column in free if column.name not in then_by], asked, names, source, bool(date)
    )
    _check_once(amounts, free, asked, source)
    without = unnamed({one.scenario for one in amounts if one.scenario})
    amounts = tuple(replace(one, scenario=one.scenario or without) if one.period else one for one in amounts)
    free = [column for column in free if column.name not in {one.name for one in amounts}]
    if date is None and not any(one.period for one in amounts):
        date = _date(free, source, has_year=asked.year is not None)
    if scenario is None and not any(one.scenario for one in amounts):
        scenario = _scenario([column for column in free if column.name != date], source)
    if any(one.category for one in amounts) and headings not in by and not asked.are_lines:
        by = (headings or UNNAMED_HEADINGS, *by) if asked.then_by else (*by, headings or UNNAMED_HEADINGS)
    _check_parts(then_by, asked.fields[1], {date: "dates", scenario: "scenario"} | dict.fromkeys(by, "category"))
    by += then_by
    if per is not None and len(amounts) != 1:
        raise Mistake(
            f"{setting(asked.fields[2])} {per}: {source} has not one column of amounts",
            f"Name one with {setting('amount')}.",
        )
    roles = Roles(
        date=date,
        scenario=scenario,
        amounts=amounts,
        by=by,
        headings=headings or (UNNAMED_HEADINGS if amounts and amounts[0].category else None),
        per=per,
        inner=len(asked.then_by),
    )
    is_wide = any(one.period for one in amounts)
    if asked.year and not roles.has_dates:
        raise Mistake(f"{source} has no months, in its headings or in a column", f"Leave {setting('year')} out.")
    if len(by) > len(then_by) or (roles.has_dates and (asked.along_time or not is_wide)):
        return roles
    free = [column for column in free if column.name not in (date, scenario, *then_by)]
    if is_wide and not any(column.is_text or column.is_code for column in free):
        return roles  # one line by itself, along time
    if roles.sides_are_columns and len(free) == 1 and free[0].distinct == free[0].filled > 1:
        label = free[0]  # 4000, 4010 …: what each row is, though it looks like figures
    else:
        label = _label(free, source, has_sides=scenario is not None)
    labels, is_list = _labels(free, label)
    each_row = is_list and (not roles.has_scenarios or roles.sides_are_columns)
    return replace(roles, by=(*labels, *then_by), each_row=each_row)


def _check_parts(then_by: Sequence[str], field: str, roles: Mapping[str | None, str]) -> None:
    """Stops where the parts of a category would be told apart by a column that has another role already."""
    for name in then_by:
        if name in roles:
            raise Mistake(f"{setting(field)} {name} is taken for the {roles[name]} already", "Name another column.")


def _named(asked: str | None, names: Sequence[str], source: str, field: str) -> str | None:
    return None if asked is None else found_column(asked, names, source, field)


def found_column(asked: str, names: Sequence[str], source: str, field: str) -> str:
    """The column so named, whatever its case; raises Mistake with the nearest name."""
    if asked in names:
        return asked
    alike = [name for name in names if name.strip().casefold() == asked.strip().casefold()]
    # A second heading that is the same but for case has been numbered, by Marvex or by the engine.
    numbered = [f"{one} 2".casefold() for one in alike] + [f"{one}_1".casefold() for one in alike]
    twins = [name for name in names if name.casefold() in numbered]
    if twins:
        raise Mistake(
            f"{source} has several columns '{asked}' that are alike but for case: {listed((*alike, *twins))} "
            f"({setting(field)})",
            "Name one of these.",
        )
    if len(alike) == 1:
        return alike[0]
    raise Mistake(
        f"{source} has no column '{asked}' ({setting(field)})",
        did_you_mean(asked, names, f"Its columns are {listed(names)}."),
    )


def _new_column(asked: ColumnsAsked, names: Sequence[str]) -> str | None:
    """The name of the column that headings become the values of, where they are said to be categories."""
    if asked.headings_are is None or (new := new_column(asked.headings_are)) != asked.headings_are:
        return None
    if new in names:
        raise Mistake(
            f"{setting('headings_are')} {asked.headings_are}: there is such a column already",
            "Give the new column another name.",
        )
    return new


def new_column(headings_are: str | None) -> str:
    """The name of the column that headings would become the values of, by what they are said to be."""
    return UNNAMED_HEADINGS if headings_are in (None, "period", "scenario") else headings_are


def _amount_columns(
    free: Sequence[Column], asked: ColumnsAsked, names: Sequence[str], source: str, has_date: bool
) -> tuple[AmountColumn, ...]:
    if not asked.needs_amounts:
        return ()
    if asked.current is not None:
        sides = [one for one in (asked.current, asked.base) if one is not None]
        fields = ("current", "base")
        found = [found_column(one, names, source, field) for one, field in zip(sides, fields, strict=False)]
        return tuple(AmountColumn(name=name, scenario=name) for name in found)
    chosen = [found_column(one, names, source, "amount") for one in asked.amounts]
    figures = [column.name for column in free if column.is_figures and not column.is_code]
    names = [column.name for column in free]
    texts = said_headings(names, asked.year, asked.dates, source)
    if asked.headings_are == "period":
        return by_period({one: texts[one] for one in chosen or figures if chosen or split(texts[one])[0]}, source)
    if asked.headings_are == "scenario":
        return tuple(AmountColumn(name=name, scenario=name) for name in chosen or figures)
    if asked.headings_are is not None:
        wide = [one for one in wide_columns({one: texts[one] for one in chosen or figures}) if one.category]
        return tuple(wide) or tuple(AmountColumn(name=name, category=name) for name in chosen or figures)
    # Of which some cells cannot be read, too.
    beside = [one for one in free if one.figures and not one.is_code]
    if len(chosen) == 1:
        # Along dates it has bases of its own, and so has a rate, or one of several scenarios.
        is_list = not has_date and not any(column.is_dates for column in free)
        both = beside_its_base(beside, chosen[0]) if is_list and asked.per is None and asked.scenario is None else ()
        return both or (AmountColumn(name=chosen[0]),)
    # A heading that says a month or a scenario says amounts too, though cells be blank or unreadable.
    amounts = [one.name for one in free if one.figures or not one.filled]
    said = [one for one in amounts if split(texts[one]) != (None, None) or runs_to_date(texts[one])]
    in_order = [column.name for column in free if column.name in {*figures, *said}]
    of_all = wide_columns({one: texts[one] for one in chosen or in_order})
    wide = [one for one in of_all if not (has_date and one.period)]
    if len(wide) > 1:
        check_months_said(wide, source)
        if not chosen:
            check_each_once(wide, source)
            check_one_budget(wide, [one.name for one in free if one.is_figures], source)
            check_one_basis(wide, figures, source)
        return tuple(wide)
    if chosen:
        return tuple(AmountColumn(name=name, category=name) for name in chosen)
    own = [one for one in free if one.is_figures and not one.is_code]
    if both := against_plan(own) or short_sides([one.name for one in own]) or beside_its_base(beside):
        return both
    for current, (base, *_) in bases_beside(beside).items():
        raise Mistake(
            f"{source}: {_and([*bases_beside(beside)])} have each a column to be set against",
            f"Say which, such as {setting('current', current)} {setting('base', base)}.",
        )
    if len(asked.parts_across) > 1 and set(asked.parts_across) <= set(figures):
        if others := [one for one in figures if one not in asked.parts_across]:
            raise Mistake(
                f"{source}: {listed(others, 2)} and {' + '.join(asked.parts_across[:3])} could each be the amount",
                f"Say which, such as {setting('amount', ','.join(asked.parts_across))}.",
            )
        return tuple(AmountColumn(name=name, category=name) for name in figures)
    name = _amount(free, source)
    # The sheet of one month has its month as the only heading of amounts.
    period, of = split(texts[name])
    if period is None or has_date or any(column.is_dates for column in free):
        return (AmountColumn(name=name),)
    return (AmountColumn(name=name, period=period, scenario=of),)


def _check_once(amounts: Sequence[AmountColumn], free: Sequence[Column], asked: ColumnsAsked, source: str) -> None:
    """Raises Mistake where a heading that was taken for that of the amounts stands over another column too."""
    figures = {column.name for column in free if column.is_figures} - {one.name for one in amounts}
    for one in amounts if not asked.amounts and asked.current is None else ():
        if (second := f"{one.name} 2") in figures:  # as the second of a name is called
            raise Mistake(
                f"{source} has two columns called '{one.name}'",
                f"Say which: {setting('amount', one.name)} is the first, {setting('amount', second)} the second"
                + (f"; or {setting('current')} and {setting('base')}." if one.scenario else "."),
            )


def _date(columns: Sequence[Column], source: str, *, has_year: bool) -> str | None:
    dated = [column for column in columns if column.is_dates or (has_year and column.is_undated)]
    finer = [column for column in dated if column.is_dates and not column.is_years]
    candidates = [column.name for column in finer or dated]
    return _the_one(candidates, DATE_NAMES[:1], "the date", "date", source) if candidates else None


def _amount(columns: Sequence[Column], source: str) -> str:
    figures, by_name = [column for column in columns if column.is_figures], {one.name: one for one in columns}
    candidates = [column.name for column in figures if not column.is_code and not _is_numbering(column)]
    candidates = [name for name in candidates if not _may_be_code(by_name[name])] or candidates
    if not candidates:
        # Unreadable cells may be in the majority: then the heading has to say it.
        candidates = [column.name for column in columns if column.name.casefold() in AMOUNT_NAMES]
    alone = [(column.name, named) for column in figures if (named := period_alone(column.name)) and named[0]]
    if len(kinds := {letter for _, (letter, _) in alone}) > 1 and len(alone) == len(candidates):
        shortest = next(one for one in "wpmqh" if one in kinds)  # of months beside their quarters
        alone = [one for one in alone if one[1][0] == shortest]
    if len(alone) > 1 and len({letter for _, (letter, _) in alone}) == 1:
        raise Mistake(
            f"{source}: the {_PERIODS[alone[0][1][0]]} {alone[0][0]} … {alone[-1][0]} have no year",
            f"Say which: {setting('year', '2026')}, or {setting('year', '2025/26')} where they run over two.",
        )
    if not candidates:
        codes = [column.name for column in figures]
        numbering = [column.name for column in figures if _is_numbering(column)]
        but = f" but {listed(codes, 3)}, a code by its name" if codes else ""
        but = f" but {listed(numbering, 3)}, which numbers the rows" if numbering else but
        raise Mistake(
            f"no column of {source} holds figures{but}", f"Name the column of amounts with {setting('amount')}."
        )
    entries = {name.strip().casefold(): name for name in candidates}
    for pair in (*DEBITS_AND_CREDITS, *IN_AND_OUT):
        if entries.keys() - _BALANCES == set(pair):
            one, other = (entries[name] for name in pair)
            net = " - ".join(f'"{name}"' if " " in name else name for name in (one, other))
            turned = ", or the other way round where income counts up" if pair in DEBITS_AND_CREDITS else ""
            raise Mistake(f"{source}: {one} and {other} are in two columns", f"Say {setting('amount', net)}{turned}.")
    # What a plan stands beside is not taken alone.
    usual = () if any(one.casefold() in PLANNED_WORDS for one in candidates) else AMOUNT_NAMES
    # `Amount` beside `Amount EUR` may be of any currency.
    again = {without_unit(one).casefold() for one in candidates if without_unit(one) != one.strip()}
    return _the_one(candidates, [one for one in usual if one not in again], "the amount", "amount", source)


def _is_numbering(column: Column) -> bool:
    """Whether a column numbers the rows, and its heading does not speak of amounts."""
    return column.numbers_rows and not _speaks_of_amounts(column.name)


def _may_be_code(column: Column) -> bool:
    """Whether figures may as well be a code: a firm's, the same in every row; a bus line's, with X5 among them; 1 to 12
    of a period."""
    is_one = column.distinct == 1 and column.filled >= LEAST_NUMBERED
    is_part = column.says_date and not column.is_beyond
    return (is_one or is_part or 10 * column.figures < 9 * column.filled) and not _speaks_of_amounts(column.name)


def _may_be_side(heading: str) -> bool:
    """Whether a heading is no plain name: it says an amount, a number, a period or a side of one."""
    words = spelled_out(heading)
    is_side = parted(words).is_said or version_said(words) is not None or SEVERAL_MONTHS.search(words) is not None
    is_side = is_side or not ABBREVIATIONS.isdisjoint(words.casefold().split())
    is_timed = (
        _OF_A_TIME.search(words) is not None or any(map(str.isdecimal, words)) or month_alone(words) is not None
    )
    return _speaks_of_amounts(heading) or is_side or is_timed


def _speaks_of_amounts(heading: str) -> bool:
    return spelled_out(heading).casefold() in AMOUNT_NAMES or speaks_of_money(heading)


def _scenario(columns: Sequence[Column], source: str) -> str | None:
    texts = [column for column in columns if column.is_text]
    for wanted in SCENARIO_NAMES:
        for column in texts:
            if column.name.casefold() == wanted:
                return column.name
    # A row of the differences beside those of both sides is of neither.
    known = [
        column
        for column in texts
        if _tells_versions(column)
        or (column.scenarios + column.variances == column.filled and (column.scenarios > 1 or not column.variances))
    ]
    known = [column for column in known if len(column.few) > 1] or known
    return _the_one([one.name for one in known], (), "the scenario", "scenario", source) if known else None


def _tells_versions(column: Column) -> bool:
    """Whether its names are versions of the numbers; a list may lead from 'Budgeted profit' to 'Actual profit'."""
    said = [version_said(one) for one in column.few]
    is_plain = all(one is not None and not one.rest for one in said)
    return are_versions(column.few) and (is_plain or column.filled > column.distinct)


def _label(columns: Sequence[Column], source: str, *, has_sides: bool) -> Column:
    """The column that tells the rows apart best: of the texts, the first with the most different ones."""
    texts = [column for column in columns if column.is_text] or [column for column in columns if column.is_code]
    if not texts:
        way = f"Name a column of categories with {setting('by')}."
        if columns:
            way = f"Name a column of categories with {setting('by', columns[0].name)}, which is read as names."
        if has_sides and any(column.is_figures for column in columns):  # of several amounts one was taken
            way = f"{setting('headings_are', 'line')} compares what its headings say."
        raise Mistake(f"{source} has neither dates nor names to compare by", way)
    return max(texts, key=lambda column: column.distinct)


def _labels(columns: Sequence[Column], label: Column) -> tuple[tuple[str, ...], bool]:
    """The columns that name the rows together, in their order, and whether each row is a line of a list.

    It is the label alone, unless its names come again and others tell the rows apart. Rows that all names together do
    not tell apart are facts, to be added up by the label.
    """
    needed, told = {label.name}, label.distinct
    others = [one for one in columns if one.is_text and one is not label and 2 * one.filled >= label.filled]
    for one in sorted(others, key=lambda one: -one.distinct):
        values = one.distinct + (one.filled < label.filled)  # an empty cell tells too
        if told < label.filled and values > 1:
            needed.add(one.name)
            told *= values
    if told < label.filled:
        return (label.name,), len(needed) == 1
    return tuple(one.name for one in columns if one.name in needed), len(needed) == 1


def _the_one(candidates: Sequence[str], usual: Sequence[str], role: str, field: str, source: str) -> str:
    if len(candidates) == 1:
        return candidates[0]
    preferred = [name for name in candidates if spelled_out(name).casefold() in usual]
    # What comes to a balance row by row is a bank's, beside the amounts that it is made of.
    preferred = [name for name in preferred if name.casefold() not in _BALANCES] or preferred
    if len(preferred) == 1:
        return preferred[0]
    several = preferred or list(candidates)
    sides = [one for one in several if _OF_A_TIME.search(one)][:2] if field == "amount" else []
    sides.sort(key=lambda one: max(YEAR.findall(one), default=""), reverse=True)  # the later year is the current one
    if field == "amount" and len(several) == 2 and sum(one.casefold() in PLANNED_WORDS for one in several) == 1:
        sides = sorted(several, key=lambda one: one.casefold() in PLANNED_WORDS)
    two = "; or set two against one another: " + " ".join(map(setting, ("current", "base"), sides))
    adding = [one for one in several if adds_up(one)] if field == "amount" else []
    is_plain = not any(map(_may_be_side, several)) and not unlike_measures([*several, "Net"])
    is_plain = is_plain and adding == several and not same_numbers_across(several)
    together = f"; {setting('headings_are', 'line')} compares them all" if is_plain else ""
    such_as = next((one for one in adding if speaks_of_money(one)), next(iter(adding), several[0]))
    raise Mistake(
        f"{source}: {_and(several)} could each be {role}",
        f"Say which, such as {setting(field, such_as)}{two if len(sides) > 1 else together}.",
    )


def _and(names: Sequence[str], most: int = 3) -> str:
    return " and ".join((*names[:most], *([f"{len(names) - most} more"] if len(names) > most else [])))
