"""Starter files: a first statement from a list of accounts, to be changed and kept."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from marvex.app.session import Session
from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.sources.engine.listing import Table

CODES = ("account", "account code", "account_code", "code", "nominal", "number", "account number")
NAMES = ("account name", "account_name", "name", "description", "title", "label")
KINDS = ("kind", "type", "class", "group", "category")
INCOME = ("income", "revenue", "sales", "turnover", "other income")
COST = ("cost", "costs", "expense", "expenses", "expenditure", "cost of sales", "overhead", "overheads")
MOST_LINES = 400


@dataclass(frozen=True, slots=True)
class _ListedAccount:
    """An account of the list: its code, its name, and whether it is a cost; None where that is not said."""

    code: str
    name: str
    is_cost: bool | None


def starter_statement(session: Session, source: str, account: str | None = None) -> str:
    """A statement file with a line for each account of a list, income first, and what they come to.

    Raises Mistake where the list has no column of accounts.
    """
    table = session.table(source)
    accounts = _accounts(table, account)
    lines = [*_heading(Path(source).name)]
    unknown = [one for one in accounts if one.is_cost is None]
    income = [one for one in accounts if one.is_cost is False] + unknown
    costs = [one for one in accounts if one.is_cost]
    labels = _labels((*income, *costs))
    for section, group in (("Income", income), ("Costs", costs)):
        for place, one in enumerate(group):
            lines += _line(one, labels[one.code], section if not place else "")
    if income and costs:
        lines += _total("Total income", [labels[one.code] for one in income])
        lines += _total("Total costs", [labels[one.code] for one in costs], is_cost=True)
        lines += _total("Result", ["Total income", "Total costs"])
    else:
        lines += _total("Result", [labels[one.code] for one in (*income, *costs)])
    return "\n".join(lines)


def _heading(name: str) -> Sequence[str]:
    return (
        f"# A first statement from {name}: gather accounts into lines, put totals where they belong, and keep it.",
        "# accounts takes codes or names: exact, ranges such as 4000-4099, and patterns such as 41*.",
        "",
        "[statement]",
        'name = "Profit and loss"',
        'income_sign = "positive"            # or "negative": how the source stores it',
        'cost_sign = "positive"            # or "negative"',
    )


def _accounts(table: Table, asked: str | None) -> list[_ListedAccount]:
    code = table.column(CODES) if asked is None else table.named(asked)
    if code is None:
        raise Mistake(
            f"{table.name} has no column of accounts",
            did_you_mean("account", table.headings, f"Name it with {setting('account')}."),
        )
    name, kind = table.column(NAMES), table.column(KINDS)
    found: dict[str, _ListedAccount] = {}
    for row in table.rows:
        value = row[code].strip()
        if value and value not in found:
            word = row[kind].strip().casefold() if kind is not None else ""
            is_cost = True if word in COST else False if word in INCOME else None
            found[value] = _ListedAccount(value, row[name].strip() if name is not None else value, is_cost)
    if not found or len(found) > MOST_LINES:
        raise Mistake(
            f"{table.name} has {len(found)} accounts, and a statement starts from 1 to {MOST_LINES}",
            f"Name the column of accounts with {setting('account')}.",
        )
    return list(found.values())


def _labels(accounts: Sequence[_ListedAccount]) -> dict[str, str]:
    """A label for each account: its name, with its code behind it where two have the same."""
    names = [one.name for one in accounts]
    taken = ("Total income", "Total costs", "Result")
    return {
        one.code: one.name
        if names.count(one.name) == 1 and one.name not in taken and one.name
        else f"{one.name} {one.code}".strip()
        for one in accounts
    }


def _line(one: _ListedAccount, label: str, section: str) -> list[str]:
    kind = "cost" if one.is_cost else "income"
    lines = ["", "[[line]]", f"label = {_quoted(label)}"]
    if section:
        lines.append(f"section = {_quoted(section)}")
    lines.append(f"accounts = [{_quoted(one.code)}]")
    lines.append(
        f"kind = {_quoted(kind)}" + ("          # or cost: the list does not say" if one.is_cost is None else "")
    )
    return lines


def _total(label: str, of: Sequence[str], *, is_cost: bool = False) -> list[str]:
    lines = ["", "[[line]]", f"label = {_quoted(label)}", f"total_of = [{', '.join(_quoted(one) for one in of)}]"]
    return [*lines, 'kind = "cost"'] if is_cost else lines


def _quoted(text: str) -> str:
    """A basic string of TOML, which is written as one of JSON is."""
    return json.dumps(text, ensure_ascii=False)
