"""A whole store as one ZIP: the database, and the files beside it by their hashes."""

import re
import shutil
import zipfile
from pathlib import Path

from tall_heron.store import db, logs
from tall_heron.store.room import STORE_BYTES

DATABASE = "tall-heron.sqlite"
MOST_UNPACKED = STORE_BYTES + 5_000_000_000  # bytes: its files, and the database
_FILE = re.compile(r"files/([0-9a-f]{2})/(\1[0-9a-f]{62})")


def is_archive(file: Path) -> bool:
    """Whether a backup is a ZIP."""
    return zipfile.is_zipfile(file)


def pack(source: Path, target: Path, room: Path) -> None:
    """A database and its files into a ZIP that stands only once it is complete; `room` is a folder
    for what is between. Raises db.Unusable, FileNotFoundError.
    """
    db.copy(source, room / DATABASE)
    half = target.with_name(target.name + ".half")
    try:
        with zipfile.ZipFile(half, "w", zipfile.ZIP_DEFLATED) as box:
            box.write(room / DATABASE, DATABASE)
            for file in sorted(logs.folder(source).glob("??/*")):
                if len(file.name) == 64:
                    box.write(file, f"files/{file.parent.name}/{file.name}")
        db.put_in_place(half, target)
    finally:
        half.unlink(missing_ok=True)


def unpack(file: Path, room: Path) -> Path:
    """The database of a ZIP, its files beside it, in a folder `room`; nothing else that is in it is
    looked at. Raises db.Unusable.
    """
    try:
        with zipfile.ZipFile(file) as box:
            if sum(x.file_size for x in box.infolist()) > MOST_UNPACKED:
                raise db.Unusable(
                    f"{file} unpacks to more than {MOST_UNPACKED // 1_000_000_000} GB, which no store here holds"
                )
            if DATABASE not in box.namelist():
                raise db.Unusable(
                    f"{file} is no backup of Tall Heron: there is no {DATABASE} in it"
                )
            target = room / DATABASE
            _out(box, DATABASE, target)
            for name in box.namelist():
                found = _FILE.fullmatch(name)
                if found:
                    place = logs.folder(target) / found[1] / found[2]
                    place.parent.mkdir(parents=True, exist_ok=True)
                    _out(box, name, place)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError) as error:
        raise db.Unusable(f"{file} is damaged: {error}") from error
    return target


def _out(box: zipfile.ZipFile, name: str, place: Path) -> None:
    """A file of a ZIP on the disk, a piece at a time."""
    with box.open(name) as packed, place.open("wb") as out:
        shutil.copyfileobj(packed, out)
