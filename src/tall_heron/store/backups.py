"""Backups by schedule: archives in a folder, named by when they were made, of which the newest are
kept.
"""

import re
import shutil
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from tall_heron.store import archive, db

_NAME = re.compile(r"tall-heron-(\d{8}T\d{6})Z\.zip")
_TIME = "%Y%m%dT%H%M%S"
MAKING = ".tall-heron-making-"


def made(folder: Path) -> list[tuple[datetime, Path]]:
    """The backups of a folder, the oldest first, with when they were made."""
    return sorted(
        (datetime.strptime(hit[1], _TIME).replace(tzinfo=UTC), file)
        for file in folder.glob("tall-heron-*.zip")
        if (hit := _NAME.fullmatch(file.name))
    )


def due_in(folder: Path, every: timedelta, moment: datetime) -> timedelta:
    """How long until the next is due: at once where there is none, or where the newest is of a time
    to come, for a clock that was set back says nothing of its age.
    """
    newest = max((at for at, _ in made(folder)), default=None)
    if newest is None or newest > moment:
        return timedelta(0)
    return max(newest + every - moment, timedelta(0))


def make(database: Path, folder: Path, keep: int, moment: datetime) -> Path:
    """Make one and let the oldest go, so that `keep` stay; none goes before the new one is whole.
    Raises db.Unusable, FileNotFoundError, OSError.
    """
    folder.mkdir(parents=True, exist_ok=True)
    target = folder / f"tall-heron-{moment.astimezone(UTC).strftime(_TIME)}Z.zip"
    for left in folder.glob(f"{MAKING}*"):  # by one that was killed while it made one
        shutil.rmtree(left, ignore_errors=True)
    with tempfile.TemporaryDirectory(prefix=MAKING, dir=folder) as room:
        archive.pack(database, Path(room) / target.name, Path(room))
        db.put_in_place(Path(room) / target.name, target)
    others = [file for _, file in made(folder) if file != target]
    for old in others[: max(len(others) + 1 - keep, 0)]:
        old.unlink()
    return target
