"""Starter files: a first statement from a list of accounts, to be changed and kept."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Sequence
from decimal import Decimal
from pathlib import Path

from marvex.app.session import Session
from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.core.exact import EXACT, ZERO
from marvex.core.structure.cost_names import (
    ACCOUNT_CODES,
    ACCOUNT_NAMES,
    COST,
    INCOME,
    KINDS,
    speaks_of_cost,
    speaks_of_income,
)
from marvex.core.structure.statement import Statement, StatementLine
from marvex.core.values import dataclass
from marvex.request.place import TABLE
from marvex.request.request import request_of
from marvex.request.settings import Settings
from marvex.sources.engine.listing import Listing

MOST_LINES = 400


@dataclass(frozen=True, slots=True)
class _ListedAccount:
    """An account of the list: its code, its name, and whether it is a cost, as the list says or its name."""

    code: str
    name: str
    is_cost: bool
    is_guessed: bool = False
    is_known: bool = True  # its name says neither, nor does the list, where that is not so


def starter_statement(session: Session, source: str, account: str | None = None) -> str:
    """A statement file: that which is found in a table; of a list a line for each account, and what they come to.

    Raises Mistake where there is neither a statement nor a column of accounts.
    """
    found = session.found_statement(source) if account is None else None
    if found is not None:
        return statement_text(found, Path(source).name)
    listing = session.listing(source)
    code, accounts = _accounts(listing, account)
    income = [one for one in accounts if not one.is_cost]
    costs = [one for one in accounts if one.is_cost]
    sums = _sums(session, source, code)
    signs = [
        "negative" if sum(sums.get(one.code, ZERO) for one in its) < 0 else "positive" for its in (income, costs)
    ]
    lines = [*_heading(Path(source).name, *signs)]
    labels = _labels((*income, *costs))
    if not all(one.is_known for one in accounts):  # whoever says what these are need not move them then
        for one in accounts:
            lines += _line(one, labels[one.code], "")
        return "\n".join([*lines, *_total("Result", [labels[one.code] for one in accounts])])
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


def statement_text(statement: Statement, name: str) -> str:
    """A statement as its file says it."""
    plain = [line for line in statement.lines if line.accounts]
    signs = [
        "negative" if own and all(line.is_negative for line in own) else "positive"
        for own in ([one for one in plain if not one.is_cost], [one for one in plain if one.is_cost])
    ]
    lines = [
        f"# The statement that was found in {name}: its lines, its totals with their parts, its ratios.",
        "",
        "[statement]",
        'name = "Profit and loss"',
    ]
    if statement.result is not None:
        lines.append(f"result = {_quoted(statement.result.label)}")
    lines += [f"income_sign = {_quoted(signs[0])}", f"cost_sign = {_quoted(signs[1])}"]
    for line in statement.lines:
        lines += _written(line, signs[line.is_cost])
    return "\n".join(lines) + "\n"


def _written(line: StatementLine, usual_sign: str) -> list[str]:
    """One line of a statement, with its sign where that is not the usual one of its kind."""
    written = ["", "[[line]]", f"label = {_quoted(line.label)}"]
    if line.section:
        written.append(f"section = {_quoted(line.section)}")
    if line.indent:
        written.append(f"indent = {line.indent}")
    sign = "negative" if line.is_negative else "positive"
    kind = f"kind = {_quoted('cost' if line.is_cost else 'income')}"
    if line.accounts:
        written += [f"accounts = [{', '.join(map(_quoted, line.accounts))}]", kind]
        written += [f"sign = {_quoted(sign)}"] if sign != usual_sign else []
    elif line.total_of:
        written.append(f"total_of = [{', '.join(map(_quoted, line.total_of))}]")
        written += [kind] if line.is_cost else []
    elif line.ratio_of:
        written.append(f"ratio_of = [{', '.join(map(_quoted, line.ratio_of))}]")
    return written


def _heading(name: str, income_sign: str, cost_sign: str) -> Sequence[str]:
    return (
        f"# A first statement from {name}: gather accounts into lines, put totals where they belong, and keep it.",
        "# accounts takes codes or names: exact, ranges such as 4000-4099, and patterns such as 41*.",
        "",
        "[statement]",
        'name = "Profit and loss"',
        f"income_sign = {_quoted(income_sign)}            # or {_other(income_sign)}: how the source stores it",
        f"cost_sign = {_quoted(cost_sign)}            # or {_other(cost_sign)}",
    )


def _other(sign: str) -> str:
    return _quoted("negative" if sign == "positive" else "positive")


def _sums(session: Session, source: str, column: str) -> dict[str, Decimal]:
    """What each account comes to, where the source has amounts, and not a list of accounts alone."""
    found: dict[str, Decimal] = {}
    with contextlib.suppress(Mistake):
        book = session.ledger(request_of([source], Settings(by=(column,), statement=Path("none")), TABLE))
        for name, _, _, _, amount in book.met(book.first, column):
            found[name] = EXACT.add(found.get(name, ZERO), amount or ZERO)
    return found


def _accounts(listing: Listing, asked: str | None) -> tuple[str, list[_ListedAccount]]:
    """The column of accounts, and those."""
    code = listing.column(ACCOUNT_CODES) if asked is None else listing.named(asked)
    if code is None:
        raise Mistake(
            f"{listing.name} has no column of accounts",
            did_you_mean("account", listing.headings, f"Name it with {setting('account')}."),
        )
    name, kind = listing.column(ACCOUNT_NAMES), listing.column(KINDS)
    rows = [[cell.strip() for cell in row] for row in listing.rows(code, name or code, kind or code)]
    names: dict[str, dict[str, None]] = {}
    kinds: dict[str, set[bool]] = {}
    for value, label, word in rows if kind is not None else [(*row[:2], "") for row in rows]:
        names.setdefault(value, {})[label] = None
        its_kinds = kinds.setdefault(value, set())
        if word.casefold() in (*COST, *INCOME):
            its_kinds.add(word.casefold() in COST)
    found = []
    for value in filter(None, names):
        label = value if len(names[value]) > 1 else next(iter(names[value]))  # or it gathers what the names are of
        is_said = len(kinds[value]) == 1
        is_cost = kinds[value] == {True} if is_said else speaks_of_cost(label)
        is_known = is_said or is_cost or speaks_of_income(label)
        found.append(_ListedAccount(value, label, is_cost, is_guessed=not is_said, is_known=is_known))
    if not found or len(found) > MOST_LINES:
        raise Mistake(
            f"{listing.name} has {len(found)} accounts, and a statement starts from 1 to {MOST_LINES}",
            f"Name the column of accounts with {setting('account')}.",
        )
    return code, found


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


_GUESSED = "          # guessed by its name: the list does not say"
_UNKNOWN = '          # "income" or "cost"? neither its name nor the list says it'


def _line(one: _ListedAccount, label: str, section: str) -> list[str]:
    kind = ("cost" if one.is_cost else "income") if one.is_known else "?"
    lines = ["", "[[line]]", f"label = {_quoted(label)}"]
    if section:
        lines.append(f"section = {_quoted(section)}")
    lines.append(f"accounts = [{_quoted(one.code)}]")
    lines.append(f"kind = {_quoted(kind)}" + ("" if not one.is_guessed else _GUESSED if one.is_known else _UNKNOWN))
    return lines


def _total(label: str, of: Sequence[str], *, is_cost: bool = False) -> list[str]:
    lines = ["", "[[line]]", f"label = {_quoted(label)}", f"total_of = [{', '.join(_quoted(one) for one in of)}]"]
    return [*lines, 'kind = "cost"'] if is_cost else lines


def _quoted(text: str) -> str:
    """A basic string of TOML, which is written as one of JSON is."""
    return json.dumps(text, ensure_ascii=False)
