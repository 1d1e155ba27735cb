"""Columns of amounts whose headings say what they are of: periods, scenarios and categories across a table."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import product

from marvex.core.compare.scenario_words import (
    ACTUAL_NAMES,
    PLANNED_WORDS,
    are_versions,
    says_planned,
    says_which,
    version_said,
)
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.amount_names import is_rate
from marvex.core.structure.cost_names import speaks_of_money
from marvex.core.structure.total_names import Naming, naming, speaks_of_variance
from marvex.core.time.calendar import Grain, is_finer
from marvex.core.values import dataclass
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.columns import Column
from marvex.sources.dates import Written, written
from marvex.sources.headings import (
    RUNNING,
    SEVERAL_MONTHS,
    TO_DATE,
    Parted,
    parted,
    runs_to_date,
    says_whole_year,
    sided,
    split,
    unlike_spans,
)

CURRENT = "Actual"  # the scenario of a column that says none, beside its base
TO_DATE_ALONE = re.compile(r"\b(?:ytd|year[- ]to[- ]date)\b", re.IGNORECASE)
_LEFT_OVER = re.compile(r"\b(?:remaining|remainder|left|available|unspent|headroom|to go)\b", re.IGNORECASE)
_BASIS = (  # on which a period's figures are told once more
    r"\(?(?:as )?(?:re-?stated|re-?presented|(?:originally |previously )?reported|published|pro[ -]?forma|"
    r"underlying|adjusted|normali[sz]ed|like[- ]for[- ]like|lfl|comparable|constant (?:currency|fx|rates)|"
    r"(?:un)?audited|prelim(?:inary)?|final|(?:new|old) basis)\)?"
)
_MAY_BE_WORDS = frozenset({"out", "set"})  # October and September in Portuguese and Italian
_PART_ALONE = re.compile(
    r"(?:the |this |current )?(?:month|quarter|week)", re.IGNORECASE
)  # beside a year: `2026 Month`
_MOST_OF_SIDE = 3  # words that say a side: `this year actual`
_LONGEST = rf"{RUNNING.pattern}|\b(?:year(?:[- ]end)?|fy|ye|annual)\b"


@dataclass(frozen=True, slots=True, kw_only=True)
class AmountColumn:
    """A column of amounts, and what its heading says of them where the table is wide."""

    name: str
    period: str | None = None
    scenario: str | None = None
    category: str | None = None


def is_to_date(heading: str) -> bool:
    """Whether a heading is of its year up to its period."""
    name = spelled_out(heading)
    return TO_DATE_ALONE.search(name) is not None or (runs_to_date(heading) and not RUNNING.search(name))


def check_months_said(wide: Sequence[AmountColumn], others: Sequence[str], source: str) -> None:
    """Raises Mistake where columns hold several months each, which is no period by its heading: `9M 2026`.

    Parameters
    ----------
    others : the columns of figures that are not of these, as those of a month beside the year to date.
    """
    found = [(its, one) for one in wide if one.period and (its := written(one.period))]
    if not found or len(found) < len(wide):
        return
    beside = [one.name.replace(one.period or "", "").replace(one.scenario or "", "").strip() for one in wide]
    # Of two years the later one is the current side, and of one year its actuals.
    ranked = sorted((its.first, _is_of_actuals(one), one.name) for its, one in found)
    base, current = ranked[-2:][0][-1], ranked[-1][-1]
    way = f"Set the two against one another: {setting('current', current)} {setting('base', base)}."
    are_years = all(its.grain is Grain.YEAR for its, _ in found)
    if are_years and len(found) > 1 and all(map(_PART_ALONE.fullmatch, beside)):
        raise Mistake(f"{source}: '{current}' is of a part of its year, and of which one is not said", way)
    if not all(map(SEVERAL_MONTHS.search, beside)):
        return
    # `YTD Oct 2026` is of January to October.
    if all(is_to_date(one.name) and not is_finer(Grain.MONTH, its.grain) for its, one in found):
        return
    of_sides = {(its.first, one.scenario) for its, one in found}
    if len(of_sides) < len(wide) and len({one.casefold() for one in beside}) > 1:
        kept = [one.name for one, said in zip(wide, beside, strict=True) if said == beside[-1]]
        raise Mistake(
            f"{source}: {listed((one.name for one in wide), 4)} hold several months each, and some the same",
            f"Name those of one span: {setting('amount', ','.join(kept))}.",
        )
    is_other = any(map(sided, others)) or not all(is_to_date(one.name) for one in wide)
    if (are_years and is_other) or len({its.first.year for its, _ in found}) == len(found):
        raise Mistake(
            f"{source}: '{current}' holds several months, which is no period that its figures could be said to be of",
            way,
        )


def _is_of_actuals(one: AmountColumn) -> bool:
    return one.scenario is None or ((said := version_said(one.scenario)) is not None and said.is_actual)


def check_each_once(wide: Sequence[AmountColumn], source: str) -> None:
    """Raises Mistake where columns of one period, scenario and category are written in two ways, or called alike."""
    names = {one.name for one in wide}
    second = [one.name for one in wide if one.name.removesuffix(" 2") in names - {one.name}]  # as it is called
    if second:
        first = [one.name for one in wide if not re.fullmatch(r".* [2-9]", one.name) or one.name[:-2] not in names]
        raise Mistake(
            f"{source} has two columns called '{second[0][:-2]}', which would be added up",
            f"Name those that count: {setting('amount', ','.join(first))} takes the first of each.",
        )
    found: dict[tuple[object, ...], str] = {}
    for one in wide:
        if its := written(one.period) if one.period else None:
            key = (its, (one.scenario or "").casefold(), (one.category or "").casefold())
            if key in found:
                raise Mistake(
                    f"{source}: '{found[key]}' and '{one.name}' are of the same period, and would be added up",
                    f"Name all but one: {setting('amount', ','.join(its.name for its in wide if its is not one))}.",
                )
            found[key] = one.name


def check_one_budget(wide: Sequence[AmountColumn], names: Sequence[str], source: str) -> None:
    """Raises Mistake where another column is of the same budget too, revised or as it was at first."""
    own = {(one.scenario or "").casefold(): one.name for one in wide if one.scenario and not one.period}
    current = next((own[one] for one in ACTUAL_NAMES if one in own), None)
    for name in names:
        said = parted(name)
        base = own.get((said.scenario or "").casefold())
        if current and base not in (None, name, current) and said.period is None and says_which(said.rest):
            raise Mistake(
                f"{source}: {base} and {name} could each be what {current} is set against",
                f"Say which: {setting('current', current)} {setting('base', name)}.",
            )


def check_one_basis(wide: Sequence[AmountColumn], names: Sequence[str], source: str) -> None:
    """Raises Mistake where another column is of a period or scenario too that is taken, on another basis."""
    own = {_told(one.period, one.scenario): one.name for one in wide if one.period or one.scenario}
    for name in names:
        said = parted(name)
        taken = own.get(_told(said.period, said.scenario)) if said.is_said else None
        if taken in (None, name) or not (re.fullmatch(_BASIS, said.rest, re.IGNORECASE) or says_which(said.rest)):
            continue
        others = [one.name for one in wide if one.name != taken]
        first, second = setting("amount", ",".join(one.name for one in wide)), ""
        if len(others) == 1:
            is_current = (said.scenario or "").casefold() in ACTUAL_NAMES and not said.period
            current, base = (name, others[0]) if is_current else (others[0], name)
            second = f"; {setting('current', current)} {setting('base', base)} the second"
        raise Mistake(
            f"{source}: {taken} and {name} tell the same, and either could be meant",
            f"Say which: {first} takes the first{second}.",
        )


def _told(period: str | None, scenario: str | None) -> tuple[Written | None, str]:
    return written(period) if period else None, (scenario or "").casefold()


def wide_columns(names: Mapping[str, str]) -> list[AmountColumn]:
    """The columns whose headings say a period or a scenario, where at least two do.

    Parameters
    ----------
    names : each heading, and what it says once its year is known.

    All say nothing else, or the same beside it ('Sales 2024', 'Sales 2025'); or the same periods and scenarios of
    several categories ('North Budget', 'North Actual', 'South Budget', 'South Actual'). What runs to date beside
    a month holds it, and is no category ('Month Budget', 'Month Actual', 'YTD Budget', 'YTD Actual').
    """
    said = _without_chance_months([(name, parted(text)) for name, text in names.items()])
    plain = [(name, one) for name, one in said if one.is_said and not one.rest]
    by_period = [(name, one) for name, one in plain if one.period]
    if len(by_period) > 1:
        return [_amount_column(*one) for one in by_period]
    scenarios = [(name, one) for name, one in plain if one.is_scenario]
    if len(scenarios) > 1:
        own = {name: _amount_column(name, one) for name, one in scenarios}
        # Beside them `Bud` is a budget, and goes before last year as the base; `RF2`, `Forecast 8+4` are versions.
        own |= {
            name: AmountColumn(name=name, scenario=name) for name in names if name not in own and _is_version(name)
        }
        return [own[name] for name in names if name in own]
    groups: dict[str, list[tuple[str, Parted]]] = {}
    for name, one in said:
        if one.is_said and one.rest:
            groups.setdefault(one.rest.casefold(), []).append((name, one))
    groups = {rest: group for rest, group in groups.items() if naming(rest) is not Naming.RATIO} or groups
    of_parts = [rest for rest in groups if TO_DATE.search(rest) is None]
    of_parts = of_parts or [rest for rest in groups if not re.search(_LONGEST, rest, re.IGNORECASE)]
    groups = {rest: groups[rest] for rest in of_parts or groups}
    sides = {rest: frozenset((one.period, one.scenario) for _, one in group) for rest, group in groups.items()}
    full = [group for rest, group in groups.items() if len(sides[rest]) == len(group) > 1]
    if len(full) == 1:
        return [_amount_column(*one) for one in full[0]]
    if len(full) > 1 and len({sides[group[0][1].rest.casefold()] for group in full}) == 1:
        return [replace(_amount_column(name, one), category=one.rest) for group in full for name, one in group]
    return [_amount_column(*one) for one in plain]


def _is_version(name: str) -> bool:
    """Whether a heading says a version of a scenario beside others, and no other span: `Bud`, `RF2`, `Real`."""
    said = version_said(name)
    is_alike = not (says_whole_year(name) or unlike_spans(CURRENT, name))
    return said is not None and not said.rest and is_alike


def _without_chance_months(said: Sequence[tuple[str, Parted]]) -> list[tuple[str, Parted]]:
    """What headings say, where the only months among them are words too: 'Out' beside 'In', under a year."""
    months = [words for _, one in said if len(words := (one.period or "").casefold().split()) > 1]
    are_years = any(one.period and one.rest for _, one in said)
    if not months or not are_years or any(map(_MAY_BE_WORDS.isdisjoint, months)):
        return list(said)
    return [(name, _as_word(one)) for name, one in said]


def _as_word(one: Parted) -> Parted:
    words = (one.period or "").split()
    year = [word for word in words if word.isdecimal()]
    if len(year) != 1 or len(words) != 2 or one.rest:
        return one
    return replace(one, period=year[0], rest=next(word for word in words if word not in year))


def is_amount_of_side(name: str) -> bool:
    """Whether a column may be a side by its heading: no variance, rate or ratio, nor what is left of a budget."""
    is_rest = _LEFT_OVER.search(spelled_out(name)) is not None or speaks_of_variance(name)
    return not is_rest and naming(name) is not Naming.RATIO and not is_rate(name)


def against_plan(columns: Sequence[Column]) -> tuple[AmountColumn, ...]:
    """The two columns of which one is a plan by its heading and the other what it is of: 'Spend' beside 'Budget'."""
    figures = [one.name for one in columns if is_amount_of_side(one.name)]
    # What runs to date stands beside what it adds up.
    figures = [one for one in figures if not RUNNING.search(spelled_out(one))] or figures
    planned = [
        one for one in figures if (said := parted(one)).is_scenario and str(said.scenario).casefold() in PLANNED_WORDS
    ]
    others = [one for one in figures if one not in planned]
    if len(planned) != 1 or len(others) != 1 or parted(others[0]).is_said or not speaks_of_money(others[0]):
        return ()
    sides = {others[0]: AmountColumn(name=others[0], scenario=CURRENT)}
    sides[planned[0]] = AmountColumn(name=planned[0], scenario=parted(planned[0]).scenario)
    return tuple(sides[one] for one in figures)


def beside_its_base(columns: Sequence[Column], current: str | None = None) -> tuple[AmountColumn, ...]:
    """The columns of which one is the current side by its heading and the others are its bases: 'Sales' and 'Sales LY'.

    None where several have such a base, unless it is said which is current.
    """
    found = bases_beside(columns)
    if current is None and len(found) == 1:
        (current,) = found
    if current not in found:
        return ()
    side, _ = _current_beside(spelled_out(current)) or (CURRENT, "")
    sides = {current: AmountColumn(name=current, scenario=side)}
    sides |= {name: AmountColumn(name=name, scenario=side) for name, side in found[current].items()}
    if len(found) == 1:  # 'Sales', 'Sales LY' and 'Budget'
        plans = [one.name for one in columns if parted(one.name).is_scenario and says_planned(one.name)]
        sides |= {name: AmountColumn(name=name, scenario=name) for name in plans}
    return tuple(sides[one.name] for one in columns if one.name in sides)


def bases_beside(columns: Sequence[Column]) -> dict[str, dict[str, str]]:
    """Of each column the others that are its bases by their headings, each with the side that it says it is.

    It says nothing beside what they have in common, or that it is the current one: 'Sales' or 'Sales CY' of 'Sales LY'.
    """
    own = {one.name: spelled_out(one.name) for one in columns}
    found: dict[str, dict[str, str]] = {}
    for name, text in own.items():
        _, rest = _current_beside(text) or ("", "")
        for bare, (other, longer) in product(filter(None, (text, rest)), own.items()):
            if other != name and (side := _side_beside(bare, longer)):
                found.setdefault(name, {})[other] = side
    return found


def _current_beside(text: str) -> tuple[str, str] | None:
    """The words at the end of a heading, or at its beginning, that say the current side, and the others.

    >>> [_current_beside(one) for one in ("YTD CY", "This year sales", "Sales", "Current assets")]
    [('CY', 'YTD'), ('This year', 'sales'), None, None]
    """
    words = text.split()
    for size in range(min(_MOST_OF_SIDE, len(words) - 1), 0, -1):
        for side, rest in ((words[-size:], words[:-size]), (words[:size], words[size:])):
            named = " ".join(side).strip("()[]")
            said = version_said(named)
            if said and said.is_actual and not said.rest and named.casefold() != "current":
                return named, " ".join(rest)
    return None


def _side_beside(text: str, longer: str) -> str:
    """What a heading says beside the words of another, where that is a side to be set against it; else nothing."""
    words, rest = longer.casefold(), text.casefold()
    after = longer[len(text) :] if words.startswith(f"{rest} ") else ""
    side = (after or (longer[: -len(text)] if words.endswith(f" {rest}") else "")).strip("()[]-– ,")
    said = version_said(side) if side else None
    return side if said and not said.rest and not said.is_actual else ""


def short_sides(names: Sequence[str]) -> tuple[AmountColumn, ...]:
    """The columns whose headings are short for the sides of the same numbers: 'Act' beside 'Bud' and 'Fcst'."""
    said = [name for name in names if (its := version_said(name)) and not its.rest]
    if not are_versions(said):
        return ()
    return tuple(AmountColumn(name=name, scenario=name) for name in said)


def _amount_column(name: str, said: Parted) -> AmountColumn:
    return AmountColumn(name=name, period=said.period, scenario=said.scenario)


def by_period(names: Mapping[str, str], source: str) -> tuple[AmountColumn, ...]:
    found = []
    for name, text in names.items():
        period, scenario = split(text)
        if period is None:
            raise Mistake(
                f"{source}: the heading '{name}' is no period",
                "Write it as Jan 2026 or 2026-01, or name others.",
            )
        found.append(AmountColumn(name=name, period=period, scenario=scenario))
    if not found:
        raise Mistake(f"{source}: no heading is a period", "Write them as Jan 2026 or 2026-01.")
    return tuple(found)
