"""What a window is measured against: the base that is asked for, or the first that there is."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.comparison import Basis
from marvex.core.compare.current_window import window_reader
from marvex.core.compare.scenario_words import PLANNED_WORDS, PRIOR_NAMES, version_said
from marvex.core.compare.scenarios import ScenarioDates, actual_among, scenario_named
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.time.base_window import BY_DATE
from marvex.core.time.calendar import Grain, is_finer
from marvex.core.time.notation import NOTATIONS
from marvex.core.time.timeline import Base
from marvex.core.time.window import Window
from marvex.core.words.trade_words import refuse_trade_word

NAMED_BASES = ("prior", "year-ago", "none")


def base_of(
    known: Sequence[ScenarioDates], of: ScenarioDates, window: Window | None, asked: SidesAsked
) -> tuple[Base, tuple[str, ...]]:
    """What the base is, and what was chosen where the call does not say."""
    if asked.versus is None:
        return _default_base(known, of, window, asked)
    found = scenario_named(known, asked.versus)
    if found is not None:
        if found.name == of.name:
            raise Mistake(
                f"{setting('versus')} {asked.versus}: the current side is {of.name} too",
                f"Name another with {setting('versus')} or {setting('of')}.",
            )
        return Base(basis=Basis.SCENARIO, dates=found), ()
    word = asked.versus.casefold()
    if word == "none":
        return Base(basis=Basis.NONE), ()
    names = [one.name for one in known if one.name is not None]
    parsed = None if word in NAMED_BASES else window_reader(of, asked).read(asked.versus)
    if word not in NAMED_BASES and parsed is None:
        refuse_trade_word("versus", asked.versus)
        raise Mistake(
            f"{setting('versus')} '{asked.versus}' is neither a scenario of the data"
            f"{' (' + listed(names) + ')' if names else ''}, nor prior, year-ago or none, nor a window",
            did_you_mean(asked.versus, [*names, *NAMED_BASES], f"A window is written {NOTATIONS}."),
        )
    if window is None:
        raise Mistake(
            f"{setting('versus')} {asked.versus}: the data have no dates", f"Name the column with {setting('date')}."
        )
    if parsed is not None:
        return Base(basis=Basis.WINDOW, dates=of, window=parsed), ()
    if word == "prior":
        return Base(basis=Basis.PRIOR, dates=of), ()
    return year_ago(known, of, window, asked), ()


def year_ago(known: Sequence[ScenarioDates], of: ScenarioDates, window: Window, asked: SidesAsked) -> Base:
    """The year before, of what is named actual where that has rows then; else of the current scenario."""
    pairing = asked.pairing or BY_DATE
    found = Base(basis=Basis.YEAR_AGO, dates=of, pairing=pairing)
    then = found.window_for(window)
    actual = actual_among(known)
    is_there = actual is not None and then is not None and bool(actual.days_within(then.first, then.end))
    return replace(found, dates=actual) if is_there else found


def _default_base(
    known: Sequence[ScenarioDates], of: ScenarioDates, window: Window | None, asked: SidesAsked
) -> tuple[Base, tuple[str, ...]]:
    in_outlook = [one.strip().casefold() for one in (asked.scenario or "").split("+")]

    def named(names: Sequence[str]) -> tuple[Base, tuple[str, ...]] | None:
        for name in names:
            found = scenario_named(known, name)
            if found is not None and found.name != of.name and name not in in_outlook and _has_data(found, window):
                others = [one.name or "" for one in _like(name, known, of, window) if one is not found]
                rest = f", not {listed(others, 3)}" if others else ""
                return Base(basis=Basis.SCENARIO, dates=found), (f"against {found.name}{rest}",)
        return None

    if planned := named(PLANNED_WORDS):
        return planned
    for name in PLANNED_WORDS:
        alike = [one for one in _like(name, known, of, window) if (one.name or "").casefold() not in in_outlook]
        if len(alike) == 1:
            return Base(basis=Basis.SCENARIO, dates=alike[0]), (f"against {alike[0].name}",)
        if alike:
            versus = setting("versus", alike[-1].name or "")
            raise Mistake(
                f"{listed((one.name or '' for one in alike), 3)} could each be what {of.spoken} is set against",
                f"Say which, such as {versus}.",
            )
    if prior := named(PRIOR_NAMES):
        return prior
    plans = [one for word in PLANNED_WORDS if word not in in_outlook and (one := scenario_named(known, word))]
    plans = [one for one in plans if one.name != of.name]
    outside = _outside(plans, of) if plans else ""
    if window is not None:
        last_year = year_ago(known, of, window, asked)
        before = last_year.window_for(window)
        assert last_year.dates is not None
        if before is not None and last_year.dates.days_within(before.first, before.end):
            return last_year, (f"against year-ago{f': {outside}' if outside else ''}",)
    without = f"{outside}, and there is no year before" if outside else "there is neither a plan nor a year before"
    return Base(basis=Basis.NONE), (f"against nothing: {without}",)


def _outside(plans: Sequence[ScenarioDates], of: ScenarioDates) -> str:
    """What is said of a plan that the window has nothing of: what else is of its time is set against it, and one that
    begins where the current side ends goes on."""
    plan, *others = plans
    beside = next((one for one in others if one.first == plan.first and one.last == plan.last), None)
    goes_on = plan.first is not None and of.last is not None and of.name and plan.first > of.last
    way = f" ({setting('of', f'{of.name}+{plan.name}')} goes on with it)" if goes_on else ""
    if goes_on and beside is not None:
        way = f" ({setting('of', beside.name or '')} is set against it)"
    return f"{plan.name} has no rows in the window{way}"


def _like(word: str, known: Sequence[ScenarioDates], of: ScenarioDates, window: Window | None) -> list[ScenarioDates]:
    """The scenarios but the current one whose names say that word of a plan: 'Budget v2', 'Revised budget', 'BUD'."""
    others = (one for one in known if one.name and one.name != of.name and _has_data(one, window))
    return [
        one
        for one in others
        if word in re.split(r"[\W_]+", (one.name or "").casefold())
        or ((said := version_said(one.name)) and said.word == word)
    ]


def _has_data(one: ScenarioDates, window: Window | None) -> bool:
    if window is None or one.first is None or one.last is None:
        return True
    return window.overlaps(one.first, one.last)


def check_pairing(of: ScenarioDates, base: Base, asked: SidesAsked) -> None:
    """`--match` and `--leap` say how days are paired a year apart, and nothing else."""
    if asked.pairing is not None and base.basis is not Basis.YEAR_AGO:
        raise Mistake(
            f"{setting('match')} and {setting('leap')} pair days a year apart, and the base is not year-ago",
            f"Say {setting('versus', 'year-ago')}.",
        )
    for one in (of, base.dates):
        if one is None or one.grain is None or asked.pairing is None:
            continue
        if asked.pairing.by_weekday and is_finer(Grain.WEEK, one.grain):
            raise Mistake(
                f"{setting('match', 'weekday')} pairs days, and {one.spoken} is kept by {one.grain.value}",
                f"Leave {setting('match')} out.",
            )
