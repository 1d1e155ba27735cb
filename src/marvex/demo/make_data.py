"""Makes the demo data of Ostrey Sound Ferries: `python -m marvex.demo [FOLDER]`.

Everything in it is invented. The same seed gives the same files. Stories that an analyst can find:

- a season: fares, café and fuel peak in July and August;
- fuel well over budget from March 2026, when its price rose;
- the route Merle–Finmouth opened in May 2025; Summer island hop closed in September 2024;
- the vessel on Harrow Skerry loop was out of service from 9 February to 8 March 2026, with its repair;
- that made February 2026 the one loss-making month;
- the account Storm repairs has a budget of zero, and was needed in 2026;
- on 14 August 2026 a gale kept all boats in port.
"""

from __future__ import annotations

import csv
import gzip
import io
import random
from collections.abc import Iterator
from datetime import date, timedelta
from decimal import ROUND_HALF_UP, Decimal
from pathlib import Path

from marvex.core.values import dataclass

DATA = Path(__file__).parent / "data"
LEDGER, ACCOUNT_LIST = "ledger.csv.gz", "accounts.csv"

SEED = 20261031
FIRST, LAST = date(2023, 1, 1), date(2026, 10, 31)
GALE = date(2026, 8, 14)
DOCKED_FROM, DOCKED_TO = date(2026, 2, 9), date(2026, 3, 8)

SEASON = (0.79, 0.82, 0.84, 0.92, 1.03, 1.15, 1.36, 1.42, 1.08, 0.94, 0.85, 0.85)
GROWTH = {2023: 1.0, 2024: 1.035, 2025: 1.06, 2026: 1.12}


@dataclass(frozen=True, slots=True, kw_only=True)
class Account:
    """An account and how it behaves: a month's amount on a route of size 1, and how far it follows the season."""

    code: int
    name: str
    kind: str
    month: int
    season: float
    central: bool = False  # booked to head office, not to a route


