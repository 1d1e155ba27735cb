"""`marvex commentary`: the variances as sentences, the largest first."""

from __future__ import annotations

import argparse
from typing import Any

from marvex.cli import options
from marvex.request.place import COMMENTARY

EXAMPLE = """\
example:
  marvex commentary ledger.csv --by account_name --then-by route --where kind=cost \\
      --source-sign negative --better down"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "commentary",
        help="the variances as sentences, the largest first",
        description="Says what moved, how much, against what, what it is made of and what offsets what.",
        example=EXAMPLE,
    )
    options.add_source(parser)
    options.add_settings(parser, COMMENTARY)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.commentary import build_commentary
    from marvex.cli.reading import reading
    from marvex.cli.speech import deliver

    with reading(parsed.loudness) as session:
        built, text = build_commentary(session, options.request_from(parsed))
    status = deliver(built, parsed.loudness)
    if not built.outputs.paths:
        print(text, end="")
    return status
