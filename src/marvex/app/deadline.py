"""A time after which a call is given up."""

from __future__ import annotations

import signal
from types import FrameType
from typing import Any

from marvex.core.errors import Mistake, setting


class Deadline:
    """Interrupts what is going on once some seconds have passed, as Ctrl-C would."""

    def __init__(self) -> None:
        self.seconds: int | None = None
        self.is_past = False
        self._before: Any = None

    def begin(self, seconds: int) -> None:
        """Counts from now on; later calls change nothing."""
        if self.seconds is not None:
            return
        if not hasattr(signal, "setitimer"):
            raise Mistake(f"{setting('give_up_after')}: this system has no such clock", "Leave it out.")
        self.seconds = seconds
        self._before = signal.signal(signal.SIGALRM, self._end)
        signal.setitimer(signal.ITIMER_REAL, seconds)

    def close(self) -> None:
        """Counts no more."""
        if self.seconds is not None:
            signal.setitimer(signal.ITIMER_REAL, 0)
            signal.signal(signal.SIGALRM, self._before)

    def mistake(self) -> Mistake:
        """What is to be said of a call that was given up."""
        return Mistake(
            f"it is not done within {self.seconds} seconds ({setting('give_up_after', self.seconds)})",
            "Give it more time, or ask for less.",
        )

    def _end(self, number: int, frame: FrameType | None) -> None:  # noqa: ARG002
        self.is_past = True
        raise KeyboardInterrupt
