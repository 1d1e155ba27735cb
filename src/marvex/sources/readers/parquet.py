"""What Parquet files hold: columns with types; and small ones as sheets, whose lines may be totals of others."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from marvex.core.errors import Mistake
from marvex.sources.quoting import quoted_name, quoted_path
from marvex.sources.readers.grid import Sheet
from marvex.sources.readers.source_file import SMALL

if TYPE_CHECKING:
    import duckdb

MOST_ROWS = 20_000  # of a sheet; a longer table is one of facts
_NO_CELL = re.compile(r"STRUCT|MAP|UNION|BLOB|.*\[")  # what is told as text


def sheet_of(path: Path, name: str, engine: duckdb.DuckDBPyConnection) -> Sheet | None:
    """The headings and rows of a file; None where there are more than a sheet has.

    Parameters
    ----------
    engine : what reads it.

    Raises Mistake where it cannot be read.
    """
    if path.stat().st_size > SMALL:
        return None
    import duckdb

    file = quoted_path(str(path))
    relation = f"read_parquet({file}, hive_partitioning = false)"
    try:
        count = engine.execute(f"SELECT num_rows FROM parquet_file_metadata({file})").fetchall()[0][0]
        if count > MOST_ROWS:
            return None
        described = [(heading, kind) for heading, kind, *_ in engine.execute(f"DESCRIBE FROM {relation}").fetchall()]
        own = ((quoted_name(heading), kind) for heading, kind in described)
        cells = (f"CAST({one} AS VARCHAR)" if _NO_CELL.match(kind) else one for one, kind in own)
        rows = engine.execute(f"SELECT {', '.join(cells)} FROM {as_meant(relation, described)}").fetchall()
    except duckdb.Error as problem:
        raise Mistake(
            f"{name} cannot be read: it is damaged, or no Parquet file", "Fetch it again, or mend its ending."
        ) from problem
    return Sheet(title=None, rows=[[heading for heading, _ in described], *rows], first=0)


def as_meant(relation: str, described: Sequence[tuple[str, str]]) -> str:
    """A relation whose times are of no zone, and whose short binary figures are those that they were written as.

    Parameters
    ----------
    described : its headings with their types.
    """
    # A day is one wherever the table is read; of seven digits the shortest text has just those.
    ways = {
        "TIMESTAMP WITH TIME ZONE": "make_timestamp(epoch_us({0}))",
        "FLOAT": "CAST(CAST({0} AS VARCHAR) AS DOUBLE)",
    }
    turned = [
        f"{ways[kind].format(own)} AS {own}"
        for name, kind in described
        if kind in ways
        for own in [quoted_name(name)]
    ]
    return f"(SELECT * REPLACE ({', '.join(turned)}) FROM {relation})" if turned else relation
