"""What would add up what does not belong together, or compare it: stopped before anything is asked for."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from datetime import date
from decimal import Decimal
from itertools import combinations, pairwise

from marvex.app.line_names import check_names
from marvex.app.own_variances import own_variances
from marvex.app.subject import GENERAL
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.plan import Plan
from marvex.core.compare.point import JOINS, NO_NAME
from marvex.core.compare.scenario_words import ABBREVIATIONS, are_versions, is_planned, version_said
from marvex.core.compare.totals import Total
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import EXACT, ZERO
from marvex.core.structure.amount_names import is_balance, is_level, is_rate
from marvex.core.structure.aspect_names import (
    YES,
    hints_at_ways,
    is_flag_of_others,
    is_flag_of_parts,
    same_numbers,
    same_numbers_across,
)
from marvex.core.structure.cost_names import (
    ACCOUNT_CODES,
    ACCOUNT_NAMES,
    COST,
    INCOME,
    KINDS,
    income_and_costs,
    unlike_measures,
)
from marvex.core.structure.opposite_names import opposed
from marvex.core.structure.total_names import is_balance_name
from marvex.core.time.calendar import Grain, is_finer
from marvex.request.request import Request
from marvex.sources.dates import period_alone
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.met import met
from marvex.sources.engine.source import Source
from marvex.sources.engine.undated import undated_column
from marvex.sources.headings import ROLLING, RUNNING, parted
from marvex.sources.roles import UNNAMED_HEADINGS
from marvex.sources.scales import code_of
from marvex.sources.where import filter_text

_DOLLARS = frozenset({"USD", "CAD", "AUD", "NZD", "SGD", "HKD", "MXN"})
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
# Of a column that says which version of the same numbers a row is.
_VERSIONS = re.compile(
    r"\b(?:version|revision|snapshot|iteration|vintage|(?:extract(?:ion)?|load|run) date)\b|"
    r"(?:extract(?:ion)?|upload)(?: (?:id|no|number))?$|(?:load|import) (?:id|no|number)$",
    re.I,
)
MOST_VERSIONS, SAME_DAYS = 12, 0.8


def check_sources(book: Ledger, request: Request) -> None:
    """Raises Mistake where scenarios, units or currencies of the sources are not what a figure can be made of."""
    _check_scenarios(book)
    if request.total_as.adds_up:
        _check_units(book)
    _check_currencies(book)


def check_adds_up(book: Ledger, planned: Sequence[Plan], request: Request) -> None:
    """Raises Mistake where amounts would be added up that by their heading do not, unless a sum was asked for."""
    if request.total_as.way is not Total.SUM or request.total_as.is_divided or request.settings.total_as is not None:
        return
    for source in book.sources:
        _check_flags(source)
        _check_parts_of_years(source)
        _check_same_numbers(source)
        _check_measures(source)
        amounts = [one.name for one in source.roles.amounts if one.name not in source.worked_out]
        names = [one.replace("_", " ").strip() for one in amounts]
        # `Load factor 2025` and `Load factor 2026` are both of the load factor.
        bare = {parted(one).rest or one for one in names}
        only = bare.pop() if len(bare) == 1 else ""
        only, of_what = _measure_said(source, only)
        quantity = next((one for one in source.headings if one.strip().casefold() in _QUANTITIES), None)
        is_running = any(map(RUNNING.search, names)) or source.file.runs_to_date
        by_what = "the titles above" if source.file.runs_to_date else of_what
        what = ""
        is_rolling = any(map(ROLLING.search, names))
        if (is_running or is_rolling or is_balance(only)) and any(holds_several(book, plan) for plan in planned):
            is_so = "runs to date" if is_running else "holds several months each" if is_rolling else "is a balance"
            what = f"{is_so} by {by_what}, and its dates do not add up"
            way = f"{setting('total_as', 'closing')}, which takes the last of a window"
        elif only.casefold() == _PRICE and quantity is not None:
            what = f"stands beside {quantity}, and prices do not add up"
            way = setting("amount", f"{quantity} * {amounts[0]}")
        elif is_rate(only) or (is_level(only) and _is_by_month(book)):
            what = f"is a rate by {of_what}, and rates do not add up"
            way = f"{setting('total_as', 'mean')}, or divide totals by totals with {setting('per', 'COL')}"
        if what:
            as_sum = f"{setting('total_as', 'sum')} adds up all the same"
            name = amounts[0] if of_what == "its heading" else only
            raise Mistake(f"{source.name}: {name} {what}", f"Say {way}; {as_sum}.")


def _check_parts_of_years(source: Source) -> None:
    """Raises Mistake where periods that say no year are months and quarters, or others that hold one another."""
    column = undated_column(source)
    kept = [one for one in source.filters if one.column == column]
    texts = [one for one in source.rows.values(column) if all(its.keeps(one) for its in kept)] if column else []
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
    corner = source.roles.by[0] if source.roles.by and source.roles.by[0] in source.headings else ""
    said = [(corner, f"the heading {corner}"), (source.file.sheet or "", "the name of its sheet")]
    for text, what in (*said, *((one, "the title above") for one in source.file.titles)):
        measure = re.split(_BY, text.strip(), flags=re.IGNORECASE)[0].strip()
        if is_balance(measure) or is_rate(measure) or is_level(measure):
            return measure, what
    return heading, "its heading"


def _check_flags(source: Source) -> None:
    """Raises Mistake where a column says yes of rows that are totals, or of a budget, and no of all others."""
    narrowed = {one.column for one in source.filters}
    for place, column in enumerate(source.columns if not source.roles.each_row else ()):
        cells = {(row[place] or "").strip() for row in source.sample} if column.few else set()
        are_parts = is_flag_of_parts(column.name, cells)
        is_flag = are_parts or is_flag_of_others(column.name, cells, is_text=column.is_text)
        if column.name not in narrowed and is_flag:
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


def _is_by_month(book: Ledger) -> bool:
    """Whether the data are kept by month, or by longer periods."""
    grains = [one.grain for one in book.scenarios]
    return all(grain is not None and not is_finer(grain, Grain.MONTH) for grain in grains)


def holds_several(book: Ledger, plan: Plan) -> bool:
    """Whether a side has several of its scenario's dates."""
    known = {one.name: one for one in book.scenarios}
    stretches = [one for side in plan.sides for one in side.span.stretches if one.scenario in known]
    return any(len(known[one.scenario].days_within(one.first, one.last)) > 1 for one in stretches)


