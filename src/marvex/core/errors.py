"""The one family of exceptions: what is wrong, where, and how to mend it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from difflib import get_close_matches

_OPENS, _CLOSES = "\ue000", "\ue001"  # of a setting within a text: private characters, which no source has
_SETTING = re.compile(f"{_OPENS}(\\w+)(?:=([^{_CLOSES}]*))?{_CLOSES}")


class Mistake(Exception):  # noqa: N818  # it is the caller's, not an error of the program
    """The call, the input or the data are wrong; raised anywhere, caught once, in the command.

    Parameters
    ----------
    what : the mistake, as a sentence; settings are named in it by `setting`, for nobody here knows how they were said.
    mend : what the analyst can do about it, as a sentence; empty where `what` says it.
    field : the setting that is wrong; by itself the first that `what` names.
    place : further lines that show the place, such as a rule with a caret under it.
    """

    def __init__(self, what: str, mend: str = "", *, field: str | None = None, place: tuple[str, ...] = ()) -> None:
        super().__init__(what)
        named = _SETTING.search(what)
        self.what = what
        self.mend = mend
        self.field = field or (named[1] if named else None)
        self.place = place


def setting(field: str, value: object = None) -> str:
    """A setting as a part of a message: what it is called there, `worded` says, for a command or for a pack.

    >>> worded(f"Name another with {setting('versus', 'year-ago')}.", lambda field, value: f"{field} = {value}")
    'Name another with versus = year-ago.'
    """
    return f"{_OPENS}{field}{'' if value is None else f'={value}'}{_CLOSES}"


def sentence(problem: str) -> str:
    """What is wrong as a sentence.

    >>> sentence("write it as 1GB")
    'Write it as 1GB.'
    """
    return f"{problem[:1].upper()}{problem[1:]}."


def worded(text: str, word: Callable[[str, str | None], str]) -> str:
    """A message with each of its settings as `word` says it, from the field and the value that stands with it."""
    return _SETTING.sub(lambda found: word(found[1], found[2]), text)


def offered(mistake: Mistake) -> dict[str, str]:
    """The settings, each with a value, that a mistake offers as a way on, the first of each.

    >>> offered(Mistake("two dates", f"Say which, such as {setting('date', 'posted')}."))
    {'date': 'posted'}
    """
    found: dict[str, str] = {}
    for field, value in _SETTING.findall(mistake.mend):
        if value:
            found.setdefault(field, value)
    return found


def without(text: str, field: str, value: str) -> str:
    """A text of several ways on, without the one that a setting is.

    >>> without(f"Keep one; {setting('total_as', 'sum')} adds up all the same.", "total_as", "sum")
    'Keep one.'
    """
    return re.sub(rf"(?:; | )?{re.escape(setting(field, value))}[^.;]*", "", text)


def nearest(word: str, known: Iterable[str]) -> str | None:
    """The known word that is most like `word`, whatever its case, or None.

    >>> nearest("Fule", ["Crew", "Fuel"])
    'Fuel'
    """
    by_folded = {one.casefold(): one for one in known}
    found = get_close_matches(word.casefold(), by_folded, n=1, cutoff=0.6)
    return by_folded[found[0]] if found else None


def did_you_mean(word: str, known: Iterable[str], otherwise: str = "") -> str:
    """'Did you mean Fuel?', or `otherwise` where nothing known is like the word."""
    found = nearest(word, known)
    return f"Did you mean {found}?" if found else otherwise


def listed(words: Iterable[str], most: int = 8) -> str:
    """The words with commas, cut after `most` with the number left out.

    >>> listed(["a", "b", "c"], most=2)
    'a, b and 1 more'
    """
    all_words = list(words)
    shown = ", ".join(all_words[:most])
    return f"{shown} and {len(all_words) - most} more" if len(all_words) > most else shown
