"""An independent reference: which days are summed on each side, and to what, in plain Python.

It knows dates, sets of days and sums, and nothing of the code that it is compared with. A call is described by
its own words (`Call`), a ledger by its rows; `expected` works out what must be printed, day by day.
"""

from __future__ import annotations

import calendar as months_of
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, timedelta

DAY = timedelta(days=1)
Days = tuple[date, date]


@dataclass(frozen=True)
class Row:
    day: date
    market: str
    scenario: str
    net: int


@dataclass(frozen=True)
class Call:
    """What is asked: the window with its own grain, the base, the axis."""

    first: date
    last: date
    grain: str  # of the window: day, week, month, quarter, half, year
    versus: str  # year-ago, prior, budget, or a window as two days
    every: str | None = None
    weekday: bool = False
    feb28: bool = False
    full_base: bool = False
    by_market: bool = False
    reporting: bool = False  # the window is of the reporting calendar
    other: Days | None = None
    is_cut: bool = False  # where the data stop
    of: str = "actual"  # or "outlook"
    market: str | None = None  # the only one that is kept


@dataclass
class Answer:
    """What must come back."""

    days: Days
    base_days: Days
    current: int | None
    base: int | None
    points: list[tuple[str, int | None, int | None]]
    unmatched: list[tuple[str, int, date, date]]
    matched_days: Days
    matched: tuple[int | None, int | None] = (None, None)
    spans: dict[str, tuple[Days | None, Days | None]] = field(default_factory=dict)


class Months:
    """Years of months from a starting month on; weeks from Monday, numbered by the year of their Thursday."""

    weeks = False

    def __init__(self, starts: int = 1) -> None:
        self.starts = starts

    def period(self, day: date, grain: str) -> Days:
        if grain == "day":
            return day, day
        if grain == "week":
            monday = day - day.weekday() * DAY
            return monday, monday + 6 * DAY
        length = {"month": 1, "quarter": 3, "half": 6, "year": 12}[grain]
        back = ((day.month - self.starts) % 12) % length
        first = _month(day.year, day.month - back)
        after = _month(first.year, first.month + length)
        return first, after - DAY

    def label(self, day: date, grain: str) -> str:
        if grain == "day":
            return day.isoformat()
        if grain == "week":
            year, week, _ = day.isocalendar()
            return f"{year}-W{week:02}"
        first, _ = self.period(day, grain)
        if self.starts == 1:
            return {
                "month": f"{first:%Y-%m}",
                "quarter": f"{first.year}-Q{(first.month + 2) // 3}",
                "half": f"{first.year}-H{(first.month + 5) // 6}",
                "year": f"{first.year}",
            }[grain]
        start, end = self.period(day, "year")
        months = (first.year - start.year) * 12 + first.month - start.month
        number = months // {"month": 1, "quarter": 3, "half": 6, "year": 12}[grain] + 1
        letter = {"month": f"-P{number:02}", "quarter": f"-Q{number}", "half": f"-H{number}", "year": ""}[grain]
        return f"FY{end.year}{letter}"


