"""The model of settings as options of the command line, and back."""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import groupby
from typing import TYPE_CHECKING, Any, NoReturn

from marvex.core.errors import Mistake, did_you_mean, sentence
from marvex.core.words.trade_words import SETTINGS, VIEWS
from marvex.request.option import Option
from marvex.request.place import Place
from marvex.request.settings import FIELDS, OPTIONS, Settings
from marvex.request.wording import flag, shell_word

if TYPE_CHECKING:
    from marvex.request.request import Request

_SHORT = {"output": "-o"}
_UNSAID = object()


class Help(argparse.RawDescriptionHelpFormatter):
    """Usage in one line, and options beside what they mean."""

    def __init__(self, prog: str) -> None:
        super().__init__(prog, max_help_position=30, width=118)
        self._action_max_length = 14  # at least: the names of commands and views are set in one column

    def _format_usage(self, usage: Any, actions: Any, groups: Any, prefix: Any) -> str:  # noqa: ARG002
        if prefix == "":  # asked for as the beginning of a subcommand's own usage
            return f"{self._prog}\n"
        words = [str(one.metavar or one.dest) for one in actions if not one.option_strings]
        several = {str(one.metavar or one.dest) for one in actions if one.nargs == "+"}
        said = " ".join(f"{word}…" if word in several else word for word in words)
        return f"usage: {self._prog} {said} [options]\n\n".replace("  ", " ")


class Parser(argparse.ArgumentParser):
    """A parser whose mistakes are Marvex's: one message, with the nearest word.

    What a command or a view takes is added when it is called: all of all together are several hundred
    options, and making them takes longer than most tables.
    """

    later: Callable[[Parser, Sequence[str]], None] | None = None  # adds what is still to be added, for some words
    place: Place | None = None

    def parse_known_args(self, args=None, namespace=None):  # type: ignore[no-untyped-def]
        self.complete(args or ())
        return super().parse_known_args(args, namespace)

    def complete(self, words: Sequence[str] = ()) -> None:
        """Adds what is still to be added."""
        later, self.later = self.later, None
        if later is not None:
            later(self, words)

    def _print_message(self, message: str, file: Any = None) -> None:
        (file or sys.stderr).write(message)  # what cannot be printed is not passed over

    def error(self, message: str) -> NoReturn:
        raise Mistake(message, f"See {self.prog} --help.")

    def _check_value(self, action: argparse.Action, value: Any) -> None:
        if action.choices is None or value in action.choices:
            return
        known = [str(choice) for choice in action.choices]
        name = action.option_strings[-1] if action.option_strings else str(action.metavar or action.dest)
        if name == "VIEW" and str(value).casefold() in VIEWS:
            ours = VIEWS[str(value).casefold()]
            raise Mistake(f"a {value} is called {ours} here", f"Write {self.prog} {ours}.")
        what = f"{name}: there is no '{value}'"
        raise Mistake(what, did_you_mean(str(value), known, f"There are {', '.join(known)}."))


def parse(parser: argparse.ArgumentParser, arguments: Sequence[str]) -> argparse.Namespace:
    """The command line as values; raises Mistake where an option is unknown, or given twice."""
    parsed, unknown = parser.parse_known_args(_with_values(arguments))
    if unknown:
        _refuse(unknown, parsed, arguments)
    return parsed


def _with_values(arguments: Sequence[str]) -> list[str]:
    """The words with a value that begins with a minus, such as -2000/14000, tied to its option."""
    found: list[str] = []
    for word in arguments:
        if found and re.match(r"-[\d.]", word) and re.fullmatch(r"--[a-z-]+", found[-1]):
            found[-1] += f"={word}"
        else:
            found.append(word)
    return found


def _refuse(unknown: Sequence[str], parsed: argparse.Namespace, arguments: Sequence[str]) -> NoReturn:
    word = unknown[0].partition("=")[0]
    place: Place | None = getattr(parsed, "place", None)
    called = f"marvex {place.name if place else parsed.command}"
    if not word.startswith("-"):
        raise Mistake(f"'{word}' is one word too many", f"See {called} --help.")
    usable = [flag(name) for name, about in OPTIONS.items() if place and place.can_use(name, about.places)]
    ours = SETTINGS.get(word.lstrip("-").replace("-", "_").casefold())
    if ours is not None and flag(ours) in usable:
        corrected = [f"{flag(ours)}{one[len(word) :]}" if one.split("=")[0] == word else one for one in arguments]
        call = " ".join(shell_word(one) for one in corrected)
        raise Mistake(f"{word} is called {flag(ours)} here", f"Write marvex {call}")
    if any(word == flag(name) for name in OPTIONS):
        raise Mistake(f"{called} cannot use {word}", f"See {called} --help for what it can.")
    raise Mistake(f"{called} has no option {word}", did_you_mean(word, usable, f"See {called} --help."))


def add_command(commands: Any, name: str, *, help: str, description: str, example: str) -> Parser:
    """A command (or a view) with its help, its description and a worked example."""
    parser: Parser = commands.add_parser(
        name, help=help, description=description, epilog=example, formatter_class=Help, allow_abbrev=False
    )
    return parser