def check_versions(book: Ledger, planned: Sequence[Plan], request: Request) -> None:
    """Raises Mistake where a side has rows of several versions of the same days.

    Of a budget a day in common is enough. Actuals may come load by load: those are versions where they are of nearly
    the same days, unless a sum was asked for.
    """
    sides = {one.scenario for plan in planned for side in plan.sides for one in side.span.stretches}
    for source in book.sources:
        taken = {source.roles.scenario, source.roles.date, *source.roles.by}
        for column in source.headings:
            if column in taken or not _VERSIONS.search(column.replace("_", " ")):
                continue
            of_scenarios: dict[str | None, dict[str, set[date | None]]] = {}
            for version, scenario, day, *_ in book.met(source, column):
                of_scenarios.setdefault(scenario, {}).setdefault(version, set()).add(day)
            for scenario in sorted(of_scenarios.keys() & sides, key=str):
                is_sum = request.settings.total_as is not None
                if is_planned(scenario) or (not is_sum and _are_of_same_days(list(of_scenarios[scenario].values()))):
                    _check_apart(source, column, scenario, of_scenarios)


def _are_of_same_days(days: Sequence[set[date | None]]) -> bool:
    return 1 < len(days) <= MOST_VERSIONS and all(
        len(one & other) > SAME_DAYS * max(len(one), len(other)) for one, other in combinations(days, 2)
    )


def _check_apart(
    source: Source,
    column: str,
    scenario: str | None,
    of_scenarios: Mapping[str | None, Mapping[str, set[date | None]]],
) -> None:
    """Raises Mistake where two versions of a scenario have rows of one day; says how to keep the last of them."""
    found = of_scenarios[scenario]
    in_order = sorted(found, key=lambda one: (int(one) if one.isdecimal() else 0, one))
    *earlier, last = in_order
    if not any(found[one] & found[other] for one, other in combinations(found, 2)):
        return
    others = {version for other, its in of_scenarios.items() if other != scenario for version in its}
    if others & set(earlier):
        file = source.file.title
        alone = setting("where", f"{scenario}={filter_text(column, '=', [last])}")
        way = f"Keep the last: actual={file} {scenario}={file} {alone}."
    else:
        way = f"Keep the last with {setting('where', filter_text(column, '!=', earlier))}."
    what = f"{scenario} has rows" if scenario else "there are rows"
    if not is_planned(scenario):
        way += f" {setting('total_as', 'sum')} adds them all up."
    raise Mistake(f"{source.name}: {what} of several versions ({column} {listed(in_order, 4)})", way)


