"""Whose statement a request follows: the one of its file, or those that its tables were found to be."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.merged import merged, relabelled
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.readers.source_file import SourceFile
from marvex.sources.where import filter_text


def with_statements(
    files: Sequence[SourceFile], asked: Sequence[AskedOfSource], names: Sequence[Mapping[str, str]]
) -> tuple[AskedOfSource, ...]:
    """What is asked of each source, with one statement of those that were found in them.

    Parameters
    ----------
    names : of each source, the names to show for those of its lines.

    Raises Mistake where only some are statements, or they do not go together, and their lines cannot just be added up.
    """
    found = [one.found for one in files]
    as_lists = tuple(replace(one, finds_statement=False) for one in asked)
    if not any(found) or not asked[0].finds_statement:
        return as_lists
    for file, one, each in zip(files, found, asked, strict=True):
        by = each.columns.by and each.columns.by != (one.column,) if one else False
        field = each.list_field or ("by" if by and not each.panels else "")
        if one and field:
            if one.is_signed or one.has_lines_beside:
                how = "are subtracted" if one.is_signed else "its result does not contain"
                way = f"Leave {setting(field)} out, or say {setting('statement', 'none')}."
                if by and one.column is not None and (result := one.statement.result) is not None:
                    alone = setting("where", filter_text(one.column, "=", [result.label]))
                    way = f"{alone} compares {result.label} alone; or leave {setting(field)} out."
                raise Mistake(
                    f"{file.name} is a statement with lines that {how}, and {setting(field)} is about a list", way
                )
            return as_lists
    if len(files) == 1 and not names[0]:
        return tuple(asked)
    signed = [file.name for file, one in zip(files, found, strict=True) if one and one.is_signed]
    others = [file.name for file, one in zip(files, found, strict=True) if one is None]
    if not others:
        shown = [
            (file.name, relabelled(one.statement, its, file.name))
            for one, its, file in zip(found, names, files, strict=True)
            if one
        ]
        try:
            whole = merged(shown)
        except Mistake:
            if signed:
                raise
            return as_lists
        return tuple(replace(one, merged=its) for one, its in zip(asked, whole, strict=True))
    if signed:
        raise Mistake(
            f"{listed(signed)} is a statement with lines that are subtracted, and {listed(others)} has no totals",
            f"Name the lines of both with {setting('statement', 'FILE')}, which marvex begin {signed[0]} "
            f"{setting('write', 'statement')} writes; {setting('statement', 'none')} takes them as plain lists.",
        )
    return as_lists
