"""`marvex table`: the variance table, in the terminal or as CSV, JSON or Markdown."""

from __future__ import annotations

import argparse
from typing import Any

from marvex.cli import options
from marvex.request.place import TABLE

EXAMPLE = """\
example:
  marvex table ledger.csv --by account_name --where kind=cost --source-sign negative --better down
  marvex table ledger.csv --by route --versus year-ago --versus budget -o routes.csv
  marvex table ledger.csv --where kind=income --every month --versus prior"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "table",
        help="the variance table",
        description="Sets the two sides of a table against each other, a row a category or a period.",
        example=EXAMPLE,
    )
    options.add_source(parser)
    options.add_settings(parser, TABLE)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.table import build_table
    from marvex.cli.reading import reading
    from marvex.cli.speech import deliver

    with reading(parsed.loudness) as session:
        built = build_table(session, options.request_from(parsed))
    status = deliver(built, parsed.loudness)
    if not built.outputs.paths:
        from marvex.tables.terminal import print_table

        words = built.words
        print_table(built.shown.analysis, words.title, words.subtitle, words.foot)
    return status
