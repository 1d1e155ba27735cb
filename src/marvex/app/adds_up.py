"""What headings, titles, flags and values of columns say against adding rows up: asked before anything is added."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from itertools import takewhile

from marvex.app.line_names import check_names
from marvex.app.subject import GENERAL
from marvex.app.to_date import check_from_the_start
from marvex.app.values_by_row import product_across
from marvex.core.compare.plan import Plan
from marvex.core.compare.point import NO_NAME
from marvex.core.compare.scenario_words import ABBREVIATIONS, are_versions, version_said
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.amount_names import adds_up, is_balance, is_level, is_rate
from marvex.core.structure.aspect_names import (
    NO,
    YES,
    hints_at_ways,
    is_flag_of_others,
    is_flag_of_parts,
    same_numbers,
    same_numbers_across,
)
from marvex.core.structure.cost_names import speaks_of_money, unlike_measures
from marvex.core.structure.total_names import is_balance_name, is_strong_result
from marvex.core.time.calendar import Grain, is_finer
from marvex.core.words.spelled_out import spelled_out
from marvex.request.request import Request
from marvex.sources.dates import period_alone, written
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.source import Source
from marvex.sources.engine.undated import undated_column
from marvex.sources.expression import columns_in, parse_expression
from marvex.sources.headings import ROLLING, holds_several_months, parted, runs_to_date
from marvex.sources.where import filter_text

# Behind the measure of a title, or after what it is of: 'Headcount by department, 2026'.
_BY = (
    r"\s+(?:by|per month|for each|as (?:at|of|on)|at (?:the )?(?:month|quarter|year|period)?[- ]?end)\b|"
    r"\s*[,:(\[]|\s[-–—|]\s|\s+(?:fy)?(?:19|20)\d\d\b"
)
_PRICE, _QUANTITIES = "price", {"quantity", "qty", "units", "pieces", "volume", "hours", "nights"}
# Words that hardly say anything else than which version of the numbers a row is, and how many others may stand beside.
_PLAINLY = frozenset({"actual", "actuals", "budget", "forecast"})
_SHORTENED = ABBREVIATIONS - {"act", "acts", "est"}  # which places and directions are called, too
_LETTERS = frozenset("abfp")  # of actual, budget, forecast and plan
_REACHED = frozenset({"achieved", "reached", "realised", "realized", "done", "delivered", "spent", "posted"})
MOST_BESIDE = 5


def check_adds_up(book: Ledger, planned: Sequence[Plan], request: Request) -> None:
    """Raises Mistake where amounts would be added up that by their heading do not, unless a sum was asked for."""
    if not request.adds_unasked or request.total_as.per is not None:
        return
    is_closing = request.total_as.way is Total.CLOSING
    for source in book.sources:
        _check_flags(source)
        _check_parts_of_years(source)
        _check_same_numbers(source)
        if planned:  # of what rolls forward only the movements are added up
            _check_measures(source)
        amounts = _amounts_of(source)
        names = [spelled_out(one) for one in amounts]
        # `Load factor 2025` and `Load factor 2026` are both of the load factor.
        bare = {parted(one).rest or one for one in names}
        only = bare.pop() if len(bare) == 1 else ""
        only, of_what = _measure_said(source, only)
        quantity = next((one for one in source.headings if one.strip().casefold() in _QUANTITIES), None)
        if source.roles.runs_to_date and not is_closing:
            check_from_the_start(source, planned)
        is_running = any(map(runs_to_date, names)) or source.file.runs_to_date
        by_what = "its title or its name" if source.file.runs_to_date else of_what
        what = ""
        is_rolling = any(map(ROLLING.search, names))
        several = not is_closing and any(holds_several(book, plan) for plan in planned)
        if (is_running or is_rolling or is_balance(only)) and several:
            is_so = "runs to date" if is_running else "holds several months each" if is_rolling else "is a balance"
            what = f"{is_so} by {by_what}, and its dates do not add up"
            way = f"{setting('total_as', 'closing')}, which takes the last of a window"
        elif only.casefold() == _PRICE and quantity is not None:
            what = f"stands beside {quantity}, and prices do not add up"
            way = setting("amount", f"{quantity} * {amounts[0]}")
        elif is_closing and source.roles.has_dates and not any(one.rows > 1 for one in book.kept_by_day()):
            continue  # nothing of one date is added up
        elif is_rate(only) or (is_level(only) and _is_by_month(book)):
            what = f"is a rate by {of_what}, and rates do not add up"
            way = f"{setting('total_as', 'mean')}, or divide totals by totals with {setting('per', 'COL')}"
        elif is_closing and source.is_percentages:
            what = "holds percentages, which do not add up"
            way = setting("total_as", "mean")
        if what:
            taken = source.roles.taken
            money = (
                one.name
                for one in source.columns
                if one.figures and one.name not in taken and speaks_of_money(one.name)
            )
            other = next((f"or {setting('amount', one)} instead; " for one in money), "")
            as_sum = f"{other}{setting('total_as', 'sum')} adds up all the same"
            name = amounts[0] if of_what == "its heading" else only
            raise Mistake(f"{source.name}: {name} {what}", f"Say {way}; {as_sum}.")


def _amounts_of(source: Source) -> list[str]:
    """The headings of amounts; of what is one column times or over a number, that one: `Balance / 1000`."""
    found: list[str] = []
    for one in source.roles.amounts:
        names: tuple[str, ...] = (one.name,)
        if one.name in source.worked_out:
            names = columns_in(parse_expression(one.name, source.headings, source.name))
        found += names if len(names) == 1 else ()
    return found


def _check_parts_of_years(source: Source) -> None:
    """Raises Mistake where periods that say no year are months and quarters, or others that hold one another."""
    column = undated_column(source)
    kept = [one for one in source.filters if one.column == column]
    texts = [one for one in source.rows.values(column) if all(its.keeps(one) for its in kept)] if column else []
    several = sorted(text for text in texts if holds_several_months(text))
    if several and len(texts) > 1:
        raise Mistake(
            f"{source.name}: {column} '{several[0]}' holds several months by its name, and would be added to others",
            f"Keep one with {setting('where', filter_text(column, '=', several[-1:]))}; "
            f"{setting('total_as', 'sum')} adds up all the same.",
        )
    kinds: dict[str, list[tuple[int, str]]] = {}
    for text in texts:
        if named := period_alone(text):
            kinds.setdefault(named[0], []).append((named[1], text))
    in_order = [sorted(kinds[one]) for one in "hqmpw" if one in kinds]
    if len(in_order) > 1 and kinds.keys() & {"h", "q"}:
        longer, ((_, part), *_) = [text for _, text in in_order[0]], in_order[1]
        raise Mistake(
            f"{source.name}: {column} '{longer[0]}' stands beside '{part}', and would count with it",
            f"{setting('where', filter_text(column, '!=', longer))} leaves the longer out; "
            f"{setting('total_as', 'sum')} adds up all the same.",
        )


def _measure_said(source: Source, heading: str) -> tuple[str, str]:
    """What amounts are of and what says so: their heading; where that is a period or says nothing, what stands above.

    Parameters
    ----------
    heading : what theirs say beside their periods.
    """
    if heading.strip().casefold() not in ("", *GENERAL):
        return heading, "its heading"
    texts = (one.name for one in source.columns if one.is_text and one.name not in source.roles.taken)
    corner = next((one for one in (*source.roles.by[:1], *texts) if one in source.headings), "")
    names = _names_under(source, corner) if corner else []
    are_classes = 2 * sum(any(map(str.isdecimal, one)) for one in names) > len(names)  # 0–17, 18–24 … of an age
    said = [
        ("" if are_classes else corner, f"the heading {corner}"),
        (source.file.sheet or "", "the name of its sheet"),
    ]
    for text, what in (*said, *((one, "the title above") for one in source.file.titles)):
        measure = re.split(_BY, text.strip(), flags=re.IGNORECASE)[0].strip()
        if is_balance(measure) or is_rate(measure) or is_level(measure):
            return measure, what
    if measure := _measure_shared(names):
        return measure, f"the names of its {corner}"
    return heading, "its heading"


def _names_under(source: Source, column: str) -> list[str]:
    """The different names of a column that are kept, as its first rows show them."""
    kept = [one for one in source.filters if one.column == column]
    names = {name for row in source.sample if (name := (row[source.headings.index(column)] or "").strip())}
    return [name for name in sorted(names) if all(one.keeps(name) for one in kept)]


def _measure_shared(names: Sequence[str]) -> str:
    """The balance, rate or level that all names are of: 'Load factor' of those of North and of South."""
    words = zip(*(name.split() for name in names), strict=False)
    shared = [each[0] for each in takewhile(lambda each: len(set(each)) == 1, words)]
    said = (" ".join(shared[:size]) for size in range(len(shared), 0, -1))
    return next((one for one in said if is_balance(one) or is_rate(one) or is_level(one)), "")


def _check_flags(source: Source) -> None:
    """Raises Mistake where a column says yes of rows that are totals, or of a budget, and no of all others."""
    for column in source.columns if not source.roles.each_row else ():
        could_be = column.few and all(not one or YES.fullmatch(one) or NO.fullmatch(one) for one in column.few)
        cells = source.values(column.name) if could_be else ()
        are_parts = is_flag_of_parts(column.name, cells)
        is_flag = are_parts or is_flag_of_others(column.name, cells, is_text=column.is_text)
        filters = [one for one in source.filters if one.column == column.name]
        are_both = len({bool(YES.fullmatch(one)) for one in cells if all(its.keeps(one) for its in filters)}) > 1
        if is_flag and (are_both or not filters):
            kept = next(one for one in sorted(cells) if (YES.fullmatch(one) is not None) is are_parts) or NO_NAME
            raise Mistake(
                f"{source.name}: {column.name} marks rows that are not to be added up with the others",
                f"Keep these with {setting('where', filter_text(column.name, '=', [kept]))}; "
                f"{setting('total_as', 'sum')} adds them up all the same.",
            )


def _check_same_numbers(source: Source) -> None:
    """Raises Mistake where a column says in which version or way a row gives the same numbers, or may do so."""
    roles = source.roles
    taken = {roles.date, roles.per, roles.scenario}
    as_sum = f"{setting('total_as', 'sum')} adds them up"
    for column in source.columns if not roles.each_row else ():
        is_version = any(one.casefold() in _LETTERS or version_said(one) for one in column.few)
        is_version = is_version and not roles.has_scenarios
        if column.name in taken or not column.is_text or not (is_version or hints_at_ways(column.few)):
            continue
        if roles.by == (column.name,) and column.distinct == column.filled and not roles.has_dates:
            continue  # the names of a list
        kept = [one for one in source.filters if one.column == column.name]
        # First rows that are all alike may be those of one export, with those of another after them.
        found = column.few if len(column.few) > 1 else source.rows.values(column.name)
        names = [name for name in found if name and all(one.keeps(name) for one in kept)]
        # What is brought forward among dated rows is a balance, and is told of as such.
        if roles.has_dates:
            names = [name for name in names if not is_balance_name(name)]
        if alike := same_numbers(column.name, names):
            # Rows that say none of these, as actuals beside versions of a budget, stay.
            place = source.headings.index(column.name)
            are_all = len(alike) == len(names) and all((row[place] or "").strip() for row in source.sample)
            condition = filter_text(column.name, *(("=", alike[:1]) if are_all else ("!=", alike[1:])))
            raise Mistake(
                f"{source.name}: {column.name} says {listed(alike, 4)}, which are the same numbers in several ways",
                f"Keep one with {setting('where', condition)}; {as_sum} all the same.",
            )
        said = {name: its for name in names if (its := version_said(name)) and not its.rest}
        may_be = are_versions(names) or (column.name not in roles.by and _may_be_versions(names, said))
        if may_be and not roles.has_scenarios:
            raise Mistake(
                f"{source.name}: {column.name} says {listed(names, 4)}, which may be versions of the same numbers",
                f"{setting('scenario', column.name)} takes them so; {as_sum}.",
            )


def _may_be_versions(names: Sequence[str], said: Collection[str]) -> bool:
    """Whether values of a column that nothing is compared by may be versions of the same numbers.

    Parameters
    ----------
    said : those of them that say a scenario.
    """
    words = {one.casefold() for one in names}
    if "a" in words and words <= _LETTERS:
        return not words <= {"a", "b"}  # as products may be called
    if (words & _REACHED and said) or (len(words) == 2 and words & _SHORTENED):
        return True
    return not words.isdisjoint(_PLAINLY) and 0 < len(names) - len(said) <= MOST_BESIDE


def _check_measures(source: Source) -> None:
    """Raises Mistake where columns of money stand beside columns that count something, or say it in another way."""
    of_headings = {one.name: one.category for one in source.roles.amounts if one.category}
    lines = source.statement.lines if source.statement is not None else ()
    proven = {part for line in lines for part in line.total_of}  # whatever they are called
    proven.update(source.file.led_across)
    headings = [one for one in dict.fromkeys(of_headings.values()) if one not in proven]
    what, kept = "", headings[:1]
    if len(headings) > 2 and (product := product_across(source)) is not None:
        one, other, of_both = product
        kept, what = [of_both], f"{one}, {other} and {of_both}, which is {one} times {other}, are unlike"
    elif counted := unlike_measures(headings):
        amounts = [one for one in headings if one not in counted]
        # Of an average fare and what was taken for it, the latter is what adds up.
        adding = [one for one in amounts if adds_up(one)]
        what, kept = f"{listed(counted, 3)} and {listed(amounts, 3)} are unlike", (adding or amounts)[:1]
    elif len(headings) > 1 and (results := [one for one in headings if is_strong_result(one)]):
        kept = [one for one in headings if one not in results] or headings[:1]
        what = f"{listed(results, 3)} {'is' if len(results) == 1 else 'are'} what is left of other amounts by name"
    elif len(headings) > 1 and source.roles.headings:
        check_names(source.name, source.roles.headings, headings, of_headings)
    if not what and (alike := same_numbers_across(headings)):
        kept, what = list(alike)[:1], f"{listed(alike, 4)} are the same numbers in several ways"
    if what:
        own = ",".join(name for name, heading in of_headings.items() if heading in kept)
        of = "of one" if len(kept) == 1 else "that add up"
        raise Mistake(
            f"{source.name}: {what}, and would be added up",
            f"Name those {of} with {setting('amount', own)}; {setting('total_as', 'sum')} adds up all the same.",
        )


def _is_by_month(book: Ledger) -> bool:
    """Whether the data are kept by month, or by longer periods."""
    grains = [one.grain for one in book.scenarios]
    return all(grain is not None and not is_finer(grain, Grain.MONTH) for grain in grains)


def holds_several(book: Ledger, plan: Plan) -> bool:
    """Whether a side has several of its scenario's dates, maybe as the headings that it is compared by."""
    across = ([one.category for one in of.roles.amounts if written(one.category or "")] for of in book.sources)
    if any(len(one) > 1 for one in across):
        return True
    known = {one.name: one for one in book.scenarios}
    stretches = [one for side in plan.sides for one in side.span.stretches if one.scenario in known]
    return any(len(known[one.scenario].days_within(one.first, one.last)) > 1 for one in stretches)
