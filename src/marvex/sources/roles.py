"""Which column plays which role: as named by an option, or worked out from names and values.

A heading may itself be a period, a scenario, both ("Jan 2026 Budget") or a category: the table is
then wide, and each such column is an `AmountColumn` that knows what its heading says. Where two
readings serve equally the analyst is asked; nothing is guessed.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from marvex.core.compare.scenarios import ACTUAL_NAMES, unnamed
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.structure.total_names import speaks_of_variance
from marvex.core.time.calendar import Grain, is_finer
from marvex.sources.cells import could_be_thousands, is_absent, is_figure
from marvex.sources.dates import is_like_a_date, month_alone, period_alone, written
from marvex.sources.headings import SCENARIO_WORDS, TO_DATE, Parted, parted, split

DATE_NAMES = ("date", "day", "month", "period", "posted", "booked", "year", "week", "quarter")
AMOUNT_NAMES = (
    *("amount", "net", "value", "total", "sum", "net amount", "net_amount", "balance", "revenue", "sales"),
    *("fare", "fares", "price", "cost", "spend", "people", "headcount"),
)
DEBITS_AND_CREDITS = (("debit", "credit"), ("dr", "cr"), ("soll", "haben"), ("débit", "crédit"), ("debe", "haber"))
_REVISED = re.compile(
    r"revised|latest|updated|new|original|initial|approved|final|rebased|amended|adjusted|flexed|v\.? ?\d+|\d",
    re.IGNORECASE,
)
_TO_DATE = re.compile(r"\b(?:ytd|year[- ]to[- ]date)\b", re.IGNORECASE)
_SEVERAL_MONTHS = re.compile(
    r"\b(?:ytd|qtd|(?:year|quarter)[- ]to[- ]date|to date|cumulative|ltm|ttm|mat|rolling|trailing|last (?:12|twelve)|"
    r"\d{1,2} ?m(?:onths?)?)\b",
    re.IGNORECASE,
)
SCENARIO_NAMES = ("scenario", "version")
_PLAIN = re.compile(r"[-+]?\d*\.\d{1,15}")
UNNAMED_HEADINGS = "heading"  # headings that are categories of a column without a name
LOOKED_INTO = 150  # cells of a column: enough to tell its kind
CODE_WORDS = {"id", "code", "no", "account", "ref", "reference"}
# Codes too, but not where they speak of an amount: 'Number of trips', 'Year to date', '2026 Year', 'This month'.
CODES_OR_AMOUNTS = {"nr", "number", "key", "year", "month"}
OF_AMOUNTS = {"of", "to", "this", "last", "prior", "previous", "current", "full"}


def is_code_name(heading: str) -> bool:
    """Whether a heading says that the figures under it are codes, which are not added up.

    >>> [is_code_name(one) for one in ("account_code", "Ticket number", "Number of trips", "2026 Year")]
    [True, True, False, False]
    """
    words = set(heading.casefold().replace("_", " ").replace("-", " ").split())
    speaks_of_amount = bool(OF_AMOUNTS & words) or any(word.isdecimal() for word in words)
    return bool(CODE_WORDS & words) or (bool(CODES_OR_AMOUNTS & words) and not speaks_of_amount)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Column:
    """A column as a sample of it shows: how many cells are filled, and how many of them are what."""

    name: str
    filled: int
    distinct: int
    figures: int
    dates: int
    scenarios: int  # cells that hold a usual scenario's name
    variances: int  # cells that name a difference of such
    undated: int  # cells that name a period without a year, or that its heading says are dates, and are none
    all_could_be_thousands: bool
    decimals: int  # the most that a plainly written figure has

    @property
    def is_dates(self) -> bool:
        bare_numbers = self.dates <= self.figures
        return _is_most(self.dates, self.filled) and (not bare_numbers or self.says_date)

    @property
    def says_date(self) -> bool:
        return says_date(self.name)

    @property
    def is_undated(self) -> bool:
        """Whether it says of which period a row is, and not of which year."""
        return self.distinct > 1 and not self.is_dates and _is_most(self.undated, self.filled)

    @property
    def is_figures(self) -> bool:
        return _is_most(self.figures, self.filled) and not self.is_dates

    @property
    def is_code(self) -> bool:
        """Whether its name says that its figures are not to be added up."""
        return is_code_name(self.name)

    @property
    def is_text(self) -> bool:
        return self.filled > 0 and not self.is_dates and not self.is_figures


@dataclass(frozen=True, slots=True, kw_only=True)
class AmountColumn:
    """A column of amounts, and what its heading says of them where the table is wide."""

    name: str
    period: str | None = None
    scenario: str | None = None
    category: str | None = None


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
    worked_out : the amounts that are worked out of several columns.
    """

    date: str | None = None
    amounts: tuple[str, ...] = ()
    scenario: str | None = None
    current: str | None = None
    base: str | None = None
    by: tuple[str, ...] = ()
    headings_are: str | None = None
    needs_amounts: bool = True
    per: str | None = None
    along_time: bool = False
    then_by: tuple[str, ...] = ()
    are_lines: bool = False
    fields: tuple[str, str, str] = ("by", "then_by", "per")
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
        return bool(self.amounts) and all(one.period and _TO_DATE.search(one.name) for one in self.amounts)

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


