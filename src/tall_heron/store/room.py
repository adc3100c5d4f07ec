"""How much room there is, on the disk and by what a build and a store may hold; said before it is
used up.
"""

import re
import shutil
import sqlite3
from pathlib import Path

LOW = 0.05  # of the disk
BUILD_BYTES, STORE_BYTES = 500_000_000, 20_000_000_000  # of files of logs and pictures
SAID_FROM = 0.8  # of either
_HASH = re.compile(r"[0-9a-f]{64}")


class NoRoom(Exception):
    """A file that a build or a store has no room for, in words."""


def of_disk(folder: Path) -> str:
    """That a disk is nearly full, in words; empty where it is not."""
    try:
        disk = shutil.disk_usage(folder)
    except OSError:
        return ""
    if disk.free >= LOW * disk.total:
        return ""
    return f"The disk is nearly full: {size(disk.free)} of {size(disk.total)} are free. Make room; until then a change may not be kept."


def of_store(connection: sqlite3.Connection) -> str:
    """That a store holds nearly all the files it may, in words; empty where it does not."""
    held = in_store(connection)
    if held < SAID_FROM * STORE_BYTES:
        return ""
    return f"Logs and pictures take {size(held)} of the {size(STORE_BYTES)} that all builds may hold together."


def of_build(held: int) -> str:
    """That a build that holds so many bytes of files may hold few more, in words; empty where it may."""
    if held < SAID_FROM * BUILD_BYTES:
        return ""
    return (
        f"Files of this build take {size(held)} of the {size(BUILD_BYTES)} that one build may hold."
    )


def in_store(connection: sqlite3.Connection) -> int:
    """Bytes of all files that are kept."""
    return int(connection.execute("SELECT coalesce(sum(size), 0) FROM attachment").fetchone()[0])


def in_build(connection: sqlite3.Connection, build: int) -> int:
    """Bytes of the files that entries of a build name."""
    named: set[str] = set()
    for (text,) in connection.execute("SELECT text FROM entry WHERE build = ?", (build,)):
        named.update(_HASH.findall(text))
    sizes = connection.execute("SELECT sha256, size FROM attachment")
    return sum(r["size"] for r in sizes if r["sha256"] in named) if named else 0


def take(connection: sqlite3.Connection, build: int | None, bytes_more: int) -> None:
    """Raise NoRoom where a file of so many bytes would be more than a store or a build may hold."""
    if in_store(connection) + bytes_more > STORE_BYTES:
        raise NoRoom(
            f"All builds together may hold {size(STORE_BYTES)} of logs and pictures, and this is more. Nothing was kept."
        )
    if build is not None and in_build(connection, build) + bytes_more > BUILD_BYTES:
        raise NoRoom(
            f"A build may hold {size(BUILD_BYTES)} of logs and pictures, and this is more. Nothing was kept. A copy of the build begins with none."
        )


def size(of: float) -> str:
    """Bytes in a unit that one can read."""
    for unit, least in (("GB", 1e9), ("MB", 1e6)):
        if of >= least:
            return f"{of / least:.3g} {unit}"
    return f"{of / 1e3:.3g} kB"
