"""The one family of exceptions: what is wrong, where, and how to mend it."""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches


class MarvexError(Exception):
    """The call, the input or the data are wrong; raised anywhere, caught once, in the command.

    Parameters
    ----------
    what : the mistake, as a sentence.
    mend : what the analyst can do about it, as a sentence; empty where `what` says it.
    place : further lines that show the place, such as a rule with a caret under it.
    """

    def __init__(self, what: str, mend: str = "", place: tuple[str, ...] = ()) -> None:
        super().__init__(what)
        self.what = what
        self.mend = mend
        self.place = place


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
