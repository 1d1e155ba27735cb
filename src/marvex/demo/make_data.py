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

from marvex.core.frozen import frozen

DATA = Path(__file__).parent / "data"
LEDGER, ACCOUNT_LIST = "ledger.csv.gz", "accounts.csv"

SEED = 20261031
FIRST, LAST = date(2023, 1, 1), date(2026, 10, 31)
GALE = date(2026, 8, 14)
DOCKED_FROM, DOCKED_TO = date(2026, 2, 9), date(2026, 3, 8)

SEASON = (0.79, 0.82, 0.84, 0.92, 1.03, 1.15, 1.36, 1.42, 1.08, 0.94, 0.85, 0.85)
GROWTH = {2023: 1.0, 2024: 1.035, 2025: 1.06, 2026: 1.12}


@frozen
class Account:
    """An account and how it behaves: a month's amount on a route of size 1, and how far it follows the season."""

    code: int
    name: str
    kind: str
    month: int
    season: float
    central: bool = False  # booked to head office, not to a route


ACCOUNTS = (
    Account(4010, "Passenger fares", "income", 66_500, 0.75),
    Account(4020, "Vehicle fares", "income", 31_000, 0.6),
    Account(4030, "Freight", "income", 17_500, 0.1),
    Account(4040, "Café and onboard", "income", 9_400, 1.1),
    Account(4050, "Charter", "income", 9_500, 1.3, central=True),
    Account(4060, "Parking", "income", 2_100, 0.9),
    Account(4070, "Advertising", "income", 3_400, 0.0, central=True),
    Account(5010, "Fuel", "cost", 17_900, 0.35),
    Account(5020, "Crew wages", "cost", 29_500, 0.15),
    Account(5030, "Crew training", "cost", 900, 0.0),
    Account(5040, "Port dues", "cost", 7_400, 0.25),
    Account(5050, "Vessel maintenance", "cost", 8_600, -0.3),
    Account(5060, "Storm repairs", "cost", 0, 0.0),
    Account(5070, "Café supplies", "cost", 3_600, 1.1),
    Account(5080, "Cleaning", "cost", 1_500, 0.5),
    Account(5110, "Insurance", "cost", 21_000, 0.0, central=True),
    Account(5120, "Marketing", "cost", 10_500, 0.6, central=True),
    Account(5130, "Booking system", "cost", 7_800, 0.1, central=True),
    Account(5140, "Office wages", "cost", 46_000, 0.0, central=True),
    Account(5150, "Rent and rates", "cost", 12_400, 0.0, central=True),
    Account(5160, "Professional fees", "cost", 6_300, 0.0, central=True),
    Account(5170, "Telephone and post", "cost", 2_700, 0.0, central=True),
    Account(5210, "Depreciation", "cost", 10_800, 0.0),
    Account(5310, "Interest", "cost", 14_500, 0.0, central=True),
    Account(5410, "Tax", "cost", 11_000, 0.0, central=True),
)
FARES, CAFE, FUEL, MAINTENANCE, STORM = 4010, 4040, 5010, 5050, 5060
DAILY = (FARES, CAFE)


@frozen
class Route:
    """A route, its size against the others, and the days between which it ran."""

    name: str
    size: float
    opened: date = FIRST
    closed: date = date.max
    trend: float = 0.0  # a year's growth beyond the company's


ROUTES = (
    Route("Ostrey–Calder Bay", 1.75, trend=0.03),
    Route("Ostrey–Finmouth", 1.20, trend=-0.035),
    Route("Harrow Skerry loop", 0.85),
    Route("Night freight", 0.60, trend=-0.05),
    Route("Merle–Finmouth", 0.55, opened=date(2025, 5, 1), trend=0.12),
    Route("Summer island hop", 0.45, closed=date(2024, 9, 30)),
)
HEAD_OFFICE = Route("Head office", 1.0)


@frozen
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
                yield Booking(day, account, route, "actual", _signed(account, amount))
        yield from _single_bookings(account, route, chance)


def _daily_takings(account: Account, route: Route, chance: random.Random) -> Iterator[Booking]:
    day = max(FIRST, route.opened)
    while day <= min(LAST, route.closed):
        is_docked = route.name == "Harrow Skerry loop" and DOCKED_FROM <= day <= DOCKED_TO
        if day != GALE and not is_docked:
            weekday = (0.82, 0.80, 0.84, 0.94, 1.20, 1.30, 1.10)[day.weekday()]
            season = 1 + account.season * (SEASON[day.month - 1] - 1)
            amount = account.month * 12 / 365 * route.size * season * weekday * _growth(route, day)
            yield Booking(day, account, route, "actual", _signed(account, amount * chance.gauss(1, 0.11)))
        day += timedelta(days=1)


def _single_bookings(account: Account, route: Route, chance: random.Random) -> Iterator[Booking]:
    """The one-off costs of the stories."""
    one_offs = {
        (MAINTENANCE, "Harrow Skerry loop"): ((date(2026, 2, 27), 92_000),),
        (STORM, "Ostrey–Calder Bay"): ((date(2026, 1, 22), 9_400), (date(2026, 8, 20), 27_800)),
        (STORM, "Ostrey–Finmouth"): ((date(2026, 8, 21), 13_600),),
    }
    for day, amount in one_offs.get((account.code, route.name), ()):
        yield Booking(day, account, route, "actual", _signed(account, amount * chance.gauss(1, 0.01)))


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
            yield Booking(month, account, route, scenario, _signed(account, rounded))


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
