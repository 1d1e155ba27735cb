"""Which columns are amounts: one, several by what their headings say, or the two sides of a row; it asks where two
could be."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from marvex.core.compare.scenario_words import ABBREVIATIONS, PLANNED_WORDS, are_versions, version_said
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.amount_names import adds_up, statistics_among
from marvex.core.structure.aspect_names import same_numbers_across
from marvex.core.structure.cost_names import speaks_of_money, unlike_measures
from marvex.core.structure.opposite_names import DEBITS_AND_CREDITS, IN_AND_OUT, UP_AND_DOWN
from marvex.core.structure.total_names import speaks_of_variance
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.columns import Column
from marvex.sources.columns_asked import ColumnsAsked, check_different, found_column
from marvex.sources.dates import month_alone, nested, period_alone, written
from marvex.sources.expression import named_in
from marvex.sources.headings import (
    SEVERAL_MONTHS,
    holds_several_months,
    part_beside_side,
    parted,
    runs_to_date,
    split,
    unlike_spans,
)
from marvex.sources.numbering import AMOUNT_NAMES, LEAST_NUMBERED, speaks_of_amounts
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
    is_amount_of_side,
    short_sides,
    wide_columns,
)
from marvex.sources.years_said import YEAR, said_headings

_LINES = {"fare", "fares", "fee", "fees", "cost", "costs", "spend", "headcount", "people"}  # names of lines as well
_FINEST_FIRST = "wpmqh"
PERIODS = {"m": "months", "w": "weeks", "q": "quarters", "h": "halves", "p": "periods"}  # by what names them alone
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


def amount_columns(
    free: Sequence[Column], asked: ColumnsAsked, names: Sequence[str], source: str, has_date: bool
) -> tuple[AmountColumn, ...]:
    if not asked.needs_amounts:
        return ()
    if asked.current is not None:
        sides = [one for one in (asked.current, asked.base) if one is not None]
        fields = ("current", "base")
        found = [found_column(one, names, source, field) for one, field in zip(sides, fields, strict=False)]
        check_different(found, "base", source)
        return tuple(AmountColumn(name=name, scenario=name) for name in found)
    chosen = [found_column(one, names, source, "amount") for one in asked.amounts]
    check_different(chosen, "amount", source)
    figures = [column.name for column in free if column.is_figures and not column.is_code]
    names = [column.name for column in free]
    if (len(chosen) > 1 or asked.headings_are) and (taken := [one for one in chosen if one not in names]):
        raise Mistake(f"{setting('amount')}: the call names {taken[0]} for something else too", "Name it for one.")
    texts = said_headings(names, asked.year, asked.dates, source)
    if asked.headings_are == "period":
        periods = {one: texts[one] for one in chosen or figures if chosen or split(texts[one])[0]}
        _check_year_of_periods(figures if not periods else (), source)
        wide = by_period(periods, source)
        if not chosen:
            check_each_once(wide, source)
            check_one_basis(wide, figures, source)
        return wide
    if asked.headings_are and not (chosen or figures):
        return (AmountColumn(name=_amount(free, source, asked.led_across)),)  # which says why there is none
    if asked.headings_are == "scenario":
        if len(sides := chosen or figures) == 1 and version_said(sides[0]) is None:
            raise Mistake(
                f"{source}: {sides[0]} is the only heading over figures, and no scenario",
                f"Leave {setting('headings_are')} out.",
            )
        return tuple(AmountColumn(name=name, scenario=name) for name in sides)
    if asked.headings_are is not None:
        of_all = [one for one in wide_columns({one: texts[one] for one in chosen or figures}) if one.category]
        _check_across(of_all or [AmountColumn(name=one, category=one) for one in chosen or figures], source)
        return tuple(of_all) or tuple(AmountColumn(name=name, category=name) for name in chosen or figures)
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
    of_all = list(wide_columns({one: texts[one] for one in chosen or in_order}))
    wide = tuple(one for one in of_all if not (has_date and one.period))
    if len(wide) > 1:
        check_months_said(wide, [one for one in figures if one not in {its.name for its in wide}], source)
        if not chosen:
            _check_entries([one.category for one in wide if one.category], source)
            check_each_once(wide, source)
            check_one_budget(wide, [one.name for one in free if one.is_figures], source)
            check_one_basis(wide, figures, source)
        _check_year_said(
            [texts[one] for one in in_order if not chosen and one not in {its.name for its in wide}], source
        )
        return wide
    if chosen:
        return tuple(AmountColumn(name=name, category=name) for name in chosen)
    return _of_plain_headings(free, texts, asked, source, has_date=has_date)


def _check_across(columns: Sequence[AmountColumn], source: str) -> None:
    """Raises Mistake where headings that are to be the values of a column hold one another, or the same numbers."""
    names = [one.name for one in columns]
    own = dict(zip(names, map(split, names), strict=True))
    is_plain = not any(one.period or one.scenario for one in columns)
    if is_plain:
        columns = [AmountColumn(name=name, period=of, scenario=side) for name, (of, side) in own.items()]
    check_each_once(columns, source)
    way = f"Leave {setting('headings_are')} out, or take some of them with {setting('amount', names[0])}."
    if len(names) > 1 and (several := [one for one in names if holds_several_months(one) or runs_to_date(one)]):
        raise Mistake(f"{source}: '{several[0]}' holds several months, and would be added to others", way)
    if not is_plain:
        return
    periods = {one: its for one in names if (of := own[one][0]) and (its := written(of))}
    if both := nested(periods):
        raise Mistake(f"{source}: '{both[0]}' stands beside '{both[1]}', which is a part of it", way)
    apart = [one for one in names if speaks_of_variance(one)]
    sides = [one for one in names if one not in apart]
    said = [version_said(spelled_out(one)) for one in sides]
    sided = [one for one in sides if own[one] != (None, None) or version_said(spelled_out(one))]
    if len(names) > 2 and sided == [names[0], names[-1]]:
        return  # which lead from one side to the other
    are_sides = are_versions(sides) or (apart and len(sides) > 1 and all(own[one] != (None, None) for one in sides))
    if are_sides or (all(said) and len({its.is_actual for its in said if its}) > 1):
        raise Mistake(
            f"{source}: {listed((*sides, *apart), 3)} are sides of the same numbers by name, and would be added up",
            way,
        )


def _of_plain_headings(
    free: Sequence[Column], texts: Mapping[str, str], asked: ColumnsAsked, source: str, *, has_date: bool
) -> tuple[AmountColumn, ...]:
    """The amounts where no headings say months or scenarios: the sides that stand beside one another, else the one."""
    own = [one for one in free if one.is_figures and not one.is_code]
    figures = [one.name for one in own]
    beside = [one for one in free if one.figures and not one.is_code]
    _check_year_said([texts[one] for one in figures], source)
    if both := against_plan(own) or short_sides(figures) or beside_its_base(beside):
        return both
    for current, (base, *_) in bases_beside(beside).items():
        raise Mistake(
            f"{source}: {_and([*bases_beside(beside)])} have each a column to be set against",
            f"Say which, such as {setting('current', current)} {setting('base', base)}.",
        )
    if len(asked.parts_across) > 1 and set(asked.parts_across) <= set(figures):
        statistics = statistics_among(figures)
        if others := [one for one in figures if one not in (*asked.parts_across, *statistics)]:
            sides = _two_sides([asked.total_across, *others]) if asked.total_across else []
            against = f"; or {setting('current', sides[0])} {setting('base', sides[1])}" if sides else ""
            raise Mistake(
                f"{source}: {listed(others, 2)} and {' + '.join(asked.parts_across[:3])} could each be the amount",
                f"Say which, such as {setting('amount', ','.join(asked.parts_across))}{against}.",
            )
        return tuple(AmountColumn(name=name, category=name) for name in figures if name not in statistics)
    name = _amount(free, source, asked.led_across)
    # The sheet of one month has its month as the only heading of amounts.
    period, of = split(texts[name])
    if period is None or has_date or any(column.is_dates for column in free):
        return (AmountColumn(name=name),)
    return (AmountColumn(name=name, period=period, scenario=of),)


def check_once(amounts: Sequence[AmountColumn], free: Sequence[Column], asked: ColumnsAsked, source: str) -> None:
    """Raises Mistake where a heading that was taken for that of the amounts stands over another column too."""
    figures = {column.name for column in free if column.is_figures} - {one.name for one in amounts}
    for one in amounts if not asked.amounts and asked.current is None else ():
        if (second := f"{one.name} 2") in figures:  # as the second of a name is called
            raise Mistake(
                f"{source} has two columns called '{one.name}'",
                f"Say which: {setting('amount', one.name)} is the first, {setting('amount', second)} the second"
                + (f"; or {setting('current')} and {setting('base')}." if one.scenario else "."),
            )


def _amount(columns: Sequence[Column], source: str, led: Sequence[str]) -> str:
    figures, by_name = [column for column in columns if column.is_figures], {one.name: one for one in columns}
    candidates = [column.name for column in figures if not column.is_code and not column.numbers_rows]
    candidates = [name for name in candidates if not _may_be_code(by_name[name])] or candidates
    if not candidates:
        # Unreadable cells may be in the majority: then the heading has to say it.
        candidates = [column.name for column in columns if column.name.casefold() in AMOUNT_NAMES]
    _check_year_of_periods([column.name for column in figures], source, of=len(candidates))
    if not candidates:
        codes = [column.name for column in figures]
        numbering = [column.name for column in figures if column.numbers_rows]
        but = f" but {listed(codes, 3)}, a code by its name" if codes else ""
        but = f" but {listed(numbering, 3)}, which numbers the rows" if numbering else but
        raise Mistake(
            f"no column of {source} holds figures{but}", f"Name the column of amounts with {setting('amount')}."
        )
    _check_entries(candidates, source)
    # What a plan stands beside is not taken alone.
    usual = () if any(one.casefold() in PLANNED_WORDS for one in candidates) else AMOUNT_NAMES
    # `Amount` beside `Amount EUR` may be of any currency.
    again = {without_unit(one).casefold() for one in candidates if without_unit(one) != one.strip()}
    return the_one(candidates, [one for one in usual if one not in again], "the amount", "amount", source, led)


def _check_year_of_periods(names: Sequence[str], source: str, of: int = 0) -> None:
    """Raises Mistake where headings are periods alone, such as 'Jan' and 'Feb', or months and their quarters.

    Parameters
    ----------
    of : of how many columns they would have to be all, to be of two kinds; 0 of any.
    """
    alone = [(one, named) for one in names if (named := period_alone(one)) and named[0]]
    if len(kinds := {letter for _, (letter, _) in alone}) > 1 and len(alone) == (of or len(alone)):
        shortest = next(one for one in _FINEST_FIRST if one in kinds)  # of months beside their quarters
        alone = [one for one in alone if one[1][0] == shortest]
    if len(alone) > 1 and len({letter for _, (letter, _) in alone}) == 1:
        raise _no_year(alone[0][1][0], [one for one, _ in alone], source)


def _check_entries(names: Sequence[str], source: str) -> None:
    """Raises Mistake where amounts are in two columns by their direction: debits beside credits."""
    entries = {name.strip().casefold(): name for name in names}
    for pair in (*DEBITS_AND_CREDITS, *IN_AND_OUT, *UP_AND_DOWN):
        if entries.keys() - _BALANCES == set(pair):
            one, other = (entries[name] for name in pair)
            net = " - ".join(map(named_in, (one, other)))
            turned = ", or the other way round where income counts up" if pair in DEBITS_AND_CREDITS else ""
            raise Mistake(f"{source}: {one} and {other} are in two columns", f"Say {setting('amount', net)}{turned}.")


def _check_year_said(headings: Sequence[str], source: str) -> None:
    """Raises Mistake where headings say a part of a year beside a scenario, and no year: 'Jan Act', 'Feb Act'."""
    found = {one: kind for one in headings if (kind := part_beside_side(one)[1])}
    finest = next((kind for kind in _FINEST_FIRST if kind in found.values()), "")  # of quarters beside their halves
    if len(named := [one for one, kind in found.items() if kind == finest]) > 1:
        raise _no_year(finest, named, source)


def _no_year(kind: str, headings: Sequence[str], source: str) -> Mistake:
    return Mistake(
        f"{source}: the {PERIODS[kind]} {headings[0]} … {headings[-1]} have no year",
        f"Say which: {setting('year', '2026')}, or {setting('year', '2025/26')} where they run over two.",
    )


def _may_be_code(column: Column) -> bool:
    """Whether figures may as well be a code: a firm's, the same in every row; a bus line's, with X5 among them; 1 to 12
    of a period."""
    is_one = column.distinct == 1 and column.filled >= LEAST_NUMBERED
    is_part = column.says_date and not column.is_beyond
    return (is_one or is_part or 10 * column.figures < 9 * column.filled) and not speaks_of_amounts(column.name)


def _may_be_side(heading: str) -> bool:
    """Whether a heading is no plain name: it says an amount, a number, a period or a side of one."""
    words = spelled_out(heading)
    is_side = parted(words).is_said or version_said(words) is not None or SEVERAL_MONTHS.search(words) is not None
    is_side = is_side or not ABBREVIATIONS.isdisjoint(words.casefold().split())
    is_timed = (
        _OF_A_TIME.search(words) is not None or any(map(str.isdecimal, words)) or month_alone(words) is not None
    )
    return speaks_of_amounts(heading) or is_side or is_timed


def the_one(
    candidates: Sequence[str], usual: Sequence[str], role: str, field: str, source: str, led: Sequence[str] = ()
) -> str:
    if len(candidates) == 1:
        return candidates[0]
    preferred = [name for name in candidates if spelled_out(name).casefold() in usual]
    # What comes to a balance row by row is a bank's, beside the amounts that it is made of.
    preferred = [name for name in preferred if name.casefold() not in _BALANCES] or preferred
    are_lines = field == "amount" and (bool(led) or _are_lines(candidates))
    may_be_line = len(preferred) == 1 and field == "amount" and spelled_out(preferred[0]).casefold() in _LINES
    beside = [one for one in candidates if one not in preferred and speaks_of_money(one)] if may_be_line else []
    if len(preferred) == 1 and not (may_be_line and (are_lines or beside)):
        return preferred[0]
    either = [one for one in candidates if one in preferred or one in beside]
    several = list(candidates) if are_lines else either or list(candidates)
    sides = _two_sides(several) if field == "amount" else []
    two = "; or set two against one another: " + " ".join(map(setting, ("current", "base"), sides))
    adding = [one for one in several if adds_up(one)] if field == "amount" else []
    together = f"; {setting('headings_are', 'line')} compares them all" if are_lines else ""
    # A column of a period or a side is hardly a number of stores.
    such_as = max(adding or several[:1], key=lambda one: (speaks_of_money(one), parted(one).is_said))
    what = f"{source}: {_and(several)} could each be {role}"
    if led:
        leads = f"{setting('headings_are', 'step')} leads from {led[0]} to {led[-1]}"
        raise Mistake(what, f"{leads}; {setting(field, such_as)} takes that one alone.")
    raise Mistake(
        what,
        f"Say which, such as {setting(field, such_as)}{two if len(sides) > 1 else together}.",
    )


def _two_sides(names: Sequence[str]) -> list[str]:
    """The current side and its base, where a plan or two times among the columns say which they are."""
    sides = [one for one in names if _OF_A_TIME.search(one)][:2]
    sides.sort(key=lambda one: max(YEAR.findall(one), default=""), reverse=True)  # the later year is the current one
    times = {tuple(_OF_A_TIME.findall(one.casefold())) for one in sides}
    if len(times) < 2 or unlike_spans(*sides):  # of one year, or a month and the year to date
        sides = []
    return _beside_a_plan(names) or sides


def _beside_a_plan(names: Sequence[str]) -> list[str]:
    """The one column that is set against a plan, and the plan: 'Spent to date' and 'Annual budget', not 'Remaining'."""
    planned = [one for one in names if str(parted(one).scenario).casefold() in PLANNED_WORDS]
    others = [one for one in names if one not in planned and is_amount_of_side(one)]
    return [*others, *planned] if len(planned) == len(others) == 1 else []


def _is_kind_of_money(name: str) -> bool:
    return speaks_of_money(name) and spelled_out(name).casefold() not in AMOUNT_NAMES


def _are_lines(names: Sequence[str]) -> bool:
    """Whether columns may be lines side by side, each an amount of its own that is added to the others."""
    others = [one for one in names if spelled_out(one).casefold() not in _LINES and not _is_kind_of_money(one)]
    are_sides = any(map(_may_be_side, others))
    is_plain = not are_sides and not unlike_measures([*names, "Net"]) and not same_numbers_across(names)
    return is_plain and all(map(adds_up, names))


def _and(names: Sequence[str], most: int = 3) -> str:
    return " and ".join((*names[:most], *([f"{len(names) - most} more"] if len(names) > most else [])))
