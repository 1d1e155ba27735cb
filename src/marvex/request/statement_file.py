"""A statement as a TOML file says it: `[statement]` with a name and the signs, and one `[[line]]` a line."""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.structure.statement import Statement, StatementLine, checked

TABLES = ("statement", "line")
OF_STATEMENT = ("name", "income_sign", "cost_sign")
OF_LINE = ("label", "accounts", "total_of", "ratio_of", "kind", "sign", "section", "indent")
SIGNS = ("positive", "negative")


def statement_from(path: Path, spare: str | None) -> Statement:
    """The statement of a file, with a line for spare accounts where one is asked for.

    Raises Mistake where the file or a line of it is wrong.
    """
    try:
        content = tomllib.loads(path.read_text(encoding="utf-8-sig"))
    except (OSError, UnicodeDecodeError, tomllib.TOMLDecodeError) as problem:
        raise Mistake(
            f"{setting('statement')} {path.name} cannot be read: {problem}", "Name a statement file."
        ) from problem
    _check_keys(content, TABLES, path.name)
    head = content.get("statement", {})
    if not isinstance(head, dict):
        raise Mistake(f"{path.name}: statement is not a table", "Write [statement] above its keys.")
    _check_keys(head, OF_STATEMENT, f"{path.name}, [statement]")
    signs = {
        key: _one_of(head.get(key, "positive"), SIGNS, f"{path.name}, [statement] {key}") == "negative"
        for key in ("income_sign", "cost_sign")
    }
    tables = content.get("line", [])
    if not isinstance(tables, list) or not tables or not all(isinstance(one, dict) for one in tables):
        raise Mistake(f"{path.name} has no lines", "Write each as [[line]] with a label and accounts.")
    lines = [_line(table, path.name, place, signs) for place, table in enumerate(tables, 1)]
    statement = Statement(str(head.get("name", path.stem)), tuple(lines))
    if spare is not None:
        statement = _with_spare(statement, spare)
    return checked(statement)


def _with_spare(statement: Statement, label: str) -> Statement:
    """With a line for spare accounts before the result, in which it counts as income."""
    from dataclasses import replace

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


def _line(table: Mapping[str, Any], file: str, place: int, signs: Mapping[str, bool]) -> StatementLine:
    label = table.get("label")
    if not isinstance(label, str) or not label.strip():
        raise Mistake(f"{file}, line {place} has no label", "Write label = 'Passenger fares'.")
    where = f"{file}, line '{label}'"
    _check_keys(table, OF_LINE, where)
    made_of = [key for key in ("accounts", "total_of", "ratio_of") if key in table]
    if len(made_of) != 1:
        raise Mistake(
            f"{where} has {listed(made_of) if made_of else 'neither accounts, total_of nor ratio_of'}",
            "Give it just one of accounts, total_of and ratio_of.",
        )
    kind = _one_of(table.get("kind", "income"), ("income", "cost"), f"{where}, kind")
    if made_of == ["accounts"] and "kind" not in table:
        raise Mistake(f"{where} does not say its kind", "Write kind = 'income' or kind = 'cost'.")
    is_negative = signs["cost_sign"] if kind == "cost" else signs["income_sign"]
    if "sign" in table:
        is_negative = _one_of(table["sign"], SIGNS, f"{where}, sign") == "negative"
    ratio = _texts(table, "ratio_of", where)
    if ratio and len(ratio) != 2:
        raise Mistake(f"{where}: ratio_of takes two lines", "Write ratio_of = ['Gross margin', 'Passenger fares'].")
    indent = table.get("indent", 0)
    if not isinstance(indent, int) or not 0 <= indent <= 5:
        raise Mistake(f"{where}: indent = {indent!r} is not a number of steps", "Write a number from 0 to 5.")
    return StatementLine(
        label=label,
        accounts=_texts(table, "accounts", where),
        total_of=_texts(table, "total_of", where),
        ratio=(ratio[0], ratio[1]) if ratio else None,
        is_cost=kind == "cost",
        is_negative=is_negative,
        section=str(table.get("section", "")),
        indent=indent,
    )


def _check_keys(table: Mapping[str, Any], known: Iterable[str], where: str) -> None:
    for key in table:
        if key not in known:
            raise Mistake(
                f"{where}: there is no key '{key}'", did_you_mean(key, known, f"There are {listed(known)}.")
            )


def _one_of(value: Any, known: tuple[str, ...], where: str) -> str:
    if value not in known:
        raise Mistake(f"{where}: {value!r} is none of {listed(known)}", f"Write {' or '.join(known)}.")
    return str(value)


def _texts(table: Mapping[str, Any], key: str, where: str) -> tuple[str, ...]:
    found = table.get(key, [])
    if not isinstance(found, list) or (key in table and not found):
        raise Mistake(f"{where}: {key} is not a list of texts", f"Write {key} = ['…', '…'].")
    if not all(isinstance(one, str | int) for one in found):
        raise Mistake(f"{where}: {key} is not a list of texts", f"Write {key} = ['…', '…'].")
    return tuple(str(one) for one in found)
