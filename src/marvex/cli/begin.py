"""`marvex begin`: write a starter file to change and to keep."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from marvex.cli import options
from marvex.core.errors import MarvexError, did_you_mean

EXAMPLE = """\
example:
  marvex begin --style teal -o our-style.toml"""


def add_to(commands: Any) -> None:
    parser = options.add_command(
        commands,
        "begin",
        help="write a starter style",
        description="Writes one of the styles as a file, to be changed and given to --style.",
        example=EXAMPLE,
    )
    parser.add_argument("--style", metavar="NAME", required=True, help="the style to start from")
    parser.add_argument("-o", "--output", metavar="FILE", required=True, type=Path, help="the file to write (.toml)")
    options.add_loudness(parser)
    parser.set_defaults(run=run, place="begin")


def run(parsed: argparse.Namespace) -> int:
    from marvex.cli.speech import say
    from marvex.pack.outputs import Outputs, check_outputs
    from marvex.views.style import style_names, style_text

    names = style_names()
    if parsed.style not in names:
        hint = did_you_mean(parsed.style, names, f"There are {', '.join(names)}.")
        raise MarvexError(f"--style: there is no '{parsed.style}'", hint)
    check_outputs((parsed.output,), (".toml",), "--output")
    outputs = Outputs()
    outputs.add(parsed.output, style_text(parsed.style))
    outputs.write()
    if parsed.loudness >= 0:
        say(f"wrote {parsed.output}")
    return 0
