"""The pass-phrase of a bench that is reached from other machines: its hash beside the database for
its owner's eyes only, what it must be, and how wrong ones are slowed.
"""

import ipaddress
import math
import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from hashlib import sha256
from pathlib import Path

from werkzeug.security import check_password_hash, generate_password_hash

from tall_heron.store.db import write_private

FILE = "pass-phrase"
LEAST, MOST = (
    12,
    200,
)  # letters; NIST SP 800-63B asks at least 8, ASVS 5.0 2.1.1 twelve, from memory
AROUND = "0123456789!?.-_#*+$@"  # what is put before and behind a common one
UNLIKE = 5  # different letters at least
FREE = 5  # wrong ones from one address before the next is slowed
FIRST_PAUSE, LONGEST_PAUSE = 0.5, 8.0  # s
FORGOTTEN = 3600.0  # s after the last wrong one
WAITING = 2  # from one address at once; more are asked to come again
SLEEPERS = 6  # of all threads, so that the others serve
ADDRESSES = 1000  # that are remembered


def keep(folder: Path, phrase: str) -> None:
    """Keep the hash of a pass-phrase in a folder: whoever came in with another is outside. Raises
    ValueError for one that is soon guessed.
    """
    why = weakness(phrase)
    if why:
        raise ValueError(f"{why}; four or five words are easy to keep in mind")
    _write(folder, generate_password_hash(phrase))


def end_sessions(folder: Path) -> None:
    """Put everyone outside who came in with the pass-phrase there is."""
    hashed = kept(folder)
    if hashed:
        _write(folder, hashed)


def kept(folder: Path) -> str:
    """The hash that is kept in a folder; empty where there is none."""
    return _lines(folder)[0]


def weakness(phrase: str) -> str:
    """What makes a pass-phrase one that is soon guessed; empty where nothing is seen."""
    plain = "".join(phrase.casefold().split())
    if not LEAST <= len(phrase) <= MOST:
        return f"a pass-phrase has at least {LEAST} letters, and at most {MOST}"
    if len(set(plain)) < UNLIKE:
        return "that is the same few letters again and again"
    bare = plain.strip(AROUND)
    if any(word and word in row for row in _rows() for word in (plain, bare)):
        return "that is a row of the keyboard"
    if any(plain == word * (len(plain) // len(word)) for word in (plain[:n] for n in range(1, 7))):
        return "that is the same again and again"
    if plain in _common() or bare in _common():
        return "that is on every list of common ones"
    return ""


@cache
def _rows() -> tuple[str, ...]:
    ways = ("abcdefghijklmnopqrstuvwxyz", "01234567890", "12345678901234567890")
    keys = ("qwertyuiopasdfghjklzxcvbnm", "qwertzuiopasdfghjklyxcvbnm", "1q2w3e4r5t6y7u8i9o0p")
    return tuple(x for row in (*ways, *keys) for x in (row * 2, row[::-1] * 2))


@cache
def _common() -> frozenset[str]:
    text = (Path(__file__).parent / "common_phrases.txt").read_text(encoding="utf-8")
    return frozenset(x for x in text.splitlines() if x and not x.startswith("#"))


def _write(folder: Path, hashed: str) -> None:
    write_private(folder / FILE, f"{hashed}\n{secrets.token_hex(16)}\n")


def _lines(folder: Path) -> tuple[str, str]:
    """The hash, and what changes when everyone is put outside."""
    try:
        lines = (folder / FILE).read_text(encoding="ascii").splitlines()
    except FileNotFoundError:
        return "", ""
    return (lines or [""])[0].strip(), (lines[1].strip() if len(lines) > 1 else "")


class Kept:
    """The pass-phrase of a folder as it stands now: another one counts at once."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._read: tuple[tuple[int, int] | None, tuple[str, str]] = None, ("", "")

    def _now(self) -> tuple[str, str]:
        try:
            about = (self.folder / FILE).stat()
        except FileNotFoundError:
            return "", ""  # taken away while it runs: nobody comes in
        stamp = about.st_mtime_ns, about.st_ino
        if self._read[0] != stamp:
            self._read = stamp, _lines(self.folder)
        return self._read[1]

    def right(self, phrase: str) -> bool:
        """Whether it is this one."""
        hashed = self._now()[0]
        return bool(hashed) and len(phrase) <= MOST and check_password_hash(hashed, phrase)

    def token(self) -> str:
        """What a session holds of whoever is inside: nothing of the hash can be read from it."""
        return sha256(f"inside {' '.join(self._now())}".encode()).hexdigest()


@dataclass
class _Address:
    turn: threading.Lock = field(default_factory=threading.Lock)
    waiting: int = 0
    wrong: int = 0
    last: float = -math.inf


class Tries:
    """Pass-phrases one after another for each address. After FREE wrong ones from an address the
    next from there waits, twice as long each time; none is left unjudged, so a right one always
    opens, and nobody is shut out by others.
    """

    def __init__(
        self,
        clock: Callable[[], float] = time.monotonic,
        sleep: Callable[[float], None] = time.sleep,
    ) -> None:
        self.clock, self.sleep = clock, sleep
        self._of: OrderedDict[str, _Address] = OrderedDict()
        self._lock, self._sleepers = threading.Lock(), threading.Semaphore(SLEEPERS)

    def judged(self, address: str, right: Callable[[], bool]) -> bool | None:
        """Whether one is right; None where too many from there are waiting to be judged."""
        with self._lock:
            at = self._of.setdefault(_neighborhood(address), _Address())
            self._of.move_to_end(_neighborhood(address))
            while len(self._of) > ADDRESSES:
                self._of.popitem(last=False)
            if at.waiting >= WAITING:
                return None
            at.waiting += 1
        try:
            with at.turn:
                return self._in_turn(at, right)
        finally:
            with self._lock:
                at.waiting -= 1

    def _in_turn(self, at: _Address, right: Callable[[], bool]) -> bool | None:
        if self.clock() - at.last > FORGOTTEN:
            at.wrong = 0
        rest = at.last + pause_after(at.wrong) - self.clock()
        if rest > 0:
            if not self._sleepers.acquire(blocking=False):
                return None
            try:
                self.sleep(rest)
            finally:
                self._sleepers.release()
        good = right()
        at.wrong, at.last = (0, -math.inf) if good else (at.wrong + 1, self.clock())
        return good


def pause_after(wrong: int) -> float:
    """How long after so many wrong ones the next is judged [s].

    >>> [pause_after(n) for n in (0, 4, 5, 6, 7, 50)]
    [0.0, 0.0, 0.5, 1.0, 2.0, 8.0]
    """
    return min(FIRST_PAUSE * 2 ** min(wrong - FREE, 10), LONGEST_PAUSE) if wrong >= FREE else 0.0


def _neighborhood(address: str) -> str:
    """An address, or of IPv6 the network that one household has whole."""
    try:
        ip = ipaddress.ip_address(address)
    except ValueError:
        return address
    return str(ipaddress.ip_network(f"{ip}/64", strict=False)) if ip.version == 6 else str(ip)