def add_source(parser: argparse.ArgumentParser) -> None:
    """The SOURCE that a command reads, and how loud it is."""
    parser.add_argument(
        "source",
        metavar="SOURCE",
        nargs="+",
        help="a .csv, .tsv, .txt, .parquet, .xlsx, .ods, .json or .jsonl file, plain or gzipped, or - for CSV; "
        "several as SCENARIO=FILE, or as one, 'glob:PATTERN' or hive:FOLDER; a database, postgresql+psycopg://… or "
        "sqlite:///…, or a cluster, sc://…",
    )
    add_loudness(parser)


def add_settings(parser: Parser, place: Place, *, as_text: bool = False) -> None:
    """Gives a command or a view every option that it can use, once it is called.

    Parameters
    ----------
    as_text : values are checked, and kept as they are written.
    """
    parser.set_defaults(place=place)
    parser.later = lambda called, _: _add_options(called, place, as_text=as_text)


def complete_all(parser: Parser) -> None:
    """Adds the options of all commands and views, for what must know them all."""
    parser.complete()
    for action in parser._actions:
        for choice in action.choices.values() if isinstance(action.choices, dict) else ():
            complete_all(choice)


def _add_options(parser: Parser, place: Place, *, as_text: bool) -> None:
    usable = [(name, about) for name, about in OPTIONS.items() if place.can_use(name, about.places)]
    for group, members in groupby(usable, key=lambda pair: pair[1].group):
        box = parser.add_argument_group(group)
        for name, about in members:
            _add(box, name, about, place, as_text=as_text)


def said_in(parsed: argparse.Namespace) -> dict[str, Any]:
    """The values of the options that a command line names."""
    return {
        name: value
        for name in OPTIONS
        if (value := getattr(parsed, name, _UNSAID)) is not _UNSAID and value is not None
    }


def settings_of(parsed: argparse.Namespace) -> Settings:
    """The settings that a parsed command line asks for."""
    said = said_in(parsed)
    for name, value in said.items():
        if OPTIONS[name].repeats:
            said[name] = tuple(value)
    return Settings(**said)


def request_from(parsed: argparse.Namespace, **more: Any) -> Request:
    """What a parsed command line asks for, read and checked."""
    from marvex.request.request import request_of

    return request_of(parsed.source, replace(settings_of(parsed), **more), parsed.place)


def add_overwrite(parser: argparse.ArgumentParser) -> None:
    """`--overwrite`: files that differ may be replaced."""
    parser.add_argument("--overwrite", action="store_true", help="files that are there and differ may be replaced")


def add_loudness(parser: argparse.ArgumentParser, default: Any = argparse.SUPPRESS) -> None:
    """`-q` and `-v`, before the command or after it."""
    parser.add_argument(
        "-q",
        "--quiet",
        dest="loudness",
        action="store_const",
        const=-1,
        default=default,
        help="say nothing but mistakes and results",
    )
    parser.add_argument(
        "-v",
        "--verbose",
        dest="loudness",
        action="store_const",
        const=1,
        default=argparse.SUPPRESS,
        help="say more of what was done",
    )


def _add(box: Any, name: str, about: Option, place: Place, *, as_text: bool) -> None:
    words = [_SHORT[name], flag(name)] if name in _SHORT else [flag(name)]
    common = {"dest": name, "help": _help(name, about).replace("%", "%%")}
    if FIELDS[name].default is False:
        box.add_argument(*words, action="store_true", default=None, **common)
        return
    # Only what sets several comparisons side by side takes several windows and bases.
    once = not about.repeats or (name in ("for_", "versus") and not place.several)
    if about.choices:
        box.add_argument(
            *words, action=_Once, choices=about.choices, type=about.read, metavar="|".join(about.choices), **common
        )
        return
    action = _OnceOfMany if once and about.repeats else _Once if once else "append"
    box.add_argument(
        *words, action=action, type=_reader(name, about, as_text=as_text), metavar=about.metavar, **common
    )


def _help(name: str, about: Option) -> str:
    """What an option does, with its default where that is a word and not said yet."""
    default = FIELDS[name].default
    is_said = "default" in about.help or not isinstance(default, str)
    return about.help if is_said else f"{about.help}; default: {default}"


def _reader(name: str, about: Option, *, as_text: bool) -> Any:
    def read(text: str) -> Any:
        try:
            value = about.read(text)
            return text if as_text else value
        except ValueError as problem:
            raise Mistake(f"{flag(name)} '{text}' cannot be read", sentence(str(problem))) from None

    return read


class _Once(argparse.Action):
    """An option that may be given once: a second one is a mistake, not a correction."""

    def __call__(self, parser, namespace, values, option_string=None) -> None:  # type: ignore[no-untyped-def]  # noqa: ARG002
        if getattr(namespace, self.dest, None) is not None:
            raise Mistake(f"{option_string} is given twice", "Give it once.")
        setattr(namespace, self.dest, self.kept(values))

    def kept(self, values: Any) -> Any:
        return values


class _OnceOfMany(_Once):
    """An option that repeats elsewhere but may be given once here."""

    def kept(self, values: Any) -> Any:
        return [values]
