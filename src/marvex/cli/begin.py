"""`marvex begin`: write a starter file to change and to keep."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from marvex.cli import options
from marvex.core.errors import Mistake, did_you_mean
from marvex.request.option import READING
from marvex.request.place import Place
from marvex.request.settings import OPTIONS
from marvex.request.wording import flag

EXAMPLE = """\
example:
  marvex begin ledger.csv -o pack.toml
  marvex begin actual=ledger.csv budget=plan.xlsx -o pack.toml
  marvex begin accounts.csv --write statement -o our-statement.toml
  marvex begin --write style:teal -o our-style.toml"""
KINDS = ("pack", "statement", "style")
# What a starter pack may be told of its source, and of what is compared.
OF_SIDES = ("of", "versus", "better", "year_starts", "year_named", "weeks", "year_ends")
PLACE = Place(
    name="begin",
    kinds=frozenset(),
    takes=frozenset(name for name, about in OPTIONS.items() if about.group == READING or name in OF_SIDES),
)


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "begin",
        help="write a starter pack, statement or style",
        description="Writes a pack that builds at once from a table, the statement that is found in one, a first one "
        "from a list of accounts, or one of the styles, to be changed and kept.",
        example=EXAMPLE,
    )
    parser.add_argument(
        "accounts",
        metavar="SOURCE",
        nargs="*",
        help="a table, or several as SCENARIO=FILE; for a statement one with totals, or a list of accounts",
    )
    parser.add_argument(
        "--write",
        metavar="pack|statement|style[:NAME]",
        default="pack",
        help="what to write a start of; default: pack",
    )
    parser.add_argument("-o", "--output", metavar="FILE", type=Path, help="the file to write; default: pack.toml")
    options.add_overwrite(parser)
    options.add_loudness(parser)
    options.add_settings(parser, PLACE, as_text=True)
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    from marvex.app.outputs import Outputs, check_outputs
    from marvex.cli.speech import say

    if parsed.output is None:
        if parsed.write != "pack":
            raise Mistake("nothing says where to write", f"Add -o {parsed.write.partition(':')[0]}.toml.")
        parsed.output = Path("pack.toml")
    check_outputs((parsed.output,), (".toml",), "output")
    outputs = Outputs()
    text, decided = _starter(parsed)
    outputs.add(parsed.output, text)
    if not parsed.overwrite:
        outputs.check_kept()
    outputs.write()
    if parsed.loudness >= 0:
        for one in decided:
            say(f"caution: {one}")
        say(f"wrote {parsed.output}")
        if parsed.write == "pack":
            say(f"build it with marvex pack {parsed.output}")
    return 0


def _starter(parsed: argparse.Namespace) -> tuple[str, tuple[str, ...]]:
    """What the file is to hold, and what was decided in it; raises Mistake where the call does not say one thing."""
    what, _, name = parsed.write.partition(":")
    if what not in KINDS or (name and what != "style"):
        hint = did_you_mean(what, KINDS, f"There are {', '.join(KINDS)}.")
        raise Mistake(f"--write: there is no '{parsed.write}'", hint)
    asked = {field: value for field, value in options.said_in(parsed).items() if field in PLACE.takes}
    if what == "pack":
        from marvex.cli.reading import reading
        from marvex.pack.begin import starter_pack

        if not parsed.accounts:
            raise Mistake("a pack begins from a table", "Name it: marvex begin ledger.csv.")
        with reading(parsed.loudness) as session:
            begun = starter_pack(session, parsed.accounts, parsed.output.absolute().parent, asked)
        return begun.text, begun.decided
    accounts = asked.pop("account", []) if what == "statement" else []
    if len(accounts) > 1:
        raise Mistake("--account is given twice", "Give it once.")
    if asked:
        raise Mistake(f"{flag(next(iter(asked)))} is not for a {what}", "Leave it out.")
    if what == "statement":
        from marvex.app.begin import starter_statement
        from marvex.cli.reading import reading

        if len(parsed.accounts) != 1:
            raise Mistake(
                "a statement begins from one list of accounts",
                "Name it: marvex begin accounts.csv --write statement.",
            )
        with reading(parsed.loudness) as session:
            return starter_statement(session, *parsed.accounts, *accounts), ()
    if parsed.accounts:
        raise Mistake("a style takes no source", "Leave it out.")
    from marvex.views.drawing.style import style_names, style_text

    names = style_names()
    if name and name not in names:
        hint = did_you_mean(name, names, f"There are {', '.join(names)}.")
        raise Mistake(f"--write style: there is no '{name}'", hint)
    return style_text(name or names[0]), ()
