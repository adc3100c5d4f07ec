"""Work that takes seconds, in a thread of its own: how far it is, stopped on request, its result
kept for a while.
"""

import secrets
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from tall_heron.core.base.lru_cache import LruCache

MOST_RUNNING = 3
LEFT_S = (
    60.0  # work that nobody has looked at for so long is left behind; a page looks every second
)


@dataclass
class Job:
    """A piece of work: the share that is done and what is being done; whether it was stopped; its
    result, or what went wrong in words; when somebody looked at it last [s].
    """

    number: str
    share: float = 0.0
    words: str = "begins"
    stopped: bool = False
    result: Any = None
    wrong: str = ""
    over: bool = False
    looked: float = field(default_factory=time.monotonic)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def report(self, share: float, words: str) -> None:
        """How far it is; stopped where nobody has looked for a while."""
        self.stopped |= time.monotonic() - self.looked > LEFT_S
        self.share, self.words = share, words


JOBS = LruCache[Job](24)
_running = threading.Semaphore(MOST_RUNNING)


class Busy(Exception):
    """As many as may run are running."""


def start(work: Callable[[Job], Any], wrongs: tuple[type[Exception], ...]) -> Job:
    """Begin a piece of work. Raises Busy. What goes wrong in one of the ways named is told in its
    own words, all else as a fault of ours.
    """
    if not _running.acquire(blocking=False):
        raise Busy
    job = Job(secrets.token_hex(8))
    JOBS.put(job.number, job)

    def run() -> None:
        try:
            job.result = work(job)
        except wrongs as wrong:
            job.wrong = str(wrong)
        except Exception:
            job.wrong = "Something went wrong on our side. Nothing was changed."
            raise
        finally:
            job.over = True
            _running.release()

    threading.Thread(target=run, daemon=True).start()
    return job
