"""What has changed since an earlier run, in words."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal

from marvex.core.compare.since import (
    Days,
    Gone,
    LinesChanged,
    Restated,
    Since,
    is_of_another_period,
    scaled_by,
    turned,
)
from marvex.core.errors import listed
from marvex.core.exact import ZERO, difference
from marvex.core.time.calendar import Grain
from marvex.core.time.window import Window
from marvex.core.words.side_names import capitalised, window_text
from marvex.core.words.units import FigureFormat, Unit
from marvex.core.words.wording import MOST_PARTED

_NAMED, _SPANS_NAMED = 4, 3  # lines of a kind, and runs of days
_SCALES = {
    3: "about a thousand times",
    -3: "about a thousandth of",
    6: "about a million times",
    -6: "about a millionth of",
    2: "about a hundred times",
    -2: "about a hundredth of",
}


def since_notes(since: Since, figures: FigureFormat) -> tuple[str, ...]:
    """What was restated since an earlier run, the largest first, and which bands changed."""
    doubts = tuple(map(capitalised, since_doubts(since, figures.locale)))
    if not since.has_changed:
        return doubts or (f"Nothing was restated since {since.file}",)
    # Of several comparisons only its days tell which a figure is of.
    told = restated_texts(since, figures, with_days=any(one.point.comparison for one in since.restated))
    notes = [f"Restated since {since.file}: {listed(told, MOST_PARTED)}"] if told else []
    bands = [f"{one.point.name} from {one.was} to {one.now}" for one in since.rebanded]
    notes += [f"Changed band since {since.file}: {listed(bands, MOST_PARTED)}"] if bands else []
    return (*doubts, *notes)


def since_doubts(since: Since, locale: str) -> tuple[str, ...]:
    """What all that was restated has in common, and what of the earlier run today's source cannot be asked."""
    found = []
    if since.asked_otherwise and since.has_changed:
        what = listed(since.asked_otherwise, _NAMED)
        found.append(f"what is asked is not as in {since.file}, which may be why its figures are others: {what}")
    if power := scaled_by(since.restated):
        which, times = f"each {'restated ' if since.same else ''}figure", _SCALES[power]
        found.append(f"{which} is {times} what it was in {since.file}, as if the source had another unit now")
    elif signs := turned(since.restated):
        are_all = not since.same and {one.point.name for one in since.restated if not one.is_ratio} == {*signs}
        which = "each figure has" if are_all else f"{listed(signs, _NAMED)} {'has' if len(signs) == 1 else 'have'}"
        found.append(f"{which} the other sign than in {since.file}")
    elif is_of_another_period(since):
        found.append(
            f"no figure is as in {since.file}, as if it were of another period, which the source does not say"
        )
    for before, now in since.renamed:
        found.append(f"{now} has just the figures that {before} has in {since.file}, as if it were the same")
    found += _gone_texts(since, locale)
    return (*found, *(_lines_texts(since.lines, since) if since.lines else ()))


def _gone_texts(since: Since, locale: str) -> Iterator[str]:
    """Of each scenario what of the earlier run the source has no rows of any more."""
    by_scenario: dict[str | None, list[Gone]] = {}
    for one in since.gone:
        by_scenario.setdefault(one.scenario, []).append(one)
    for scenario, gone in by_scenario.items():
        of = f"{scenario} " if scenario else ""
        spans = [one.days for one in gone if one.days]
        if not spans:
            yield f"{since.file} is of {scenario}, which the source no longer has: that is not compared"
            continue
        when = listed(dict.fromkeys(window_text(_months(one), locale) for one in sorted(spans)), _SPANS_NAMED)
        begins = [one.begins for one in gone if one.begins]
        if len(begins) == len(gone):
            first = window_text(_months((begins[0], begins[0])), locale)
            yield f"the source has no {of}rows before {first} any more: {since.file} is not compared over {when}"
        else:
            yield f"the source has no {of}rows of {when} any more: {since.file} is not compared there"


def _months(days: Days) -> Window:
    return Window(first=days[0], last=days[1], grain=Grain.MONTH)


def _lines_texts(lines: LinesChanged, since: Since) -> Iterator[str]:
    """How the lines of a found statement differ from those of the earlier run."""
    told = []
    if lines.new:
        told.append(f"{listed(lines.new, _NAMED)} {'is' if len(lines.new) == 1 else 'are'} new")
    if lines.lacking:
        told.append(f"{listed(lines.lacking, _NAMED)} {'is' if len(lines.lacking) == 1 else 'are'} not there")
    if lines.made_otherwise:
        verb = "is" if len(lines.made_otherwise) == 1 else "are"
        told.append(f"{listed(lines.made_otherwise, _NAMED)} {verb} made of other lines")
    if lines.results[0] != lines.results[1]:
        then, now = (one or "none" for one in lines.results)
        told.append(f"the result is {now}, and was {then}")
    if told:
        yield f"the lines of the statement are others than in {since.file}: {'; '.join(told)}"


def restated_texts(since: Since, figures: FigureFormat, *, with_days: bool = False) -> list[str]:
    """What each figure was and is, the largest difference first: 'Fuel was 46.0k, is 48.2k (+2.2k)'.

    Parameters
    ----------
    with_days : of a figure that is not named by its period, the days that it is of.
    """
    # What was restated may be too small for the unit of the picture.
    figures = replace(figures.in_words, unit=Unit.ONE, decimals=_decimals_of(since))

    def text(one: Restated, amount: Decimal | None) -> str:
        if amount is None:
            return "nothing"
        return figures.percentage(amount) if one.is_ratio else figures.headline(amount)

    def moved(one: Restated) -> str:
        by = difference(one.now or ZERO, one.was or ZERO)
        return figures.points(by) if one.is_ratio else figures.signed_headline(by)

    def days_of(one: Restated) -> str:
        days = one.point.base_days if one.is_base else one.point.days
        is_named = days is None or one.point.label in (f"{days[0]:%Y-%m}", f"{days[0]:%Y}", f"{days[0]}")
        if is_named or not days or not with_days:
            return ""
        return f", {window_text(Window(first=days[0], last=days[1], grain=Grain.MONTH), figures.locale)},"

    return [
        f"{one.point.name}{' (base)' if one.is_base else ''}{days_of(one)} was {text(one, one.was)}, "
        f"is {text(one, one.now)} ({moved(one)})"
        for one in since.largest_first
    ]


def _decimals_of(since: Since) -> int:
    amounts = (amount for one in since.restated for amount in (one.was, one.now) if amount is not None)
    return min(2, max([0, *(-int(amount.normalize().as_tuple().exponent) for amount in amounts)]))
