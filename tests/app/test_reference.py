"""Random calls against an independent reference: every figure, every day, every total and headline."""

from __future__ import annotations

import os
import random
from datetime import date, timedelta
from typing import Any

import pytest

from conftest import Desk
from reference import GRAINS, Answer, Call, Months, Row, Weeks, days_between, expected

CALLS = int(os.environ.get("MARVEX_CALLS", "300"))
IN_A_LEDGER = 12
DAY = timedelta(days=1)
CALENDARS: dict[str, tuple[Months, tuple[str, ...]]] = {
    "civil": (Months(), ()),
    "july": (Months(7), ("--year-starts", "july")),
    "weeks": (Weeks(), ("--weeks", "4-4-5", "--year-ends", "saturday nearest 31 january")),
}


def random_ledger(chance: random.Random, cal: Months) -> tuple[list[Row], dict[str, str]]:
    """Rows of three markets by day, week, month or quarter, with gaps; a budget by the same or by month."""
    grain = chance.choice(["day", "day", "week", "month", "quarter"])
    of_budget = chance.choice([grain, "month"]) if grain in ("day", "month") else grain
    starts = date(2023, 1, 1) + chance.randrange(0, 500) * DAY
    ends = date(2025, 3, 1) + chance.randrange(0, 300) * DAY
    closed = chance.choice([set(), {6}, {5, 6}])
    gaps = {(chance.choice([2023, 2024, 2025]), chance.randrange(1, 13)) for _ in range(chance.choice([0, 0, 1, 3]))}
    opens = {"A": date(2020, 1, 1), "B": date(2020, 1, 1), "C": date(2024, 1, 1) + chance.randrange(0, 400) * DAY}
    rows = []
    for scenario, kept, first, last in (
        ("actual", grain, starts, ends),
        ("budget", of_budget, date(2024, chance.randrange(1, 8), 1), date(2025, 12, 31)),
        ("forecast", of_budget, date(2024, 6, 1), date(2026, 1, 31)),
    ):
        for day in days_between(first, last):
            if day != cal.period(day, kept)[0] or (day.year, day.month) in gaps:
                continue
            if kept == "day" and (day.weekday() in closed or chance.random() < 0.03):
                continue
            for market in "ABC":
                if opens[market] <= day and chance.random() < 0.9:
                    rows.append(
                        Row(day, market, scenario, chance.randrange(-20, 100) or 1)
                    )  # zeros may end a scenario
    return rows, {"actual": grain, "budget": of_budget, "forecast": of_budget}


def random_call(chance: random.Random, name: str, cal: Months, kept: dict[str, str]) -> tuple[Call, list[str]]:
    """A call that can be answered, and its words."""
    day = date(2024, 3, 1) + chance.randrange(0, 420) * DAY
    grain = chance.choice(["year", "half", "quarter", "month", "month", "week", "day", "months", "weeks"])
    civil, reporting, other = Months(), False, None
    if grain == "day":
        first, last = day, day + chance.randrange(3, 40) * DAY
        window = f"{first}/{last}"
    elif grain in ("months", "weeks"):
        grain = grain[:-1]
        first = civil.period(day, grain)[0]
        last = civil.period(first + chance.randrange(20, 200) * DAY, grain)[1]
        window = f"{civil.label(first, grain)}/{civil.label(last, grain)}"
    else:
        reporting = name != "civil" and grain != "week" and chance.random() < 0.6
        periods = cal if reporting else civil
        first, last = periods.period(day, grain)
        window = periods.label(first, grain)
    versus = chance.choice(["year-ago"] * 4 + ["budget"])
    if grain == "day" and kept["actual"] == "day" and chance.random() < 0.3:
        versus = "window"
        other = (first - 56 * DAY, last - 56 * DAY)
    is_one = window.count("/") == 0 and kept["actual"] in ("day", "month") and last < date(2025, 2, 1)
    if is_one and (name != "weeks" or (kept["actual"] == "day" and not reporting)) and chance.random() < 0.2:
        versus = "prior"
    words = ["--for", window, "--versus", f"{other[0]}/{other[1]}" if other else versus]
    of = "outlook" if versus in ("year-ago", "budget") and chance.random() < 0.15 else "actual"
    market = chance.choice([None, None, "C"])
    words += ["--of", "actual+forecast" if of == "outlook" else "actual"]
    words += ["--where", f"market={market}"] if market else []
    others = [kept["forecast"]] if of == "outlook" else []
    finest = max((kept["actual"], kept[versus if versus == "budget" else "actual"], *others), key=GRAINS.index)
    weekday = versus == "year-ago" and finest in ("day", "week") and chance.random() < 0.15
    feb28 = versus == "year-ago" and not weekday and chance.random() < 0.15
    full_base = versus == "year-ago" and chance.random() < 0.1
    words += ["--match", "weekday"] if weekday else ["--leap", "feb28"] if feb28 else []
    words += ["--full-base"] if full_base else []
    points = [one for one in GRAINS[GRAINS.index(finest) :] if _fits(one, first, last, cal)]
    every = chance.choice([None, *points]) if not other else chance.choice([None, "day"])
    every = None if versus == "prior" else every
    words += ["--every", every] if every else ["--by", "market"]
    call = Call(
        first=first,
        last=last,
        grain=grain,
        versus=versus,
        every=every,
        weekday=weekday,
        feb28=feb28,
        full_base=full_base,
        by_market=every is None,
        reporting=reporting,
        other=other,
        of=of,
        market=market,
    )
    return call, words


