"""Backups made by schedule while the application runs; how the last one went is said on its pages."""

import logging
import threading
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path

from flask import current_app

from tall_heron.store import backups

AFTER_A_FAULT = timedelta(minutes=10)  # the next try, where that is sooner
_log = logging.getLogger(__name__)


@dataclass
class Schedule:
    """Backups of a database into a folder, so often, so many kept."""

    database: Path
    folder: Path
    every: timedelta
    keep: int
    fault: str = ""
    _end: threading.Event = field(default_factory=threading.Event, repr=False)

    def words(self) -> str:
        """What is done, and when it was done last."""
        made = backups.made(self.folder)
        last = f"the last {made[-1][0]:%Y-%m-%d %H:%M} UTC" if made else "none yet"
        return f"Every {hours(self.every)} into {self.folder}; the newest {self.keep} are kept; {last}."

    def once(self, moment: datetime) -> timedelta:
        """Make one, and how long until the next; a fault is said, and tried again sooner."""
        try:
            backups.make(self.database, self.folder, self.keep, moment)
        except Exception as error:  # whatever it is, it is said, and the next one is tried
            self.fault = f"The last backup was not made. {error}"
            _log.error("%s", self.fault)
            return min(self.every, AFTER_A_FAULT)
        self.fault = ""
        return self.every

    def go_on(self) -> None:
        """Make each when it is due, until `end`."""
        wait = backups.due_in(self.folder, self.every, datetime.now(UTC))
        while not self._end.wait(wait.total_seconds()):
            wait = self.once(datetime.now(UTC))

    def start(self) -> None:
        """Go on beside the pages."""
        threading.Thread(target=self.go_on, name="backups", daemon=True).start()

    def end(self) -> None:
        """No more after the one that is being made."""
        self._end.set()


def hours(of: timedelta) -> str:
    """A period in hours, or in minutes where it has none."""
    minutes = of.total_seconds() / 60
    return f"{minutes / 60:g} h" if minutes >= 60 else f"{minutes:g} min"


def schedule() -> Schedule | None:
    """That of this application; None where there is none."""
    found: Schedule | None = current_app.extensions.get("backups")
    return found