def columns_of(names: Sequence[str], rows: Sequence[Sequence[str | None]]) -> tuple[Column, ...]:
    """What a sample shows of each column."""
    return tuple(_column(name, [row[place] or "" for row in rows]) for place, name in enumerate(names))


def _column(name: str, cells: Sequence[str]) -> Column:
    absent = {cell for cell in set(cells) if is_absent(cell)}
    filled = [cell.strip() for cell in cells if cell not in absent]
    separated = [cell for cell in set(filled) if "." in cell or "," in cell]
    filled = filled[:LOOKED_INTO]
    serials = says_date(name)
    kinds = {cell: (is_figure(cell), is_like_a_date(cell, serials=serials)) for cell in set(filled)}
    return Column(
        name=name,
        filled=len(filled),
        distinct=len(kinds),
        figures=sum(kinds[cell][0] for cell in filled),
        dates=sum(kinds[cell][1] for cell in filled),
        undated=sum(_is_undated(cell, says_date=serials) for cell in filled),
        scenarios=sum(cell.casefold() in SCENARIO_WORDS for cell in filled),
        variances=sum(speaks_of_variance(cell) and cell.casefold() not in SCENARIO_WORDS for cell in filled),
        all_could_be_thousands=bool(separated) and all(could_be_thousands(cell) for cell in separated),
        decimals=max((len(cell.partition(".")[2]) for cell in separated if _PLAIN.fullmatch(cell)), default=0),
    )


def _is_undated(cell: str, *, says_date: bool) -> bool:
    if month_alone(cell):
        return True
    is_odd = any(map(str.isdecimal, cell)) and not is_figure(cell) and not is_like_a_date(cell)
    return says_date and (is_odd or period_alone(cell) is not None)


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
        date = _date(free, source)
    if scenario is None and not any(one.scenario for one in amounts):
        scenario = _scenario([column for column in free if column.name != date])
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
    if len(by) > len(then_by) or (roles.has_dates and (asked.along_time or not is_wide)):
        return roles
    free = [column for column in free if column.name not in (date, scenario, *then_by)]
    if is_wide and not any(column.is_text or column.is_code for column in free):
        return roles  # one line by itself, along time
    label = _label(free, source)
    return replace(roles, by=(label, *then_by), each_row=not roles.has_scenarios or roles.sides_are_columns)


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
    """The name of the column that headings become the values of, where they are categories."""
    if asked.headings_are in (None, "period", "scenario"):
        return None
    assert asked.headings_are is not None
    if asked.headings_are in names:
        raise Mistake(
            f"{setting('headings_are')} {asked.headings_are}: there is such a column already",
            "Give the new column another name.",
        )
    return asked.headings_are


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
    if asked.headings_are == "period":
        return _by_period(chosen or [one for one in figures if split(one)[0]], source)
    if asked.headings_are == "scenario":
        return tuple(AmountColumn(name=name, scenario=name) for name in chosen or figures)
    if asked.headings_are is not None:
        wide = [one for one in _wide(chosen or figures) if one.category]
        return tuple(wide) or tuple(AmountColumn(name=name, category=name) for name in chosen or figures)
    if len(chosen) == 1:
        return (AmountColumn(name=chosen[0]),)
    # A heading that says a month or a scenario says amounts too, though cells be blank or unreadable.
    said = [one.name for one in free if (one.figures or not one.filled) and split(one.name) != (None, None)]
    in_order = [column.name for column in free if column.name in {*figures, *said}]
    wide = [one for one in _wide(chosen or in_order) if not (has_date and one.period)]
    if len(wide) > 1:
        _check_months_said(wide, source)
        _check_one_budget(wide, [one.name for one in free if one.is_figures] if not chosen else [], source)
        return tuple(wide)
    if chosen:
        return tuple(AmountColumn(name=name, category=name) for name in chosen)
    return (AmountColumn(name=_amount(free, source)),)


