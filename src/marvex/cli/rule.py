"""`marvex rule`: try a rule on data before it colours anything."""

from __future__ import annotations

import argparse
from typing import Any

from marvex.cli import options
from marvex.request.place import RULE

EXAMPLE = """\
example:
  marvex rule policy.toml:spend ledger.csv --by account_name --where kind=cost --source-sign negative"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "rule",
        help="try a rule on data",
        description="Shows what each band takes, which points lie near a threshold, and which bands are never met.",
        example=EXAMPLE,
    )
    parser.add_argument("file", metavar="FILE", help="a TOML file of rules, FILE:NAME, or a ready rule")
    options.add_source(parser)
    options.add_settings(parser, RULE)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.rule import build_trial
    from marvex.cli.reading import reading
    from marvex.cli.speech import deliver

    with reading(parsed.loudness) as session:
        built, rules = build_trial(session, options.request_from(parsed, rule=parsed.file))
    status = deliver(built, parsed.loudness)
    if not built.outputs.paths:
        from marvex.tables.trial import print_trial

        print_trial(rules, built.shown.analysis, built.words.subtitle)
    return status