def check_kinds(book: Ledger, comparison: Comparison, request: Request) -> None:
    """Raises Mistake where income and costs that are both stored as positive would be added up."""
    settings = request.settings
    if not kinds_are_unsaid(book, request) or not book.width:
        return
    points = comparison.panel_totals if comparison.every else comparison.points
    amounts = {point.category or "": point.current or point.base or ZERO for point in points}
    if settings.total_as is None:
        roles = book.first.roles
        width = len(roles.by)
        may_stand = settings.is_of_list or _can_deduct(comparison, request)
        joined = [name.rsplit(JOINS, width - 1) for name in amounts]
        for place, column in enumerate(roles.by):
            names = dict.fromkeys(one[place] for one in joined if len(one) == width)
            # Headings that nothing names a column after are chosen by their columns.
            are_headings = roles.headings == column == UNNAMED_HEADINGS
            columns = {one.name: one.category or "" for one in roles.amounts} if are_headings else {}
            check_names(book.name, column, list(names), columns, may_stand=may_stand)
        _check_opposites(book, amounts, roles.by[0], can_deduct=_can_deduct(comparison, request))
    column = book.first.roles.by[0]
    for of_kind, income, costs, so in _kinds_said(book, comparison, amounts):
        if income and costs and _positive(of_kind, income) and _positive(of_kind, costs):
            can_deduct = _can_deduct(comparison, request)
            deducted = f"{setting('deductions', ','.join(costs))} names what lowers a total; " if can_deduct else ""
            raise _mixed_kinds(book.name, book.first, column, (income[0], costs[0]), deducted, so)
    both = next((one.file.both_kinds for one in book.sources if not one.filters and one.file.both_kinds), None)
    if both is not None:
        raise _mixed_kinds(book.name, book.first, book.first.roles.by[-1], both, "")


def _kinds_said(
    book: Ledger, comparison: Comparison, amounts: Mapping[str, Decimal]
) -> Iterator[tuple[Mapping[str, Decimal], Sequence[str], Sequence[str], str]]:
    """Amounts, which of them are income and which costs, by name, a column of kinds or variances, and what says so."""
    income, costs = income_and_costs(list(amounts))
    yield amounts, income, costs, ""
    if (not income or not costs) and all(amount >= 0 for amount in amounts.values()):
        of_kind = _by_kind(book, comparison)
        yield of_kind, *kinds_of(KINDS[0], list(of_kind)), ""
    if signs := own_variances(book.first, comparison):
        yield amounts, signs.income, signs.costs, f" by the signs of {signs.heading}"


def _can_deduct(comparison: Comparison, request: Request) -> bool:
    """Whether what lowers a total can be named."""
    return comparison.base is None and "deductions" in request.place.takes


def _check_opposites(book: Ledger, amounts: Mapping[str, Decimal], column: str, *, can_deduct: bool) -> None:
    """Raises Mistake where what is compared takes from one another by its names, and would be added up."""
    sides = opposed(list(amounts), alone=False)
    if sides is None or min(amounts[one] for one in sides) <= 0:
        return
    deducted = f"{setting('deductions', sides[1])} names what lowers a total; " if can_deduct else ""
    raise Mistake(
        f"{book.name}: '{sides[0]}' and '{sides[1]}' take from one another by name, both are positive, and would be "
        "added up",
        f"{deducted}{setting('where', filter_text(column, '!=', sides[1:]))} leaves one out; a statement "
        f"({setting('statement')}) says which is subtracted; {setting('total_as', 'sum')} adds up all the same.",
    )


def kinds_are_unsaid(book: Ledger, request: Request) -> bool:
    """Whether amounts are added up, and nothing says which of them are income and which are costs."""
    settings = request.settings
    is_said = settings.statement or settings.deductions or settings.source_sign or settings.keeps_totals
    return book.statement is None and request.total_as.way is Total.SUM and not is_said


def check_kinds_of(source: Source, column: str, amounts: Mapping[str, Decimal], *, is_sum: bool = False) -> None:
    """The same of a column that nothing is compared by, with what each of its values comes to.

    Parameters
    ----------
    is_sum : a sum was asked for, also of what takes from one another.
    """
    income, costs = kinds_of(column, list(amounts))
    if income and costs and _positive(amounts, income) and _positive(amounts, costs):
        kept = setting("where", filter_text(column, "=", income[:1]))
        raise _mixed_kinds(source.name, source, column, (income[0], costs[0]), f"{kept} keeps one; ")
    sides = None if is_sum else opposed(list(amounts))
    if sides is not None and _positive(amounts, sides[:1]) and _positive(amounts, sides[1:]):
        raise Mistake(
            f"{source.name}: {column} says '{sides[0]}' and '{sides[1]}', both are positive, and would be added up",
            f"Keep one with {setting('where', filter_text(column, '=', sides[:1]))}; "
            f"{setting('total_as', 'sum')} adds them up all the same.",
        )


def kinds_of(column: str, names: Sequence[str]) -> tuple[list[str], list[str]]:
    """The names that say income, and those that say costs."""
    if column.strip().casefold() not in KINDS:
        return income_and_costs(names)
    return [one for one in names if one.casefold() in INCOME], [one for one in names if one.casefold() in COST]


