"""A backup put in the place of what is there: looked at first, what is there kept beside it, then
changed in one step, also under an application that runs.
"""

import sqlite3
import tempfile
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from tall_heron.store import archive, db, logs


@dataclass(frozen=True)
class Restored:
    """What was restored: how many builds, how many files of logs and pictures are named and
    missing, and where what was there is kept; None where nothing was.
    """

    builds: int
    missing: int
    before: Path | None


def take_up(file: Path, database: Path) -> Restored:
    """Put a backup, an archive or a database with its files beside it, in the place of a database.
    With a fault nothing is changed. Raises db.Unusable, FileNotFoundError.
    """
    with tempfile.TemporaryDirectory() as room:
        source = archive.unpack(file, Path(room)) if archive.is_archive(file) else file
        sound = Path(room) / "sound.sqlite"
        db.copy(source, sound)
        with closing(sqlite3.connect(sound)) as found:
            if not found.execute("SELECT 1 FROM sqlite_master WHERE name = 'build'").fetchone():
                raise db.Unusable(f"{file} is no backup of Tall Heron: there are no builds in it")
        with db.opened(sound):
            pass  # an older form is brought up to date before it takes anything's place
        before = _kept(database) if database.exists() else None
        logs.copy_files(source, database)
        with closing(sqlite3.connect(sound)) as one, db.opened(database) as other:
            try:
                one.backup(
                    other
                )  # in one transaction: whoever reads meanwhile reads what was there
            except sqlite3.Error as error:
                raise db.Unusable(db.what_to_do(database, error)) from error
            count = other.execute("SELECT count(*) FROM build").fetchone()[0]
            return Restored(int(count), logs.missing(other, database), before)


def _kept(database: Path) -> Path:
    """A copy of what is there, beside it, under a name that nothing has."""
    stem = database.with_suffix(".before-restore")
    place = next(
        p
        for i in range(1, 10_000)
        if not (p := stem if i == 1 else stem.with_name(f"{stem.name}-{i}")).exists()
    )
    logs.copy_whole(database, place)
    return place
