"""Work that is given up where it takes too long, or when Ctrl-C is pressed, though it cannot be interrupted itself."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TypeVar

from marvex.core.errors import Mistake

LEAST_SECONDS = 10.0
BYTES_PER_SECOND = 2_000_000  # a parser that is at work reads ten times as many

Result = TypeVar("Result")


def in_time(work: Callable[[], Result], size: int, name: str) -> Result:
    """What the work gives; it is left to itself, and ends with the process, where it is not done in time.

    Parameters
    ----------
    size : how many bytes, unpacked, it has to read.
    name : of the file, for a message.

    Raises Mistake where it is not done in time, and what the work raises.
    """
    results: list[Result] = []
    problems: list[BaseException] = []

    def run() -> None:
        try:
            results.append(work())
        except BaseException as problem:  # its parser's own way to give up is no Exception
            problems.append(problem)

    # A thread, so that this one can be told to stop: the parser lets others run while it reads.
    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    seconds = LEAST_SECONDS + size / BYTES_PER_SECOND
    thread.join(seconds)
    if thread.is_alive():
        raise Mistake(f"{name} was not read within {seconds:.0f} seconds: it is damaged", "Save it again, or as CSV.")
    if problems:
        raise problems[0]
    return results[0]
