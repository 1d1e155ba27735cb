"""Whether the two sides are alike: what has to be said where one is shorter, emptier or of other days."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import date, timedelta

from marvex.core.compare.comparison import Basis
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenarios import USUAL_WEEKDAY, ScenarioDates
from marvex.core.compare.side import Pair, Side
from marvex.core.errors import listed, setting
from marvex.core.time.calendar import A_WEEK, CIVIL, ONE_DAY, THURSDAY, Calendar, Grain, WeekYears, coarsest
from marvex.core.time.notation import notation
from marvex.core.time.period import period_of, periods_within
from marvex.core.time.timeline import MONTHS_FROM, Base, stumps
from marvex.core.time.window import Window

LEAST_MONTHS, MOST_ODD = 6, 0.1  # days, of which so many are not the first of a month
LEAST_GAP, MOST_GAPS, MOST_OTHERS = 3, 3, 0.05  # days in a row without rows; such gaps; days without rows elsewhere
LEAST_OF_WEEK, LEAST_OF_MONTH = 2, 4  # days at an end on which there usually are rows
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def zeros(of: ScenarioDates) -> tuple[str, ...]:
    """That periods of zeros at the end of the current side were taken for not known yet."""
    if of.outlook is not None:
        of = of.outlook.actual
    if of.zeros_to is None:
        return ()
    return (
        f"every amount of {of.spoken} after {of.last} is 0, and is taken as not known yet: "
        f"{setting('as_of', of.zeros_to)} takes them as figures",
    )


def thin(of: ScenarioDates, filled: Window) -> tuple[Reservation, ...]:
    """That what is looked at ends with far fewer amounts than usual: it may not be complete, or a slip of a date."""
    if of.outlook is not None:
        of = of.outlook.actual
    if of.thin is None or filled.end <= of.thin.after:
        return ()
    return (
        Reservation(
            what=f"{of.spoken} has {of.thin.spoken}, where about {of.thin.usual} are usual",
            mend=f"{setting('as_of', of.thin.after)} leaves them out where they are not all, or a slip",
        ),
    )


def of_one_day(of: ScenarioDates, window: Window, base: Base) -> tuple[Reservation, ...]:
    """That all of a base scenario is dated on the first day of a year, as a budget of the whole year is."""
    if base.basis is not Basis.SCENARIO or base.dates is None or len(base.dates.days) != 1:
        return ()
    day, start = base.dates.days[0], window.calendar.start
    is_finer = any(one != day and start(one, Grain.YEAR) == day for one in of.days)
    is_longer = base.dates.grain in (Grain.QUARTER, Grain.HALF, Grain.YEAR)  # and said to be
    if is_longer or not is_finer or day != start(day, Grain.YEAR):
        return ()
    return (
        Reservation(
            what=f"{base.dates.spoken} has rows on {day} only, which may be of the whole year",
            mend=f"{setting('spread', 'even')} spreads them over its months",
        ),
    )


def of_one_a_year(of: ScenarioDates, calendar: Calendar) -> tuple[Reservation, ...]:
    """That dates which are one a year, such as 31 March, were taken for quarters; they may be of months or years."""
    grain = of.grain
    if grain not in (Grain.QUARTER, Grain.HALF) or of.is_written or len({day.year for day in of.days}) < len(of.days):
        return ()
    if len(of.days) < 2 or len({day.month for day in of.days}) > 1:
        return ()
    last = of.days[-1]
    is_start = calendar.start(last, grain) == last
    first = last if is_start else last + ONE_DAY
    does = "begin" if is_start else "end"
    return (
        Reservation(
            what=f"{last.day} {last:%B} of each year is taken for the {grain.value} that {does}s on it",
            mend=f"write it as a month where it is one, and {setting('year_starts', f'{first:%B}'.lower())} "
            "takes it for a year",
        ),
    )


def of_months_but_few(of: ScenarioDates) -> tuple[Reservation, ...]:
    """That a scenario is taken to be kept by day for a few of its days, where all others are the firsts of months,
    or its one day for a month."""
    if of.outlook is not None:
        of = of.outlook.actual
    if of.dated_as is not None and of.grain is not None:
        day = of.days[0] - timedelta(days=of.ahead)
        told = f"{of.spoken} has one date, {day}, taken for the {of.grain.value} as those of {of.dated_as} are"
        is_first = day != of.last and not of.ahead
        return (Reservation(what=told, mend=f"{setting('as_of', day)} takes it for a day" if is_first else ""),)
    odd = [day for day in of.days if day.day != 1]
    is_by_day = of.grain is Grain.DAY and not of.is_written and of.last is not None
    if not is_by_day or len(of.days) < LEAST_MONTHS or not 0 < len(odd) <= MOST_ODD * len(of.days):
        return ()
    end = CIVIL.end(of.days[-1], Grain.MONTH)
    if of.days[-1] == end:
        return ()
    told = (
        f"{of.spoken} is dated by the first of the month but for {listed(map(str, odd), 3)}, and so is taken by day"
    )
    return (Reservation(what=told, mend=f"{setting('as_of', end)} takes its last month as a whole one"),)


def unlike(window: Window, base: Base, whole: bool, filled: Window) -> tuple[str, ...]:
    """Cautions about what was asked for: a whole base, week 53."""
    cautions = []
    if whole and filled.is_cut and base.basis is not Basis.NONE:
        cautions.append(
            f"{setting('full_base')} keeps the whole base, though the current side is known to {filled.end} only: "
            "the two sides are not the same part of the year"
        )
    if base.basis is Basis.YEAR_AGO and not base.pairing.by_weekday:
        cautions += _week_53(window, whole)
    return tuple(cautions)


def _week_53(window: Window, whole: bool) -> list[str]:
    """What becomes of a week that only one of the two years has."""
    calendar = window.calendar
    if isinstance(calendar, WeekYears):
        place = calendar.place(window.end, Grain.WEEK)
        weeks, before, year = calendar.weeks_in(place.year), calendar.weeks_in(place.year - 1), f"FY{place.year}"
        name_before = f"FY{place.year - 1}"
    elif window.grain is Grain.WEEK:
        place = calendar.place(window.end, Grain.WEEK)
        weeks, before = (date(year, 12, 28).isocalendar()[1] for year in (place.year, place.year - 1))
        year, name_before = str(place.year), str(place.year - 1)
    else:
        return []
    if place.number == 53 and before == 52:
        return [f"{year} has 53 weeks and {name_before} 52: week 53 has no base"]
    if place.number == 52 and weeks == 52 and before == 53:
        kept = (
            f"kept in the base ({setting('full_base')})"
            if whole
            else f"left out of the base ({setting('full_base')} keeps it)"
        )
        return [f"{name_before} has 53 weeks and {year} 52: week 53 is {kept}"]
    return []


def differences(
    of: ScenarioDates,
    current: Side,
    base: Base,
    against: Side | None,
    pairs: Sequence[Pair],
    every: Grain | None,
    calendar: Calendar,
) -> tuple[str, ...]:
    """Cautions about what the data hold: a side partly filled, a period missing, other days with data."""
    is_chained = every is not None and base.basis is Basis.PRIOR
    cautions = _weeks_in_months(of, current, base.dates, against, every)
    cautions += _missing(of, current, every, calendar)
    filled, are_alike = _parts_filled(of, current, base, against, every)
    cautions += filled if are_alike else []
    if against is None or base.dates is None:
        return tuple(cautions)
    if not is_chained:
        cautions += _missing(base.dates, against, every, calendar)
        cautions += _of_other_length(of, current, base.dates, against)
    short = sum(1 for pair in pairs if pair.base is None and pair.period.grain is not Grain.WEEK)
    if short and base.basis is not Basis.NONE and not is_chained:
        have = "point has" if short == 1 else "points have"
        cautions.append(f"{short} {have} no base to be measured against")
    return tuple(dict.fromkeys(cautions))


def unlike_parts(
    of: ScenarioDates, current: Side, base: Base, against: Side | None, pairs: Sequence[Pair], every: Grain | None
) -> tuple[Reservation, ...]:
    """What makes the two sides, or points along time, unlike: a part of a period that one lacks, other periods."""
    filled, are_alike = _parts_filled(of, current, base, against, every)
    told = [*([] if are_alike else filled), *stumps(pairs), *_gaps(of, current, base.dates, against, every)]
    if against is not None and base.dates is not None:
        if every is None or base.basis is not Basis.PRIOR:
            told += _gaps(base.dates, against, of, current, every)
        told += _other_weeks(of, current, base.dates, against, pairs)
    told += [
        f"{one.spoken} is dated by civil {one.misfit.value}, which the reporting calendar does not know: "
        "each amount counts in the period that its date falls in"
        for one in (of, base.dates)
        if one is not None and one.misfit is not None
    ]
    return tuple(Reservation(what=what) for what in dict.fromkeys(told))


def _other_weeks(
    of: ScenarioDates, current: Side, base_of: ScenarioDates, against: Side, pairs: Sequence[Pair]
) -> list[str]:
    """That of data kept by week one side has more weeks than the other, in all or in a point along time."""
    if not of.ahead or not base_of.ahead or (current.window is not None and not current.window.grain.months):
        return []

    both = [(pair, pair.current, pair.base) for pair in pairs if pair.period.grain.months]
    each = [(pair, _weeks(of, now), _weeks(base_of, then)) for pair, now, then in both if now and then]
    odd = [f"{notation(pair.period)} has {now} against {then}" for pair, now, then in each if now != then]
    whole = _weeks(of, current), _weeks(base_of, against)
    told = [] if whole[0] == whole[1] else [f"{whole[0]} against {whole[1]} in all"]
    return [f"the sides have different numbers of weeks: {listed([*told, *odd], 4)}"] if told or odd else []


def _weeks_in_months(
    of: ScenarioDates, current: Side, base_of: ScenarioDates | None, against: Side | None, every: Grain | None
) -> list[str]:
    """A caution that data kept by week are shown in months or the like, with the weeks on each side."""
    sides = [(of, current), *([(base_of, against)] if base_of is not None and against is not None else [])]
    by_week = list(dict.fromkeys(dates.spoken for dates, _ in sides if dates.ahead))
    grain = every or (current.window.grain if current.window else None)
    if not by_week or grain is None or not grain.months:
        return []
    counts = [str(_weeks(dates, side)) for dates, side in sides if dates.ahead]
    shown = f"shown in {grain.plural}" if every else "shown in whole months or the like"
    are = "are" if len(by_week) > 1 else "is"
    return [
        f"{' and '.join(by_week)} {are} kept by week and {shown}: a week counts where its Thursday is "
        f"({counts[0]} weeks{f' against {counts[1]}' if len(counts) > 1 else ''})"
    ]


def _weeks(dates: ScenarioDates, side: Side) -> int:
    """How many weeks that data are kept by count in a side."""
    return sum(len(dates.days_within(one.first, one.last)) for one in side.span.stretches)


def _parts_filled(
    of: ScenarioDates, current: Side, base: Base, against: Side | None, every: Grain | None
) -> tuple[list[str], bool]:
    """Which sides are only partly filled, and whether both lack about as much at each end, and so are alike."""
    told = _partly_filled("current side", of, current, every)
    if against is None or base.dates is None or (every is not None and base.basis is Basis.PRIOR):
        return told, against is None
    told += _partly_filled("base", base.dates, against, every)
    both = zip(_lacking(of, current), _lacking(base.dates, against), strict=True)
    return told, all(abs(now - then) < _fewest(every) for now, then in both)


def _fewest(every: Grain | None) -> int:
    return LEAST_OF_WEEK if every is Grain.WEEK else LEAST_OF_MONTH


def _lacking(dates: ScenarioDates, side: Side) -> tuple[int, int]:
    """How many days of a side are before its data begin, and after they end."""
    first, last = side.span.stretches[0].first, side.span.stretches[-1].last
    if dates.first is None or dates.last is None or first is None or last is None:
        return 0, 0
    return max(0, (dates.first - first).days), max(0, (last - dates.last).days)


def _partly_filled(name: str, dates: ScenarioDates, side: Side, every: Grain | None) -> list[str]:
    """A caution where the data start after the side does, or end before it."""
    stretches = side.span.stretches
    first, last = stretches[0].first, stretches[-1].last
    if dates.first is None or dates.last is None or first is None or last is None or dates.runs_to_date:
        return []
    # A side that lacks less at an end had no rows on its first or last days: a holiday, or a few of them.
    least = A_WEEK if dates.grain in (Grain.DAY, Grain.WEEK) else ONE_DAY
    ends = ((first, dates.first), (dates.last + ONE_DAY, last + ONE_DAY))
    if not any(to - start >= least or dates.usual_days(start, to) >= _fewest(every) for start, to in ends):
        return []
    return [
        f"the {name} is only partly filled: {dates.spoken} runs from {dates.first} to {dates.last}, "
        f"the window from {first} to {last}"
    ]


def _missing(dates: ScenarioDates, side: Side, every: Grain | None, calendar: Calendar) -> list[str]:
    """A caution about periods inside the side that have no rows at all."""
    if dates.grain is None or dates.first is None or dates.last is None or side.window is None:
        return []
    if dates.runs_to_date:  # what it has of March is of January and February too
        return []
    grain = _told_by(dates.grain, side.window, every)
    missing: list[date] = []
    for one in side.span.stretches:
        first, last = max(one.first or dates.first, dates.first), min(one.last or dates.last, dates.last)
        found = missing_periods(dates.days_within(first, last), grain, calendar, first, last)
        # Of weeks nothing is lacking where there is no Thursday: each counts where its own is.
        by_thursday = dates.grain is Grain.WEEK and not calendar.weeks_make_years
        ends = ((day, max(day, first), min(calendar.end(day, grain), last)) for day in found)
        missing += [day for day, start, end in ends if not by_thursday or _has_thursday(start, end)]
    if not missing:
        return []
    names = (notation(period_of(day, grain, calendar)) for day in missing)
    return [f"{dates.spoken} has no rows in {listed(names, 4)}"]


def _told_by(grain: Grain, window: Window, every: Grain | None) -> Grain:
    """The grain of which it is told that periods are missing."""
    return every or (coarsest(grain, Grain.MONTH) if window.days > MONTHS_FROM else grain)


def _gaps(
    dates: ScenarioDates, side: Side, other: ScenarioDates | None, against: Side | None, every: Grain | None
) -> list[str]:
    """A caution about days in a row without rows, within a side that has rows on nearly all others.

    Not told is what the other side lacks too, as where nobody works around the new year.
    """
    window = side.window
    if dates.grain is not Grain.DAY or window is None or every is Grain.DAY:
        return []
    present = [day for one in side.span.stretches for day in dates.days_within(one.first, one.last)]
    runs: list[list[date]] = []
    for day in missing_periods(present, Grain.DAY):
        if runs and not dates.days_within(runs[-1][-1], day):
            runs[-1].append(day)
        else:
            runs.append([day])
    long = [run for run in runs if len(run) >= LEAST_GAP]
    few = sum(map(len, runs)) - sum(map(len, long)) <= MOST_OTHERS * len(present)
    if other is not None and other.grain is Grain.DAY and against is not None and against.window is not None:
        apart = window.first - against.window.first
        theirs = set(other.days)
        long = [run for run in long if 2 * sum(day - apart in theirs for day in run) > len(run)]
    if not long or not few or len(long) > MOST_GAPS:
        return []
    told = listed(f"{run[0]} to {run[-1]}" for run in long)
    return [f"{dates.spoken} has no rows from {told}, and has on nearly all other days"]


def _has_thursday(first: date, last: date) -> bool:
    return first + (THURSDAY.days - first.weekday()) % 7 * ONE_DAY <= last


def missing_periods(
    days: Iterable[date],
    grain: Grain,
    calendar: Calendar = CIVIL,
    first: date | None = None,
    last: date | None = None,
) -> tuple[date, ...]:
    """The first days of the periods between the first and the last that have no row.

    Days are missed only on weekdays that usually have rows.

    >>> missing_periods([date(2026, 1, 1), date(2026, 3, 1)], Grain.MONTH)
    (datetime.date(2026, 2, 1),)
    """
    present = set(days) if grain is Grain.DAY else {calendar.start(day, grain) for day in days}
    if not present:
        return ()
    start, end = first or min(present), last or max(present)
    if grain is Grain.DAY:
        every = [start + place * ONE_DAY for place in range((end - start).days + 1)]
        weekdays = _usual_weekdays(present, every)
        expected = [one for one in every if one.weekday() in weekdays]
    else:
        window = Window(first=start, last=end, grain=grain, known_to=None, calendar=calendar)
        expected = [calendar.start(one.first, grain) for one in periods_within(window, grain, calendar)]
    return tuple(one for one in expected if one not in present)


def _usual_weekdays(present: set[date], expected: list[date]) -> set[int]:
    weeks = max(1.0, len(expected) / 7)
    counts = Counter(day.weekday() for day in present)
    return {weekday for weekday, count in counts.items() if count >= USUAL_WEEKDAY * weeks}


def runs_of(days: Iterable[date], grain: Grain) -> tuple[tuple[date, date], ...]:
    """Days of missing periods as runs, each from its first day to the last day of its last period."""
    runs: list[tuple[date, date]] = []
    for day in days:
        end = CIVIL.end(day, grain)
        if runs and day - runs[-1][1] <= timedelta(days=1):
            runs[-1] = (runs[-1][0], end)
        else:
            runs.append((day, end))
    return tuple(runs)


def _of_other_length(of: ScenarioDates, current: Side, base_of: ScenarioDates, against: Side) -> list[str]:
    """A caution where the sides differ in days, or in days with rows."""
    days, base_days = current.span.days, against.span.days
    window, base_window = current.window, against.window
    if window is None or base_window is None:
        return []
    if days != base_days and (window.months() is None or window.months() != base_window.months()):
        return [f"the sides differ in length: {days} days against {base_days}"]
    if of.grain is not Grain.DAY or base_of.grain is not Grain.DAY:
        return []
    now, then = (_weekdays_with_rows(one, side) for one, side in ((of, current), (base_of, against)))
    if now.total() == then.total():
        return []
    moved = [
        f"{WEEKDAYS[weekday]} {now[weekday] - then[weekday]:+d}".replace("-", "−")
        for weekday in range(7)
        if now[weekday] != then[weekday]
    ]
    return [f"the sides differ in days with data: {now.total()} against {then.total()} ({', '.join(moved)})"]


def _weekdays_with_rows(dates: ScenarioDates, side: Side) -> Counter[int]:
    days = (day for one in side.span.stretches for day in dates.days_within(one.first, one.last))
    return Counter(day.weekday() for day in days)