ACCOUNTS = (
    Account(code=4010, name="Passenger fares", kind="income", month=66_500, season=0.75),
    Account(code=4020, name="Vehicle fares", kind="income", month=31_000, season=0.6),
    Account(code=4030, name="Freight", kind="income", month=17_500, season=0.1),
    Account(code=4040, name="Café and onboard", kind="income", month=9_400, season=1.1),
    Account(code=4050, name="Charter", kind="income", month=9_500, season=1.3, central=True),
    Account(code=4060, name="Parking", kind="income", month=2_100, season=0.9),
    Account(code=4070, name="Advertising", kind="income", month=3_400, season=0.0, central=True),
    Account(code=5010, name="Fuel", kind="cost", month=17_900, season=0.35),
    Account(code=5020, name="Crew wages", kind="cost", month=29_500, season=0.15),
    Account(code=5030, name="Crew training", kind="cost", month=900, season=0.0),
    Account(code=5040, name="Port dues", kind="cost", month=7_400, season=0.25),
    Account(code=5050, name="Vessel maintenance", kind="cost", month=8_600, season=-0.3),
    Account(code=5060, name="Storm repairs", kind="cost", month=0, season=0.0),
    Account(code=5070, name="Café supplies", kind="cost", month=3_600, season=1.1),
    Account(code=5080, name="Cleaning", kind="cost", month=1_500, season=0.5),
    Account(code=5110, name="Insurance", kind="cost", month=21_000, season=0.0, central=True),
    Account(code=5120, name="Marketing", kind="cost", month=10_500, season=0.6, central=True),
    Account(code=5130, name="Booking system", kind="cost", month=7_800, season=0.1, central=True),
    Account(code=5140, name="Office wages", kind="cost", month=46_000, season=0.0, central=True),
    Account(code=5150, name="Rent and rates", kind="cost", month=12_400, season=0.0, central=True),
    Account(code=5160, name="Professional fees", kind="cost", month=6_300, season=0.0, central=True),
    Account(code=5170, name="Telephone and post", kind="cost", month=2_700, season=0.0, central=True),
    Account(code=5210, name="Depreciation", kind="cost", month=10_800, season=0.0),
    Account(code=5310, name="Interest", kind="cost", month=14_500, season=0.0, central=True),
    Account(code=5410, name="Tax", kind="cost", month=11_000, season=0.0, central=True),
)
FARES, CAFE, FUEL, MAINTENANCE, STORM = 4010, 4040, 5010, 5050, 5060
DAILY = (FARES, CAFE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """A route, its size against the others, and the days between which it ran."""

    name: str
    size: float
    opened: date = FIRST
    closed: date = date.max
    trend: float = 0.0  # a year's growth beyond the company's


ROUTES = (
    Route(name="Ostrey–Calder Bay", size=1.75, trend=0.03),
    Route(name="Ostrey–Finmouth", size=1.20, trend=-0.035),
    Route(name="Harrow Skerry loop", size=0.85),
    Route(name="Night freight", size=0.60, trend=-0.05),
    Route(name="Merle–Finmouth", size=0.55, opened=date(2025, 5, 1), trend=0.12),
    Route(name="Summer island hop", size=0.45, closed=date(2024, 9, 30)),
)
HEAD_OFFICE = Route(name="Head office", size=1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Booking:
    """One row of the ledger."""

    day: date
    account: Account
    route: Route
    scenario: str
    net: Decimal


def bookings() -> Iterator[Booking]:
    """All rows in order: actuals by account, then the budgets, then the forecast."""
    chance = random.Random(SEED)
    actuals = [one for account in ACCOUNTS for one in _actuals(account, chance)]
    # Account by account, as a ledger is printed; within each by day.
    yield from sorted(actuals, key=lambda one: (one.account.code, one.day))
    budget = random.Random(SEED + 1)
    for year in (2025, 2026):
        for month in range(1, 13):
            yield from _planned("budget", date(year, month, 1), budget)
    for month in (11, 12):
        yield from _planned("forecast", date(2026, month, 1), budget)


def _actuals(account: Account, chance: random.Random) -> Iterator[Booking]:
    routes = (HEAD_OFFICE,) if account.central else ROUTES
    for route in routes:
        if account.code in DAILY:
            yield from _daily_takings(account, route, chance)
            continue
        for month in _months(FIRST, LAST):
            if not _runs(route, month):
                continue
            day = month + timedelta(days=chance.choice((4, 11, 18, 24, 26)))
            amount = _month_amount(account, route, month) * chance.gauss(1, 0.035)
            amount *= _story(account, route, month)
            if amount:
                yield Booking(day=day, account=account, route=route, scenario="actual", net=_signed(account, amount))
        yield from _single_bookings(account, route, chance)


def _daily_takings(account: Account, route: Route, chance: random.Random) -> Iterator[Booking]:
    day = max(FIRST, route.opened)
    while day <= min(LAST, route.closed):
        is_docked = route.name == "Harrow Skerry loop" and DOCKED_FROM <= day <= DOCKED_TO
        if day != GALE and not is_docked:
            weekday = (0.82, 0.80, 0.84, 0.94, 1.20, 1.30, 1.10)[day.weekday()]
            season = 1 + account.season * (SEASON[day.month - 1] - 1)
            amount = account.month * 12 / 365 * route.size * season * weekday * _growth(route, day)
            yield Booking(
                day=day,
                account=account,
                route=route,
                scenario="actual",
                net=_signed(account, amount * chance.gauss(1, 0.11)),
            )
        day += timedelta(days=1)


def _single_bookings(account: Account, route: Route, chance: random.Random) -> Iterator[Booking]:
    """The one-off costs of the stories."""
    one_offs = {
        (MAINTENANCE, "Harrow Skerry loop"): ((date(2026, 2, 27), 92_000),),
        (STORM, "Ostrey–Calder Bay"): ((date(2026, 1, 22), 9_400), (date(2026, 8, 20), 27_800)),
        (STORM, "Ostrey–Finmouth"): ((date(2026, 8, 21), 13_600),),
    }
    for day, amount in one_offs.get((account.code, route.name), ()):
        yield Booking(
            day=day,
            account=account,
            route=route,
            scenario="actual",
            net=_signed(account, amount * chance.gauss(1, 0.01)),
        )


def _planned(scenario: str, month: date, chance: random.Random) -> Iterator[Booking]:
    for account in ACCOUNTS:
        for route in (HEAD_OFFICE,) if account.central else ROUTES:
            if not _runs(route, month):
                continue
            growth = 1.03 if account.kind == "income" else 1.015
            amount = _month_amount(account, route, month) / _growth(route, month) * GROWTH[month.year]
            if scenario == "forecast" and account.code == FUEL:
                amount *= 1.22
            rounded = round(amount * growth * chance.uniform(0.98, 1.02), -2)
            # A budget of nothing is a row that says so; no row is no budget.
            yield Booking(day=month, account=account, route=route, scenario=scenario, net=_signed(account, rounded))


def _month_amount(account: Account, route: Route, month: date) -> float:
    season = 1 + account.season * (SEASON[month.month - 1] - 1)
    return account.month * route.size * season * _growth(route, month)


def _story(account: Account, route: Route, month: date) -> float:
    if account.code == FUEL and month >= date(2026, 3, 1):
        return 1.27
    is_docked = route.name == "Harrow Skerry loop" and month == date(2026, 2, 1)
    if is_docked and account.code in (4020, 4040, FUEL, 5040, 5070):
        return 0.35
    return 1.0


def _growth(route: Route, day: date) -> float:
    return GROWTH[day.year] * (1 + route.trend) ** (day.year - max(2023, route.opened.year))


def _runs(route: Route, month: date) -> bool:
    return route.opened <= month <= route.closed


def _months(first: date, last: date) -> Iterator[date]:
    month = first
    while month <= last:
        yield month
        month = date(month.year + month.month // 12, month.month % 12 + 1, 1)


def _signed(account: Account, amount: float) -> Decimal:
    cents = Decimal(str(amount)).quantize(Decimal("0.01"), rounding=ROUND_HALF_UP)
    return cents if account.kind == "income" else -cents + 0


def write_ledger(folder: Path) -> int:
    """Writes `ledger.csv.gz`, the same bytes every time, and gives the number of rows."""
    rows = 0
    with (
        (folder / LEDGER).open("wb") as packed,
        gzip.GzipFile("", "wb", 9, packed, mtime=0) as unpacked,
        io.TextIOWrapper(unpacked, encoding="utf-8", newline="") as file,
    ):
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(("date", "account", "account_name", "kind", "route", "scenario", "net"))
        for one in bookings():
            account = one.account
            writer.writerow(
                (one.day, account.code, account.name, account.kind, one.route.name, one.scenario, one.net)
            )
            rows += 1
    return rows


def write_accounts(folder: Path) -> None:
    """Writes `accounts.csv`, the list of accounts."""
    with (folder / ACCOUNT_LIST).open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(("account", "account_name", "kind"))
        writer.writerows((one.code, one.name, one.kind) for one in ACCOUNTS)
