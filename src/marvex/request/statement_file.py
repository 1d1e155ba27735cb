"""A statement as a TOML file says it, checked: signs, kinds, and lines that stand above what they make."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from marvex.core.errors import Mistake, listed
from marvex.core.structure.statement import Statement, StatementLine, checked

if TYPE_CHECKING:
    from marvex.request.statement_model import Head, LineTable


def statement_from(path: Path, unmapped: str | None) -> Statement:
    """The statement of a file, with a line for unmapped accounts where one is asked for.

    Raises Mistake where the file or a line of it is wrong.
    """
    # Pydantic is loaded only where a file is named.
    from marvex.request.statement_model import StatementFile
    from marvex.request.toml_file import read_toml

    found = read_toml(path, StatementFile, "statement")
    lines = tuple(_line(one, found.statement, path.name) for one in found.line)
    statement = Statement(name=found.statement.name or path.stem, lines=lines, result_label=found.statement.result)
    return checked(statement if unmapped is None else _with_unmapped(statement, unmapped))


def _with_unmapped(statement: Statement, label: str) -> Statement:
    """With a line for unmapped accounts before the result, in which it counts as income."""
    result = statement.result
    if result is None:
        return statement
    lines: list[StatementLine] = []
    for line in statement.lines:
        if line is result:
            lines += [StatementLine(label=label), replace(line, total_of=(*line.total_of, label))]
        else:
            lines.append(line)
    return replace(statement, lines=tuple(lines))


def _line(table: LineTable, head: Head, file: str) -> StatementLine:
    where = f"{file}, line '{table.label}'"
    made_of = [key for key in ("accounts", "total_of", "ratio_of") if getattr(table, key) is not None]
    if len(made_of) != 1:
        raise Mistake(
            f"{where} has {listed(made_of) if made_of else 'neither accounts, total_of nor ratio_of'}",
            "Give it just one of accounts, total_of and ratio_of.",
        )
    if table.accounts is not None and table.kind is None:
        raise Mistake(f"{where} does not say its kind", "Write kind = 'income' or kind = 'cost'.")
    is_cost = table.kind == "cost"
    sign = table.sign or (head.cost_sign if is_cost else head.income_sign)
    ratio = table.ratio_of
    return StatementLine(
        label=table.label,
        accounts=tuple(str(one) for one in table.accounts or ()),
        total_of=tuple(table.total_of or ()),
        ratio_of=(ratio[0], ratio[1]) if ratio else None,
        is_cost=is_cost,
        is_negative=sign == "negative",
        has_own_sign=table.sign is not None,
        section=table.section,
        indent=table.indent,
    )