class Weeks(Months):
    """Years of weeks in quarters of 4, 4 and 5, ending on the Saturday nearest to 31 January."""

    weeks = True

    def __init__(self) -> None:
        super().__init__()
        near = ([date(year, 1, 31) + n * DAY for n in range(-3, 4)] for year in range(2018, 2032))
        self.ends = [next(day for day in days if day.weekday() == 5) for days in near]

    def year(self, day: date) -> Days:
        for before, end in zip(self.ends, self.ends[1:], strict=False):
            if before < day <= end:
                return before + DAY, end
        raise ValueError(day)

    def period(self, day: date, grain: str) -> Days:
        if grain == "day":
            return day, day
        first, last = self.year(day)
        sizes = {"week": [1] * 53, "month": [4, 4, 5] * 4, "quarter": [13] * 4, "half": [26] * 2, "year": [52]}[grain]
        start = first
        for place, size in enumerate(sizes):
            end = start + (7 * size - 1) * DAY
            if grain != "week" and place == len(sizes) - 1:
                end = last  # a 53rd week joins the last period
            if start <= day <= end:
                return start, end
            start = end + DAY
        raise ValueError(day)

    def number(self, day: date) -> tuple[int, int, int]:
        """The year by the civil year of its end, the week from 1, the day in it from 0."""
        first, last = self.year(day)
        passed = (day - first).days
        return last.year, passed // 7 + 1, passed % 7

    def day(self, year: int, week: int, of_week: int) -> date | None:
        first = next(end for end in self.ends if end.year == year - 1) + DAY
        found = first + (7 * (week - 1) + of_week) * DAY
        return found if found <= next(end for end in self.ends if end.year == year) else None

    def label(self, day: date, grain: str) -> str:
        if grain == "day":
            return day.isoformat()
        first, _ = self.period(day, grain)
        year, week, _ = self.number(first)
        letter = {"week": "W", "month": "P", "quarter": "Q", "half": "H", "year": ""}[grain]
        if not letter:
            return f"FY{year}"
        starts = {"month": [1, 5, 9, 14, 18, 22, 27, 31, 35, 40, 44, 48], "quarter": [1, 14, 27, 40], "half": [1, 27]}
        number = week if grain == "week" else starts[grain].index(week) + 1
        return f"FY{year}-{letter}{number:02}" if grain in ("week", "month") else f"FY{year}-{letter}{number}"


