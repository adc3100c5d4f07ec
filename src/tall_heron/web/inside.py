"""Who is inside: a line for each who gave the pass-phrase, by a number that its cookie holds; beside
the database, for its owner's eyes only. Whose line is gone is outside.
"""

import json
import logging
import secrets
import threading
from pathlib import Path

from tall_heron.store.db import write_private

FILE = "inside.json"
_log = logging.getLogger(__name__)
MOST = 1000  # that are inside at once; the oldest goes
Line = tuple[int, str, str]  # when it came in, from where, and by which pass-phrase


class Sessions:
    """Those who are inside of a folder's bench; a session lasts so many `seconds`."""

    def __init__(self, folder: Path, seconds: int) -> None:
        self.file, self.seconds = folder / FILE, seconds
        self._lock = threading.Lock()
        try:
            listed = json.loads(self.file.read_text(encoding="ascii"))
        except (FileNotFoundError, ValueError):  # none has come in, or a full disk cut it short
            listed = []
        self._of: dict[str, Line] = {
            str(number): (int(since), str(address), str(token))
            for number, since, address, token in listed
        }

    def __contains__(self, number: object) -> bool:
        return number in self._of

    def let_in(self, now: int, address: str, token: str) -> str:
        """One more, by what a pass-phrase is known by; the number of its line."""
        number = secrets.token_hex(8)
        with self._lock:
            fresh = [(n, x) for n, x in self._of.items() if 0 <= now - x[0] < self.seconds]
            self._keep(dict([*fresh[-(MOST - 1) :], (number, (now, address, token))]))
        return number

    def put_out(self, *numbers: str) -> None:
        """Some are outside from now on; all, where none is named."""
        with self._lock:
            self._keep({n: x for n, x in self._of.items() if n not in numbers} if numbers else {})

    def listed(self, now: int, token: str) -> list[tuple[str, int, str]]:
        """Number, when it came in [s since 1970] and address of each who came in with the pass-phrase
        of a token, the newest first.
        """
        return sorted(
            (
                (n, since, address)
                for n, (since, address, by) in self._of.items()
                if 0 <= now - since < self.seconds and by == token
            ),
            key=lambda x: -x[1],
        )

    def _keep(self, of: dict[str, Line]) -> None:
        self._of = of
        try:
            write_private(self.file, json.dumps([[n, *x] for n, x in of.items()]))
        except OSError:  # on a full disk its owner must come in to make room
            _log.exception("who is inside is known until the next start only")