def _check_months_said(wide: Sequence[AmountColumn], source: str) -> None:
    """Raises Mistake where columns of different years hold several months each, which is no period by its heading."""
    found = [(its, one.name) for one in wide if one.period and (its := written(one.period))]
    periods = [(its.first, name) for its, name in found]
    if len(periods) < len(wide) or not all(_SEVERAL_MONTHS.search(one.name) for one in wide):
        return
    # `YTD Oct 2026` is of January to October.
    if all(_TO_DATE.search(name) and not is_finer(Grain.MONTH, its.grain) for its, name in found):
        return
    if len({first.year for first, _ in periods}) == len(periods):
        *_, (_, base), (_, current) = sorted(periods)
        raise Mistake(
            f"{source}: '{current}' holds several months, which is no period that its figures could be said to be of",
            f"Set the two against one another: {setting('current', current)} {setting('base', base)}.",
        )


def _check_one_budget(wide: Sequence[AmountColumn], names: Sequence[str], source: str) -> None:
    """Raises Mistake where another column is of the same budget too, revised or as it was at first."""
    own = {(one.scenario or "").casefold(): one.name for one in wide if one.scenario and not one.period}
    current = next((own[one] for one in ACTUAL_NAMES if one in own), None)
    for name in names:
        said = parted(name)
        base = own.get((said.scenario or "").casefold())
        if current and base and name != base and said.period is None and _REVISED.fullmatch(said.rest):
            raise Mistake(
                f"{source}: {base} and {name} could each be what {current} is set against",
                f"Say which: {setting('current', current)} {setting('base', name)}.",
            )


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


def _wide(names: Sequence[str]) -> list[AmountColumn]:
    """The columns whose headings say a period or a scenario, where at least two do.

    All say nothing else, or the same beside it ('Sales 2024', 'Sales 2025'); or the same periods and scenarios of
    several categories ('North Budget', 'North Actual', 'South Budget', 'South Actual'). What runs to date beside
    a month holds it, and is no category ('Month Budget', 'Month Actual', 'YTD Budget', 'YTD Actual').
    """
    said = [(name, parted(name)) for name in names]
    plain = [(name, one) for name, one in said if one.is_said and not one.rest]
    by_period = [(name, one) for name, one in plain if one.period]
    if len(by_period) > 1:
        return [_amount_column(*one) for one in by_period]
    scenarios = [(name, one) for name, one in plain if one.is_scenario]
    if len(scenarios) > 1:
        return [_amount_column(*one) for one in scenarios]
    groups: dict[str, list[tuple[str, Parted]]] = {}
    for name, one in said:
        if one.is_said and one.rest:
            groups.setdefault(one.rest.casefold(), []).append((name, one))
    of_parts = [rest for rest in groups if TO_DATE.search(rest) is None]
    groups = {rest: groups[rest] for rest in of_parts or groups}
    sides = {rest: frozenset((one.period, one.scenario) for _, one in group) for rest, group in groups.items()}
    full = [group for rest, group in groups.items() if len(sides[rest]) == len(group) > 1]
    if len(full) == 1:
        return [_amount_column(*one) for one in full[0]]
    if len(full) > 1 and len({sides[group[0][1].rest.casefold()] for group in full}) == 1:
        return [replace(_amount_column(name, one), category=one.rest) for group in full for name, one in group]
    return [_amount_column(*one) for one in plain]