def _fits(grain: str, first: date, last: date, cal: Months) -> bool:
    """Whether a whole period of a grain lies in a window."""
    return any(
        cal.period(day, grain)[0] == day and cal.period(day, grain)[1] <= last for day in days_between(first, last)
    )


def found_answer(found: dict[str, Any], call: Call) -> dict[str, Any]:
    total = found["points"][-1]
    points = [one for one in found["points"][:-1] if (one["current"], one["base"]) != (None, None)]
    return {
        "days": (found["current"]["from"], found["current"]["to"]),
        "matched": (found["matched"]["from"], found["matched"]["to"]),
        "total": (total["current"], total["base"]),
        "part": (found["matched"]["current"], found["matched"]["base"]),
        "points": sorted((one["label"], one["current"], one["base"]) for one in points),
        "spans": {
            one["label"]: (one["from"], one["to"], one["base_from"], one["base_to"]) for one in points if call.every
        },
        "unmatched": sorted((one["side"], one["amount"], one["from"], one["to"]) for one in found["unmatched"]),
    }


def told(answer: Answer, call: Call) -> dict[str, Any]:
    """The reference's answer in the same shape."""
    points = [one for one in answer.points if one[1:] != (None, None)]
    labels = {one[0] for one in points}

    def text(days: tuple[date, date] | None) -> tuple[str | None, str | None]:
        return (days[0].isoformat(), days[1].isoformat()) if days else (None, None)

    return {
        "days": text(answer.days),
        "matched": text(answer.matched_days),
        "total": (answer.current, answer.base),
        "part": answer.matched,
        "points": sorted(points),
        "spans": {
            label: (*text(spans[0]), *text(spans[1]))
            for label, spans in answer.spans.items()
            if label in labels and call.every
        },
        "unmatched": sorted((side, amount, *text((first, last))) for side, amount, first, last in answer.unmatched),
    }


@pytest.mark.parametrize("seed", range(max(1, CALLS // IN_A_LEDGER)))
def test_every_figure_is_that_of_the_reference(desk: Desk, seed: int) -> None:
    chance = random.Random(seed)
    name = chance.choice(["civil", "civil", "july", "weeks"])
    cal, calendar_words = CALENDARS[name]
    rows, grain = random_ledger(chance, cal)
    desk.write(
        "l.csv", [(one.day, one.market, one.scenario, one.net) for one in rows], ("date", "market", "scenario", "net")
    )
    refused = 0
    for _ in range(IN_A_LEDGER):
        call, words = random_call(chance, name, cal, grain)
        answer = expected(call, rows, grain, cal)
        asked = ("table", "l.csv", "--verify", "--absent", "gap", *words, *calendar_words)
        done = desk.run(*asked, "--figures", "figures.json")
        if done.status == 2:
            assert "tie out" not in done.err, (asked, done.err)
            refused += 1
            continue
        assert answer is not None, (asked, done.err)
        found = desk.read_figures()
        assert found_answer(found, call) == told(answer, call), (asked, grain)
        check_headline(found["headline"], answer)


def check_headline(headline: str, answer: Answer) -> None:
    """The headline states the total and its change, and whether it is up or down."""
    if answer.current is None or answer.base is None:
        return
    change = answer.current - answer.base
    words = headline.replace("\u2212", "-")
    assert f"{answer.current:,}" in words, headline
    if change:
        assert f"{abs(change):,} {'above' if change > 0 else 'below'}" in words.replace(" over ", " above ").replace(
            " under ", " below "
        ), headline
