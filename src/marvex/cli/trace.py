"""`marvex trace`: what stands behind one figure."""

from __future__ import annotations

import argparse
from typing import Any

from marvex.cli import options
from marvex.request.place import TRACE

EXAMPLE = """\
example:
  marvex trace ledger.csv --by account_name --where kind=cost --source-sign negative --better down --at Fuel"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "trace",
        help="what stands behind one figure",
        description="Shows both sides of one point, how its change comes about, its band, and its largest rows.",
        example=EXAMPLE,
    )
    options.add_source(parser)
    options.add_settings(parser, TRACE)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.trace import build_trace
    from marvex.cli.reading import reading
    from marvex.cli.speech import deliver
    from marvex.tables.trace import print_trace

    with reading(parsed.loudness) as session:
        built, trace = build_trace(session, options.request_from(parsed))
    status = deliver(built, parsed.loudness)
    if not built.outputs.paths:
        print_trace(trace, built.shown.analysis)
    return status
