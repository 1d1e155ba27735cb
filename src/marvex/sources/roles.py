"""Which column plays which role: as named by an option, or worked out from names and values.

A heading may itself be a period, a scenario, both ("Jan 2026 Budget") or a category: the table is
then wide, and each such column is an `AmountColumn` that knows what its heading says. Where two
readings serve equally the analyst is asked; nothing is guessed.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from marvex.core.compare.scenario_words import are_versions, version_said
from marvex.core.compare.scenarios import unnamed
from marvex.core.errors import Mistake, listed, setting
from marvex.core.values import dataclass
from marvex.sources.amounts import amount_columns, check_once, the_one
from marvex.sources.columns import DATE_NAMES, Column
from marvex.sources.columns_asked import UNNAMED_HEADINGS, ColumnsAsked, check_different, found_column, new_column
from marvex.sources.dates import written
from marvex.sources.headings import parted
from marvex.sources.wide import (
    AmountColumn,
    is_to_date,
)
from marvex.sources.years_said import YEAR

SCENARIO_NAMES = ("scenario", "version", "scenarios", "scen")


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
    own = next((f"{asked.of}={column.name}" for column in columns if asked.of and column.is_text), None)
    by = tuple(one if one == headings else found_column(one, names, source, asked.fields[0], own) for one in asked.by)
    check_different(by, asked.fields[0], source)
    numbers = [one for one in columns if one.name in by and one.is_figures and not one.is_code]
    if amount := next(
        (
            one
            for one in numbers
            if headings or parted(one.name).is_said or (one.decimals and one.figures == one.filled)
        ),
        None,
    ):
        how = "by its heading" if parted(amount.name).is_said else "as others are" if headings else "by its decimals"
        raise Mistake(
            f"{source}: {amount.name} is a column of amounts {how}, and no category",
            f"Name a column of names with {setting(asked.fields[0])}.",
        )
    then_by = tuple(
        one if one == headings else found_column(one, names, source, asked.fields[1]) for one in asked.then_by
    )
    per = _named(asked.per, names, source, asked.fields[2])
    free = [column for column in columns if column.name not in {date, scenario, per, *by}]
    amounts = amount_columns(
        [column for column in free if column.name not in then_by], asked, names, source, bool(date)
    )
    check_once(amounts, free, asked, source)
    without = unnamed({one.scenario for one in amounts if one.scenario})
    amounts = tuple(replace(one, scenario=one.scenario or without) if one.period else one for one in amounts)
    _check_sides_said(amounts, source)
    free = [column for column in free if column.name not in {one.name for one in amounts}]
    if date is None and not any(one.period for one in amounts):
        date = _date(free, source, has_year=asked.year is not None)
        if date is None and (dated := next((one for one in columns if one.name in by and one.is_dates), None)):
            grains = (its.grain.value for one in dated.few if (its := written(one)))
            shown = setting("every", next(grains, "month"))
            raise Mistake(
                f"{source}: {dated.name} holds the dates of the rows, and is no category",
                f"Leave it out of {setting(asked.fields[0])}: {shown} shows each.",
            )
        if date is None and asked.year is not None and YEAR.fullmatch(asked.year):
            amounts = tuple(replace(one, period=asked.year) for one in amounts)  # of which nothing else says the time
    if scenario is None and not any(one.scenario for one in amounts):
        scenario = _scenario([column for column in free if column.name != date], source)
    # What are parts of one total is added up by what a call compares by, as where each part had rows of its own.
    are_parts = bool(by) and not asked.amounts and {one.name for one in amounts} <= set(asked.parts_across)
    if any(one.category for one in amounts) and headings not in by and not asked.are_lines and not are_parts:
        by = (headings or UNNAMED_HEADINGS, *by) if asked.then_by else (*by, headings or UNNAMED_HEADINGS)
    _check_parts(then_by, asked.fields[1], {date: "dates", scenario: "scenario"} | dict.fromkeys(by, "category"))
    by += then_by
    if per is not None and len(amounts) != 1:
        of = {parted(one.name).rest for one in amounts}
        own = f"{setting('amount', of.pop())} {setting(asked.fields[2], parted(per).rest)}" if len(of) == 1 else ""
        raise Mistake(
            f"{setting(asked.fields[2])} {per}: {source} has not one column of amounts",
            f"{own} takes what each side has of them." if own else f"Name one with {setting('amount')}.",
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
    free = [column for column in free if not column.are_remarks] or free
    others = [column for column in free if column.name not in asked.of_one]
    free = others if any(column.is_text or column.are_names for column in others) else free
    if is_wide and not any(column.is_text or column.is_code for column in free):
        return roles  # one line by itself, along time
    if roles.sides_are_columns and len(free) == 1 and free[0].distinct == free[0].filled > 1:
        label = free[0]  # 4000, 4010 …: what each row is, though it looks like figures
    else:
        shared = [one for one in free if asked.shared is None or one.name.casefold() in asked.shared]
        is_shared = any(column.is_text or column.is_code for column in shared)
        label = _label(shared if is_shared else free, source, has_sides=scenario is not None)
        free = shared if is_shared or asked.shared is None else [label]
    labels, is_list = _labels(free, label)
    each_row = is_list and (not roles.has_scenarios or roles.sides_are_columns)
    return replace(roles, by=(*labels, *then_by), each_row=each_row)


def _check_sides_said(amounts: Sequence[AmountColumn], source: str) -> None:
    """Raises Mistake where periods say no scenario beside others that say actuals and more: they are of neither."""
    unsaid = [one.name for one in amounts if one.period and not one.scenario]
    if unsaid and len(unsaid) < len(amounts):
        others = ",".join(one.name for one in amounts if one.name not in unsaid)
        raise Mistake(
            f"{source}: {listed(unsaid, 3)} {'says' if len(unsaid) == 1 else 'say'} no scenario beside others that do",
            f"Name those that count with {setting('amount', others)}.",
        )


def _check_parts(then_by: Sequence[str], field: str, roles: Mapping[str | None, str]) -> None:
    """Stops where the parts of a category would be told apart by a column that has another role already."""
    for name in then_by:
        if name in roles:
            raise Mistake(f"{setting(field)} {name} is taken for the {roles[name]} already", "Name another column.")


def _named(asked: str | None, names: Sequence[str], source: str, field: str) -> str | None:
    return None if asked is None else found_column(asked, names, source, field)


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


def _date(columns: Sequence[Column], source: str, *, has_year: bool) -> str | None:
    dated = [column for column in columns if column.is_dates or (has_year and column.is_undated)]
    finer = [column for column in dated if column.is_dates and not column.is_years]
    candidates = [column.name for column in finer or dated]
    return the_one(candidates, DATE_NAMES[:1], "the date", "date", source) if candidates else None


def _scenario(columns: Sequence[Column], source: str) -> str | None:
    texts = [column for column in columns if column.is_text]
    for wanted in SCENARIO_NAMES:
        for column in columns:  # which may be numbered; so is a version that each document has
            if column.name.casefold() == wanted and (column.is_text or (wanted != "version" and column.filled)):
                return column.name
    # A row of the differences beside those of both sides is of neither.
    known = [
        column
        for column in texts
        if _tells_versions(column)
        or (column.scenarios + column.variances == column.filled and (column.scenarios > 1 or not column.variances))
    ]
    known = [column for column in known if len(column.few) > 1] or known
    return the_one([one.name for one in known], (), "the scenario", "scenario", source) if known else None


def _tells_versions(column: Column) -> bool:
    """Whether its names are versions of the numbers; a list may lead from 'Budgeted profit' to 'Actual profit'."""
    said = [version_said(one) for one in column.few]
    is_plain = all(one is not None and not one.rest for one in said)
    return are_versions(column.few) and (is_plain or column.filled > column.distinct)


def _label(columns: Sequence[Column], source: str, *, has_sides: bool) -> Column:
    """The column that tells the rows apart best: of the texts, the first with the most different ones, or numbers that
    name each row where no text does."""
    texts = [column for column in columns if column.is_text] or [column for column in columns if column.is_code]
    if not texts:
        way = f"Name a column of categories with {setting('by')}."
        if columns:
            way = f"Name a column of categories with {setting('by', columns[0].name)}, which is read as names."
        if has_sides and any(column.is_figures for column in columns):  # of several amounts one was taken
            way = f"{setting('headings_are', 'line')} compares what its headings say."
        raise Mistake(f"{source} has neither dates nor names to compare by", way)
    text = max(texts, key=lambda column: column.distinct)
    numbers = [column for column in columns if column.are_names and column.distinct == column.filled]
    return numbers[0] if numbers and text.distinct < numbers[0].filled else text


def _labels(columns: Sequence[Column], label: Column) -> tuple[tuple[str, ...], bool]:
    """The columns that name the rows together, in their order, and whether each row is a line of a list.

    It is the label alone, unless its names come again and others tell the rows apart. Rows that all names together do
    not tell apart are facts, to be added up by the label.
    """
    needed, told = {label.name}, label.distinct
    others = [
        one
        for one in columns
        if (one.is_text or one.are_names or one.is_undated) and one is not label and 2 * one.filled >= label.filled
    ]
    for one in sorted(others, key=lambda one: -one.distinct):
        values = one.distinct + (one.filled < label.filled)  # an empty cell tells too
        if told < label.filled and values > 1:
            needed.add(one.name)
            told *= values
    if told < label.filled:
        return (label.name,), len(needed) == 1
    return tuple(one.name for one in columns if one.name in needed), len(needed) == 1
