"""`marvex begin`: write a starter file to change and to keep."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from marvex.cli import options
from marvex.core.errors import Mistake, did_you_mean

EXAMPLE = """\
example:
  marvex begin --style teal -o our-style.toml
  marvex begin accounts.csv --statement -o our-statement.toml"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "begin",
        help="write a starter style or statement",
        description="Writes one of the styles, or a first statement from a list of accounts, to be changed and kept.",
        example=EXAMPLE,
    )
    parser.add_argument(
        "accounts", metavar="SOURCE", nargs="?", help="with --statement: a list of accounts, or a ledger"
    )
    parser.add_argument("--style", metavar="NAME", help="the style to start from")
    parser.add_argument("--statement", action="store_true", help="write a statement from the accounts of SOURCE")
    parser.add_argument("--account", metavar="COL", help="the column of accounts")
    parser.add_argument("-o", "--output", metavar="FILE", required=True, type=Path, help="the file to write (.toml)")
    options.add_loudness(parser)
    parser.set_defaults(run=run, place="begin")


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.outputs import Outputs, check_outputs
    from marvex.cli.speech import say

    check_outputs((parsed.output,), (".toml",), "--output")
    outputs = Outputs()
    outputs.add(parsed.output, _starter(parsed))
    outputs.write()
    if parsed.loudness >= 0:
        say(f"wrote {parsed.output}")
    return 0


def _starter(parsed: argparse.Namespace) -> str:
    """What the file is to hold; raises Mistake where the call does not say one thing."""
    if parsed.statement == (parsed.style is not None):
        raise Mistake("begin writes a style or a statement", "Say --style NAME, or SOURCE --statement.")
    if parsed.statement:
        from marvex.app.begin import starter_statement
        from marvex.app.session import Session

        if parsed.accounts is None:
            raise Mistake("--statement needs a list of accounts", "Name it: marvex begin accounts.csv --statement.")
        with Session() as session:
            return starter_statement(session, parsed.accounts, parsed.account)
    if parsed.accounts is not None or parsed.account is not None:
        raise Mistake("--style takes no source", "Leave it out.")
    from marvex.views.drawing.style import style_names, style_text

    names = style_names()
    if parsed.style not in names:
        hint = did_you_mean(parsed.style, names, f"There are {', '.join(names)}.")
        raise Mistake(f"--style: there is no '{parsed.style}'", hint)
    return style_text(parsed.style)
