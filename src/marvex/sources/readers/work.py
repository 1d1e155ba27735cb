"""Work that needs no Python, done while Python goes on: on a thread of its own. It loads no module."""

from __future__ import annotations

from collections.abc import Callable
from threading import Thread
from typing import Generic, TypeVar

T = TypeVar("T")


class Work(Thread, Generic[T]):
    """One piece of work on a thread of its own."""

    def __init__(self, work: Callable[[], T]) -> None:
        super().__init__(daemon=True)
        self._work = work
        self._found: T | BaseException
        self.start()

    def run(self) -> None:
        try:
            self._found = self._work()
        except BaseException as problem:  # raised where it can be told
            self._found = problem

    def result(self) -> T:
        """What the work came to, once it is done; raises what went wrong."""
        self.join()
        if isinstance(self._found, BaseException):
            raise self._found
        return self._found