def _month(year: int, month: int) -> date:
    return date(year + (month - 1) // 12, (month - 1) % 12 + 1, 1)


def _ends_month(day: date) -> bool:
    return day.day == months_of.monthrange(day.year, day.month)[1]


def days_between(first: date, last: date) -> list[date]:
    return [first + n * DAY for n in range((last - first).days + 1)]


class Ledger:
    """Rows by scenario, each on the day on which it counts, and how far each scenario goes."""

    def __init__(self, rows: Iterable[Row], grain: dict[str, str], cal: Months) -> None:
        self.grain, self.cal = grain, cal
        self.sums: dict[tuple[str, date, str], int] = defaultdict(int)
        self.days: dict[str, set[date]] = defaultdict(set)
        self.known: dict[str, Days] = {}
        for row in rows:
            first, last = cal.period(row.day, grain[row.scenario])
            known = self.known.get(row.scenario, (first, last))
            self.known[row.scenario] = min(known[0], first), max(known[1], last)
            # A week counts where its Thursday is.
            is_week = grain[row.scenario] == "week" and not cal.weeks and row.scenario != "outlook"
            counts = row.day + 3 * DAY if is_week else row.day
            self.sums[row.scenario, counts, row.market] += row.net
            self.days[row.scenario].add(counts)
        self.weekdays = {name: self._weekdays(name) for name in self.days}

    def _weekdays(self, name: str) -> set[int]:
        days = self.days[name]
        weeks = max(1.0, ((max(days) - min(days)).days + 1) / 7)
        return {n for n in range(7) if sum(day.weekday() == n for day in days) >= weeks / 2}

    def known_to(self, scenario: str, until: date, cal: Months) -> date:
        """How far a scenario is known: to a day, or its month's end, with only weekdays without business left to it."""
        first, last = self.known[scenario]
        is_regular = self.grain[scenario] == "day" and bool(self.weekdays[scenario]) and (last - first).days > 7
        for end in (until, cal.period(last, "month")[1]):
            left = days_between(last + DAY, end)
            if is_regular and len(left) < 7 and not {day.weekday() for day in left} & self.weekdays[scenario]:
                return max(last, end)
        return last

    def total(self, scenario: str, days: Iterable[date], market: str | None = None) -> int | None:
        wanted = set(days)
        found = [
            net
            for (name, day, of), net in self.sums.items()
            if name == scenario and day in wanted and market in (None, of)
        ]
        return sum(found) if found else None

    def lacks(self, scenario: str, days: list[date], by_day: bool) -> bool:
        """Whether a scenario has no row at all in some days; a day without business is not lacking."""
        if self.days[scenario] & set(days):
            return False
        if by_day:
            first, last = self.known[scenario]
            return not first <= days[0] <= last or days[0].weekday() in self.weekdays[scenario]
        return True


def namesake(day: date, call: Call, cal: Months, by_weeks: bool) -> date | None:
    """The day a year before."""
    if isinstance(cal, Weeks) and call.reporting:
        year, week, of_week = cal.number(day)
        return cal.day(year - 1, week, of_week)
    if by_weeks:
        year, week, weekday = day.isocalendar()
        try:
            return date.fromisocalendar(year - 1, week, weekday)
        except ValueError:
            return None
    if call.weekday:
        return day - 364 * DAY
    if (day.month, day.day) == (2, 29):
        return date(day.year - 1, 2, 28) if call.feb28 else None
    return day.replace(year=day.year - 1)


GRAINS = ("day", "week", "month", "quarter", "half", "year")


def aligned(call: Call, ledger: Ledger) -> Call | None:
    """The call with its window by whole weeks, or whole periods of the data, where it has to be so."""
    cal, first, last, grain = ledger.cal, call.first, call.last, call.grain
    reporting = call.reporting
    kept = max((ledger.grain[call.of], ledger.grain.get(call.versus, "day")), key=GRAINS.index)

    def by_middle(of: str) -> Days | None:
        inside = [
            period
            for period in dict.fromkeys(cal.period(day, of) for day in days_between(first, last))
            if first <= period[0] + ((period[1] - period[0]).days // 2) * DAY <= last
        ]
        return (inside[0][0], inside[-1][1]) if inside else None

    whole_of = None
    if cal.weeks and not reporting:
        candidates = [one for one in (call.every, kept) if one not in (None, "day")]
        whole_of = candidates[0] if candidates else None
    elif call.every == "week" and not cal.weeks:
        whole_of = "week"
    if whole_of is not None:
        moved = by_middle(whole_of)
        if moved is None:
            return None
        first, last, grain, reporting = *moved, whole_of, cal.weeks
    end = last if call.full_base else min(last, ledger.known_to(call.of, last, cal if reporting else Months()))
    is_cut = end < last
    if kept != "day" and not (kept == "week" and not cal.weeks and grain not in ("day", "week")):
        inside = [
            period
            for period in dict.fromkeys(cal.period(day, kept) for day in days_between(first, end))
            if first <= period[0] and period[1] <= end
        ]
        if not inside:
            return None
        first, end = inside[0][0], inside[-1][1]
        if GRAINS.index(grain) < GRAINS.index(kept):
            grain, reporting = kept, cal.weeks or reporting
    elif kept == "week" and end < last:
        end = max((day for day in days_between(first, end) if day.weekday() == 6 and day > first), default=end)
    return Call(
        **{**call.__dict__, "first": first, "last": end, "grain": grain, "reporting": reporting, "is_cut": is_cut}
    )


def expected(call: Call, rows: Iterable[Row], grain: dict[str, str], cal: Months) -> Answer | None:
    """What must come back; None where the call must be refused."""
    rows, grain = list(rows), dict(grain)
    if call.of == "outlook":
        grain["outlook"] = max((grain["actual"], grain["forecast"]), key=GRAINS.index)
        rows += _outlook(rows, grain, cal)
    ledger = Ledger(rows, grain, cal)
    if call.of == "outlook":
        ledger.known["outlook"] = (min(ledger.known["outlook"][0], call.first), call.last + 800 * DAY)
    found = aligned(call, ledger)
    if found is None or found.first > ledger.known[call.of][1] or found.last < ledger.known[call.of][0]:
        return None
    call = found
    known_to = ledger.known_to(call.of, call.last, cal if call.reporting else Months())
    if call.last < call.first:
        return None
    now_days = days_between(call.first, min(call.last, known_to))
    scenario = "budget" if call.versus == "budget" else "actual"
    if call.versus in ("window", "prior"):
        scenario = call.of
    by_weeks = call.grain == "week" or (cal.weeks and call.reporting)
    to_base: dict[date, list[date]] = {day: [] for day in days_between(call.first, call.last)}
    alone: list[date] = []  # days of the base that no day goes with
    if call.versus == "budget":
        to_base = {day: [day] for day in to_base}
    elif call.versus == "year-ago":
        for day in to_base:
            if (then := namesake(day, call, cal, by_weeks)) is not None:
                to_base[day] = [then]
        alone = _unpaired(call, cal, by_weeks, to_base, is_cut=call.is_cut)
    elif call.versus == "prior":
        paired = _prior(call, ledger, cal, list(to_base))
        if paired is None:
            return None
        to_base |= paired
    elif call.other is not None:
        to_base = dict(zip(to_base, ([day] for day in days_between(*call.other)), strict=False))
    if by_weeks and cal.weeks and GRAINS.index(ledger.grain[scenario]) >= 2:
        # Of a period that is kept as one figure no week 53 can be left out.
        for day in alone:
            next(days for days in to_base.values() if day - DAY in days).append(day)
        alone = []
    leap = [day for day in alone if (day.month, day.day) == (2, 29) and not by_weeks]
    every_base = sorted({then for found in to_base.values() for then in found} | set(leap))
    if not every_base:
        return None
    if call.full_base:
        every_base = sorted({*every_base, *alone})
    units = _units(call, cal, ledger, scenario, now_days, to_base, leap)
    kept_now, kept_then, unmatched = _matched(units, ledger, call.of, scenario)
    weeks_alone = [day for day in alone if day not in leap]
    if weeks_alone and ledger.total(scenario, weeks_alone) is not None:
        unmatched.append(("base", weeks_alone))
    if call.full_base:
        kept_now, kept_then, unmatched = now_days, every_base, []
    if (
        unmatched
        and not call.full_base
        and not any(ledger.days[call.of] & set(now) and ledger.days[scenario] & set(then) for now, then, _ in units)
    ):
        return None
    if ledger.total(call.of, kept_now) is None or ledger.total(scenario, kept_then) is None:
        return None
    if ledger.total(call.of, now_days) is None or ledger.total(scenario, every_base) is None:
        return None
    whole = ledger.total(call.of, kept_now, call.market), ledger.total(scenario, kept_then, call.market)
    if whole == (None, None):
        return None  # no row passes the condition
    answer = Answer(
        days=(call.first, now_days[-1]),
        base_days=(every_base[0], every_base[-1]),
        current=whole[0],
        base=whole[1],
        points=[],
        unmatched=_runs(call, unmatched, ledger, scenario),
        matched_days=(min(kept_now), max(kept_now)) if unmatched else (now_days[0], now_days[-1]),
    )
    answer.matched = (answer.current, answer.base)
    if call.market is not None and call.versus != "budget" and not call.full_base:
        _narrow(answer, call, ledger, scenario, units, unmatched)
    if call.by_market:
        for market in ("A", "B", "C"):
            pair = ledger.total(call.of, kept_now, market), ledger.total(scenario, kept_then, market)
            if call.market in (None, market) and pair != (None, None):
                answer.points.append((market, *pair))
    elif call.every is not None:
        _add_points(answer, call, cal, ledger, scenario, now_days, to_base, alone, leap)
    return answer


def _prior(call: Call, ledger: Ledger, cal: Months, days: list[date]) -> dict[date, list[date]] | None:
    """The period just before: its months, or what it is told apart by, in the places of the window's own."""
    periods = cal if call.reporting else Months()
    first, last = periods.period(call.first - DAY, call.grain)
    kept = ledger.grain[call.of]
    by = kept if GRAINS.index(kept) > 2 else "week" if call.grain == "week" else "month"
    told = [dict.fromkeys(periods.period(day, by) for day in run) for run in (days, days_between(first, last))]
    if len(told[0]) != len(told[1]):
        return None
    return {
        max(now[0], days[0]): days_between(max(then[0], first), min(then[1], last))
        for now, then in zip(*told, strict=True)
    }


def _outlook(rows: list[Row], grain: dict[str, str], cal: Months) -> list[Row]:
    """Actuals up to the last period of the data that is complete, forecast for the rest."""
    ledger = Ledger(rows, grain, cal)
    known_to = ledger.known["actual"][1]
    end = cal.period(known_to, grain["outlook"])[1]
    actual_to = end if ledger.known_to("actual", end, cal) >= end else cal.period(known_to, grain["outlook"])[0] - DAY
    of_week = 3 * DAY if not cal.weeks else timedelta()

    def counts(row: Row) -> date:
        return row.day + (of_week if grain[row.scenario] == "week" else timedelta())

    kept = [row for row in rows if row.scenario == "actual" and counts(row) <= actual_to]
    kept += [row for row in rows if row.scenario == "forecast" and counts(row) > actual_to]
    # They stand on the days on which they count, whatever the grain of the two together.
    return [Row(counts(row), row.market, "outlook", row.net) for row in kept]


def _unpaired(
    call: Call, cal: Months, by_weeks: bool, to_base: dict[date, list[date]], *, is_cut: bool
) -> list[date]:
    """The days of the base window that no day goes with: a 29 February, a week 53."""
    then = sorted(day for days in to_base.values() for day in days)
    if not then:
        return []
    first, last = then[0], then[-1]
    if not by_weeks and not call.weekday:
        next_day = last + DAY
        ends = call.first.day == 1 and _ends_month(call.last)
        feb28 = call.feb28 and (call.last.month, call.last.day) == (2, 28)
        if (next_day.month, next_day.day) == (2, 29) and (ends or feb28):
            last = next_day
    elif by_weeks:
        next_day = last + DAY
        week = cal.number(next_day)[1] if isinstance(cal, Weeks) and call.reporting else next_day.isocalendar().week
        from_week_1 = (
            cal.number(call.first)[1] if isinstance(cal, Weeks) and call.reporting else call.first.isocalendar().week
        ) == 1
        if week == 53 and not is_cut and (call.grain != "week" or from_week_1):
            last += 7 * DAY
    found = [day for day in days_between(first, last) if day not in set(then)]
    if call.feb28 and not by_weeks:
        # It goes with 28 February of the window, which has it beside its own.
        for day in found:
            for now, days in to_base.items():
                if (now.month, now.day) == (2, 28) and days == [day - DAY]:
                    days.append(day)
        found = [day for day in found if not any(day in days for days in to_base.values())]
    return found


def _units(
    call: Call,
    cal: Months,
    ledger: Ledger,
    scenario: str,
    now_days: list[date],
    to_base: dict[date, list[date]],
    leap: list[date],
) -> list[tuple[list[date], list[date], bool]]:
    """The days by month, by the data's periods where longer, by the window's own where shorter; whether by day."""
    kept = max((ledger.grain[call.of], ledger.grain[scenario]), key=GRAINS.index)
    by = kept if GRAINS.index(kept) > 2 else call.grain if call.grain in ("day", "week") else "month"
    if by == "day" and kept == "week":
        by = "week"
    periods = cal if call.reporting or not cal.weeks else Months()
    groups: dict[tuple[Days, bool], list[date]] = defaultdict(list)
    for day in now_days:
        # A week 53 that the year before has not is apart from its period.
        is_week_53 = call.versus == "year-ago" and (
            not to_base[day]
            and by in ("week", "month")
            and ledger.grain[scenario] in ("day", "week")
            and by_number(call, cal)
        )
        groups[periods.period(day, by), is_week_53].append(day)
    units = []
    for days in groups.values():
        then = [other for day in days for other in to_base[day]]
        # A 29 February between two days of a unit is part of it.
        then += [day for day in leap if by != "day" and then and min(then) <= day <= max(then) + DAY]
        units.append((days, then, by == "day"))
    if by == "day":
        units += [([], [day], True) for day in leap]
    return units


def _narrow(
    answer: Answer,
    call: Call,
    ledger: Ledger,
    scenario: str,
    units: list[tuple[list[date], list[date], bool]],
    unmatched: list[tuple[str, list[date]]],
) -> None:
    """The part of the total in which the market's rows have begun, and not ended, on both sides."""
    lone = {(side, day) for side, days in unmatched for day in days}
    kept = [
        (now, then)
        for now, then, by_day in units
        if not by_day
        and (ledger.days[call.of] & set(now) and ledger.days[scenario] & set(then))
        and not any(("current", day) in lone for day in now)
    ]
    extents = [
        [day for name, day, market in ledger.sums if name == one and market == call.market]
        for one in (call.of, scenario)
    ]
    if not kept or None in (answer.current, answer.base) or not all(extents):
        return
    reached = [
        (now, then)
        for now, then in kept
        if min(extents[0]) <= max(now)
        and min(now) <= max(extents[0])
        and min(extents[1]) <= max(then)
        and min(then) <= max(extents[1])
    ]
    if not reached or len(reached) == len(kept):
        return
    now, then = ([day for part in reached for day in part[place]] for place in (0, 1))
    found = ledger.total(call.of, now, call.market), ledger.total(scenario, then, call.market)
    if None not in found and found != (answer.current, answer.base):
        answer.matched, answer.matched_days = found, (min(now), max(now))


def by_number(call: Call, cal: Months) -> bool:
    return call.grain == "week" or (cal.weeks and call.reporting)


def _matched(
    units: list[tuple[list[date], list[date], bool]], ledger: Ledger, of: str, scenario: str
) -> tuple[list[date], list[date], list[tuple[str, list[date]]]]:
    kept_now: list[date] = []
    kept_then: list[date] = []
    unmatched: list[tuple[str, list[date]]] = []
    for now, then, by_day in units:
        is_leap_day = by_day and (not now or not then)
        lacks_now = not now or ledger.lacks(of, now, by_day)
        lacks_then = not then or ledger.lacks(scenario, then, by_day)
        if is_leap_day or not (lacks_now or lacks_then):
            kept_now += now
            kept_then += then
        elif not lacks_now:
            unmatched.append(("current", now))
        elif not lacks_then:
            unmatched.append(("base", then))
    return kept_now, kept_then, unmatched


def _runs(
    call: Call, unmatched: list[tuple[str, list[date]]], ledger: Ledger, scenario: str
) -> list[tuple[str, int, date, date]]:
    found = []
    for side, name in (("current", call.of), ("base", scenario)):
        days = sorted({day for one, days in unmatched if one == side for day in days})
        runs: list[list[date]] = []
        for day in days:
            if runs and day == runs[-1][-1] + DAY:
                runs[-1].append(day)
            else:
                runs.append([day])
        for run in runs:
            amount = ledger.total(name, run, call.market)
            if amount is not None:
                found.append((side, amount, run[0], run[-1]))
    return found


def _add_points(
    answer: Answer,
    call: Call,
    cal: Months,
    ledger: Ledger,
    scenario: str,
    now_days: list[date],
    to_base: dict[date, list[date]],
    alone: list[date],
    leap: list[date],
) -> None:
    assert call.every is not None
    groups: dict[str, tuple[list[date], list[date]]] = {}
    for day in days_between(call.first, call.last):
        now, then = groups.setdefault(cal.label(day, call.every), ([], []))
        if day in now_days:
            now.append(day)
        then += to_base[day]
    if call.every in ("day", "week"):
        for day in alone:
            label = cal.label(day, call.every)
            groups.setdefault(label, ([], []))[1].append(day)
    else:
        extra = leap + ([day for day in alone if day not in leap] if call.full_base else [])
        for day in extra:
            for _, then in groups.values():
                if then and min(then) <= day <= max(then) + DAY:
                    then.append(day)
                    break
    for label, (now, then) in groups.items():
        pair = ledger.total(call.of, now, call.market), ledger.total(scenario, then, call.market)
        answer.points.append((label, *pair))
        answer.spans[label] = ((min(now), max(now)) if now else None, (min(then), max(then)) if then else None)
