"""What a waterfall cannot walk: what does not add up, what lacks a base, and totals among the steps of a list."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import JOINS
from marvex.core.compare.result import Analysis
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.walk import Walk
from marvex.request.settings import Settings


def check_can_walk(analysis: Analysis, settings: Settings) -> None:
    """Raises Mistake where the walk that is asked for has not what it needs, or a step would be left out."""
    walk, comparison = settings.walk, analysis.first.comparison
    if settings.keep is not None and settings.keep.alone:
        raise Mistake(
            "a waterfall leads to its closing by all of its steps, and some would be left out",
            f"Gather them with {setting('keep', f'{settings.keep.word}:{settings.keep.count}')}.",
        )
    if walk != "balance" and not analysis.total_as.adds_up_over_time and not analysis.total_as.adds_up:
        raise Mistake(
            f"a waterfall adds its steps up, and {analysis.total_as.spoken} does not add up",
            "marvex table shows it, category by category.",
        )
    if walk in ("change", "drivers", "matched") and comparison.base is None:
        raise Mistake(
            "a waterfall of changes needs a base to walk from",
            f"Name one with {setting('versus')}, such as year-ago or budget.",
        )
    if walk == "change" and comparison.is_along_time and comparison.is_chained:
        raise Mistake(
            "periods that run on, or are each set against the one before, have no total to walk from",
            f"Name another base with {setting('versus')}, such as year-ago, or leave {setting('cumulative')} out.",
        )
    is_by_period = walk == "change" and not comparison.panel_totals
    if walk in ("change", "statement", "drivers") and comparison.is_along_time and not is_by_period:
        raise Mistake(
            f"a waterfall of walk {walk} is of categories, not of time",
            f"Leave {setting('every')} out, or give each period a panel with {setting('panels_by')}."
            if settings.every
            else f"Name the categories with {setting('by')}.",
        )
    if walk == "matched" and (analysis.statement is not None or comparison.is_chained or comparison.panel_totals):
        raise Mistake(
            "a walk of what is matched is of categories, or of one total along time",
            f"Leave {setting('statement', 'FILE')} and panels out, or name another {setting('walk')}.",
        )
    if walk == "balance" and not comparison.is_along_time:
        raise Mistake("a walk of balances is along time", f"Say {setting('every', 'month')}.")
    if (walk == "drivers") != (settings.volume is not None):
        raise Mistake(
            "the walk drivers needs a column of volumes",
            f"Name it with {setting('volume')}, and no other {setting('walk')}.",
        )
    if walk == "statement" and analysis.statement is None:
        raise Mistake("a walk of a statement needs its file", f"Name it with {setting('statement')}.")
    for field in ("standing", "deductions", "plug"):
        if getattr(settings, field) and walk != "movement":
            raise Mistake(
                f"{setting(field)} is about a list of movements, and this walk is of a {walk}", "Leave it out."
            )
    _check_all_steps_shown(analysis, settings)
    _check_totals_in_place(analysis, settings)


def both_sided(comparison: Comparison) -> Comparison:
    """The comparison without the periods that are no steps: of neither side, or of one where that is in no total."""
    if not comparison.is_along_time:
        return comparison
    needed = 2 if comparison.unmatched else 1
    sides = ((one, (one.current is not None) + (one.base is not None)) for one in comparison.points)
    return replace(comparison, points=tuple(one for one, count in sides if count >= needed))


def check_periods_add_up(comparison: Comparison, walk: Walk) -> None:
    """Raises Mistake where periods are steps and their changes are not that of the whole."""
    if comparison.is_along_time and walk.difference:
        raise Mistake(
            "the periods do not lead from the base to the current side: some hold what no total has, a day that counts "
            "once or a month that one side lacks",
            f"Say {setting('comparable')}, {setting('leap', 'none')} or another {setting('every')}; "
            "marvex draw variance shows them.",
        )


def _check_all_steps_shown(analysis: Analysis, settings: Settings) -> None:
    """Raises Mistake where lines are to be shown without others that lead to the result."""
    whole = analysis.statement
    if not settings.lines or whole is None:
        return
    needed = [
        one.label
        for one in whole.lines
        if one == whole.result or (one.accounts and whole.effect_on_result(one.label))
    ]
    left = [one for one in needed if one not in settings.lines]
    if left:
        raise Mistake(
            f"a waterfall leads to the result by all of its steps, and {setting('lines')} leaves out "
            f"{listed(left, 3)}",
            f"Leave it out, or gather the small ones with {setting('keep', 'top:5')}.",
        )


def _check_totals_in_place(analysis: Analysis, settings: Settings) -> None:
    """Raises Mistake where the totals among a list's rows would be taken out of their place."""
    moved = next((field for field in ("order", "keep") if getattr(settings, field) not in (None, "given")), None)
    if moved is not None and (totals := _totals_of_list(analysis, settings)):
        raise Mistake(
            f"'{totals[-1]}' is a total of other rows of a list, and {setting(moved)} takes them out of their place",
            f"Leave {setting(moved)} out; {setting('standing', 'none')} takes all rows for steps.",
        )


def _totals_of_list(analysis: Analysis, settings: Settings) -> tuple[str, ...]:
    """The rows of a list of movements that are totals of others, unless the call says what they are."""
    is_said = settings.walk != "movement" or settings.standing is not None or settings.keeps_totals
    return () if is_said else analysis.kept_totals


def check_no_total_is_a_step(analysis: Analysis, settings: Settings, walks: Sequence[Walk]) -> None:
    """Raises Mistake where a row that is a total of others would be added to them."""
    totals = {*_totals_of_list(analysis, settings)}
    steps = (bar.label for walk in walks for bar in walk.steps)
    found = next((one for one in steps if not totals.isdisjoint((one, *one.split(JOINS)))), None)
    if found is None:
        return
    or_else = f", or leave {setting('statement', str(settings.statement))} out" if settings.statement else ""
    raise Mistake(
        f"'{found}' is worked out from other rows, which do not lead up to it: as a step it would be added to them",
        f"Name those that lower it with {setting('deductions')}{or_else}; "
        f"{setting('standing', 'none')} takes it for a step all the same.",
    )