def _amount_column(name: str, said: Parted) -> AmountColumn:
    return AmountColumn(name=name, period=said.period, scenario=said.scenario)


def _by_period(names: Sequence[str], source: str) -> tuple[AmountColumn, ...]:
    found = []
    for name in names:
        period, scenario = split(name)
        if period is None:
            raise Mistake(
                f"{source}: the heading '{name}' is no period",
                "Write it as Jan 2026 or 2026-01, or name others.",
            )
        found.append(AmountColumn(name=name, period=period, scenario=scenario))
    if not found:
        raise Mistake(f"{source}: no heading is a period", "Write them as Jan 2026 or 2026-01.")
    return tuple(found)


def _date(columns: Sequence[Column], source: str) -> str | None:
    candidates = [column.name for column in columns if column.is_dates]
    return _the_one(candidates, DATE_NAMES[:1], "the date", "date", source) if candidates else None


def _amount(columns: Sequence[Column], source: str) -> str:
    figures = [column for column in columns if column.is_figures]
    candidates = [column.name for column in figures if not column.is_code] or [one.name for one in figures]
    if not candidates:
        # Unreadable cells may be in the majority: then the heading has to say it.
        candidates = [column.name for column in columns if column.name.casefold() in AMOUNT_NAMES]
    months = [column.name for column in figures if month_alone(column.name)]
    if len(months) > 1:
        raise Mistake(
            f"{source}: the months {months[0]} … {months[-1]} have no year",
            "Write the year in the headings, as in Jan 2026, or once above them.",
        )
    if not candidates:
        raise Mistake(f"no column of {source} holds figures", f"Name the column of amounts with {setting('amount')}.")
    entries = {name.strip().casefold(): name for name in candidates}
    for debit, credit in DEBITS_AND_CREDITS:
        if entries.keys() == {debit, credit}:
            entered = f"{entries[debit]} - {entries[credit]}"
            raise Mistake(
                f"{source}: {entries[debit]} and {entries[credit]} are in two columns",
                f"Say {setting('amount', entered)}, or the other way round where income counts up.",
            )
    return _the_one(candidates, AMOUNT_NAMES, "the amount", "amount", source)


def _scenario(columns: Sequence[Column]) -> str | None:
    texts = [column for column in columns if column.is_text]
    for wanted in SCENARIO_NAMES:
        for column in texts:
            if column.name.casefold() == wanted:
                return column.name
    # A row of the differences beside those of both sides is of neither.
    all_known = [
        column
        for column in texts
        if column.scenarios + column.variances == column.filled and (column.scenarios > 1 or not column.variances)
    ]
    return all_known[0].name if len(all_known) == 1 else None


def _label(columns: Sequence[Column], source: str) -> str:
    """The column that tells the rows apart best: of the texts, the first with the most different ones."""
    texts = [column for column in columns if column.is_text] or [column for column in columns if column.is_code]
    if not texts:
        raise Mistake(
            f"{source} has neither dates nor names to compare by",
            f"Name a column of categories with {setting('by')}.",
        )
    return max(texts, key=lambda column: column.distinct).name


def _the_one(candidates: Sequence[str], usual: Sequence[str], role: str, field: str, source: str) -> str:
    if len(candidates) == 1:
        return candidates[0]
    preferred = [name for name in candidates if name.casefold() in usual]
    if len(preferred) == 1:
        return preferred[0]
    several = preferred or list(candidates)
    raise Mistake(
        f"{source}: {' and '.join(several[:3])} could each be {role}",
        f"Say which, such as {setting(field, several[0])}.",
    )


def says_date(name: str) -> bool:
    """Whether a heading speaks of dates."""
    return any(word in DATE_NAMES for word in name.casefold().replace("_", " ").split())


def _is_most(some: int, of_all: int) -> bool:
    """Most cells are so: an odd unreadable one is then found and told, not taken for another kind."""
    return 2 * some > of_all
