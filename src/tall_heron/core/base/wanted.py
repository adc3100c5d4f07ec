"""Whether an answer is still wanted while it is worked out: whoever asks may say that it is not,
and work that takes long looks now and then. It ends then, and answers nothing; an answer never
differs by when it was asked.
"""

from collections.abc import Callable
from contextvars import ContextVar


class NoLongerWanted(Exception):
    """An answer that nobody waits for, and why."""


_ask: ContextVar[Callable[[], str] | None] = ContextVar("still_wanted", default=None)


def ask(why_not: Callable[[], str] | None) -> None:
    """From now on, in this thread, work asks `why_not`, which says why its answer is no longer
    wanted, or nothing. None: nobody is asked.
    """
    _ask.set(why_not)


def still_wanted() -> None:
    """Raise NoLongerWanted where the answer is no longer wanted."""
    why_not = _ask.get()
    if why_not is not None and (words := why_not()):
        raise NoLongerWanted(words)
