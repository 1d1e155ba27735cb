"""Whose statement a request follows: the one of its file, or those that its tables were found to be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.statement import Statement
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.readers.source_file import SourceFile


def with_statements(files: Sequence[SourceFile], asked: Sequence[AskedOfSource]) -> tuple[AskedOfSource, ...]:
    """What is asked of each source, with the statement that was found in it where all have the same.

    Raises Mistake where only some are statements, and their lines cannot just be added up.
    """
    found = [one.found for one in files]
    if not any(found) or not asked[0].finds_statement:
        return tuple(replace(one, finds_statement=False) for one in asked)
    for file, one, each in zip(files, found, asked, strict=True):
        by = each.columns.by and each.columns.by != (one.column,) if one else False
        field = each.list_field or ("by" if by and not each.panels else "")
        if one and field:
            if one.is_signed:
                raise Mistake(
                    f"{file.name} is a statement with lines that are subtracted, and {setting(field)} is about a list",
                    f"Leave {setting(field)} out, or say {setting('statement', 'none')}.",
                )
            return tuple(replace(each, finds_statement=False) for each in asked)
    shapes = {_shape(one.statement) if one else None for one in found}
    if len(shapes) == 1:
        return tuple(asked)
    signed = [file.name for file, one in zip(files, found, strict=True) if one and one.is_signed]
    if signed:
        others = [one.name for one in files if one.name not in signed]
        raise Mistake(
            f"{listed(signed)} is a statement with lines that are subtracted, and {listed(others)} has not the same",
            f"Name the lines of both with {setting('statement', 'FILE')}; "
            f"{setting('statement', 'none')} takes them as plain lists.",
        )
    return tuple(replace(one, finds_statement=False) for one in asked)


def _shape(statement: Statement) -> frozenset[tuple[str, tuple[str, ...]]]:
    """The totals with their parts, by which two tables are the same statement."""
    return frozenset((line.label, tuple(sorted(line.total_of))) for line in statement.lines if line.is_total)