def _mixed_kinds(name: str, source: Source, column: str, both: tuple[str, str], way: str, so: str = "") -> Mistake:
    """What is to be said of income and costs that would be added up, with one more way on."""
    file, account = accounts_listed(source, column)
    begun = f"marvex begin {file} {setting('write', 'statement')}"
    if account is not None:
        begun += f" {setting('account', account)}"
    return Mistake(
        f"{name}: '{both[0]}' is income and '{both[1]}' a cost{so}, both are positive, and would be added up",
        f"{begun} writes a statement for {setting('statement')}; {way}"
        f"{setting('statement', 'none')} adds them up all the same.",
    )


def accounts_listed(source: Source, column: str) -> tuple[str, str | None]:
    """The file that a statement is begun from, and its column of accounts, where a column says what is a cost.

    A column that says only kinds is no column of accounts; one that a lookup has is read there. No statement is
    begun from a database.
    """
    own = source.file.layout.headings if source.file.layout is not None else ()
    if source.asked.lookup is not None and column not in own:
        return source.asked.lookup, source.asked.lookup_column
    if source.file.store is not None:
        return "ACCOUNTS.csv", None
    if column.strip().casefold() in (*KINDS, *ACCOUNT_NAMES):
        known = {heading.strip().casefold(): heading for heading in source.headings}
        names = (known[one] for one in (*ACCOUNT_CODES, *ACCOUNT_NAMES) if one in known)
        column = next(names, column)
    return source.file.title, column


def _check_measures(source: Source) -> None:
    """Raises Mistake where columns of money stand beside columns that count something, or say it in another way."""
    of_headings = {one.name: one.category for one in source.roles.amounts if one.category}
    headings = list(dict.fromkeys(of_headings.values()))
    what = ""
    if counted := unlike_measures(headings):
        amounts = [one for one in headings if one not in counted]
        what = f"{listed(counted, 3)} and {listed(amounts, 3)} are unlike"
    elif len(headings) > 1 and source.roles.headings:
        check_names(source.name, source.roles.headings, headings, of_headings)
    if not what and (alike := same_numbers_across(headings)):
        amounts, what = list(alike), f"{listed(alike, 4)} are the same numbers in several ways"
    if what:
        own = ",".join(name for name, heading in of_headings.items() if heading == amounts[0])
        raise Mistake(
            f"{source.name}: {what}, and would be added up",
            f"Name those of one with {setting('amount', own)}; {setting('total_as', 'sum')} adds up all the same.",
        )


def _positive(amounts: Mapping[str, Decimal], names: Sequence[str]) -> bool:
    return sum(amounts[one] for one in names) > 0


def _by_kind(book: Ledger, comparison: Comparison) -> dict[str, Decimal]:
    """What the current side's rows of each kind come to, where a column of a small source says kinds."""
    found: dict[str, Decimal] = {}
    for source in book.sources if all(one.file.is_small for one in book.sources) else ():
        column = next((one for one in source.headings if one.strip().casefold() in KINDS), None)
        for kind, scenario, _, _, amount in met(source, [column], source.filters, book.engine) if column else ():
            if scenario == comparison.current.scenario:
                found[kind] = EXACT.add(found.get(kind, ZERO), amount or ZERO)
    return found


def _check_scenarios(book: Ledger) -> None:
    """Raises Mistake where scenarios are alike but for case: the rows of one of them would be passed by."""
    known: dict[str, str] = {}
    for name in (one.name for one in book.scenarios if one.name):
        if (alike := known.setdefault(name.casefold(), name)) != name:
            own = f"{alike.casefold()}={book.first.name}"
            raise Mistake(
                f"{book.name}: the scenarios {alike} and {name} are alike but for case",
                f"Write them alike; or say which one a source holds ({own}), which takes both.",
            )


def _check_units(book: Ledger) -> None:
    """Raises Mistake where rows of several units would be added up."""
    for one in book.sources:
        if one.units is not None:
            column, found = one.units
            raise Mistake(
                f"{one.name} holds several units: {listed(found, 4)}",
                f"Keep the rows of one with {setting('where', f'{column}={found[0]}')}.",
            )


def _check_currencies(book: Ledger) -> None:
    """Raises Mistake where the sources are in different currencies, as far as they say it."""
    known = [(one.name, code_of(one.currency)) for one in book.sources if one.currency]
    for (name, own), (other, its) in pairwise(known):
        if own != its and not ("$" in (own, its) and {own, its} & _DOLLARS):
            raise Mistake(
                f"{name} is in {own}, {other} in {its}, and they would be compared as they stand",
                f"Convert one of them, such as with {setting('amount', 'budget=net * 1.08')}.",
            )
