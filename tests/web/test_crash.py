"""A power cut in the middle of a write: what was acknowledged is there afterwards, what was not is
there whole or not at all.

SQLite in WAL with synchronous = FULL syncs the log before a commit is acknowledged, and the
database before the log is begun anew (sqlite.org/wal.html, *Checkpointing*;
sqlite.org/atomiccommit.html). Between two syncs a disk may keep any of the sectors written, in any
order: each crash point here keeps some and drops the rest. A file that is synced is not found after
a power cut unless the folder that names it was synced after it was put there, and so on up (POSIX
fsync(2)).
"""

import os
import shutil
import sqlite3
from contextlib import suppress
from pathlib import Path
from random import Random
from typing import Any

import pytest

from tall_heron.core.document.build import dump, load
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_length
from tall_heron.store import builds, db, logs, own_parts, runs, suppliers

SECTOR, HEADER, POINTS, ACTS = 512, 32, 300, 60
Files = dict[str, bytes]


def files(path: Path) -> Files:
    """The database and its log as they stand on the disk; the index of the log is made anew from
    it.
    """
    return {
        end: f.read_bytes() if (f := Path(str(path) + end)).exists() else b""
        for end in ("", "-wal")
    }


def torn(rnd: Random, before: bytes, after: bytes) -> bytes:
    """A file of which some sectors are as they were and some as they were to be."""
    size = rnd.choice(
        [
            len(before),
            len(after),
            rnd.randint(min(len(before), len(after)), max(len(before), len(after))),
        ]
    )
    keeps = rnd.choice([0.0, 0.1, 0.5, 0.9, 1.0])
    out = bytearray(size)
    for at in range(0, size, SECTOR):
        new = rnd.random() < keeps
        source = after if (new and at < len(after)) or at >= len(before) else before
        if at >= len(before) and not new:
            continue  # grown, and never written: zeros
        piece = source[at : at + SECTOR][: size - at]
        out[at : at + len(piece)] = piece
    return bytes(out)


def crashed(rnd: Random, before: Files, after: Files) -> Files:
    """What a disk holds after a power cut between two acknowledged acts: the log partly written,
    or, once that is synced, the database.
    """
    if before[""] != after[""] and rnd.random() < 0.5:
        return {"": torn(rnd, before[""], after[""]), "-wal": after["-wal"]}
    log, new = torn(rnd, before["-wal"], after["-wal"]), after["-wal"][:HEADER]
    if (
        before["-wal"][:HEADER] != new
    ):  # begun anew: its header is synced by itself before any of its frames is written (wal.c, walFrames)
        log = new + rnd.choice([log, before["-wal"]])[HEADER:]
    return {"": before[""], "-wal": log}


def everything(connection: sqlite3.Connection) -> dict[str, list[tuple[Any, ...]]]:
    """Every row of every table, the database sound and each document what its hash says."""
    assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    for row in connection.execute("SELECT document, sha256 FROM revision"):
        builds.document_of(row)
    names = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
    return {
        name: [tuple(r) for r in connection.execute(f"SELECT * FROM {name} ORDER BY 1")]
        for (name,) in names
    }


class Disk:
    """What of the files beside a database is on the disk: bytes that were synced, and names whose
    folder was synced after they were put there. All else may be lost.
    """

    def __init__(self, patch: pytest.MonkeyPatch) -> None:
        self.bytes, self.names = set[Path](), set[Path]()
        self.put = list[Path]()
        fsync, replace, mkdir = os.fsync, Path.replace, Path.mkdir

        def synced(handle: int) -> None:
            path = Path(os.readlink(f"/proc/self/fd/{handle}"))
            if path.is_dir():
                self.names.update(p for p in self.put if p.parent == path)
            else:
                self.bytes.add(path)
            fsync(handle)

        def put(half: Path, target: Path) -> Path:
            self.put.append(target)
            if half in self.bytes:
                self.bytes.add(target)
            return replace(half, target)

        def made(folder: Path, *args: Any, **more: Any) -> None:
            if not folder.exists():
                self.put.append(folder)
                if more.get("parents") and not folder.parent.exists():
                    made(folder.parent, *args, **more)
            mkdir(folder, *args, **more)

        patch.setattr(os, "fsync", synced)
        patch.setattr(Path, "replace", put)
        patch.setattr(Path, "mkdir", made)

    def left(self, rnd: Random, safe: set[Path], root: Path, target: Path) -> None:
        """The files as a cut leaves them, those that were `safe` and any of the others."""
        lost = {p for p in self.put if p not in safe and rnd.random() < 0.5}
        for file in root.glob("??/*"):
            if lost.isdisjoint({file, file.parent, root}):
                place = target / file.parent.name / file.name
                place.parent.mkdir(parents=True, exist_ok=True)
                data = file.read_bytes()
                place.write_bytes(data if file in self.bytes else torn(rnd, b"", data))


def act(rnd: Random, connection: sqlite3.Connection, path: Path, i: int) -> None:
    """One of all that is done to a store."""
    row = builds.find(connection, rnd.choice(["bittern", "egret"]))
    assert row is not None
    match i % 13:
        case 1 | 5 | 9:
            data = rnd.randbytes(rnd.randrange(10, 3000))
            logs.keep_file(connection, path, data, "image/png")
        case 2:
            logs.add(connection, row["id"], "note", f"note {i}", lambda *of: db.digest(repr(of)))
        case 3:
            own_parts.add(connection, "sedge", f"part {i}")
        case 4:
            runs.add(connection, f"run {i}", "0;1")
        case 6:
            with suppress(LookupError):  # there is nothing to undo yet
                builds.undo(connection, row["id"], row["head"])
        case 7:
            suppliers.keep(connection, "reed", f"supplier {i}")
        case 8:
            builds.archive(connection, "egret", i % 2 == 0)
        case 10:
            builds.create(connection, f"more {i}", row["document"], "Begun")
        case 11:
            logs.remember(connection, "units", str(i))
        case _:
            hose = load(row["document"])
            ids = [e.id for e in hose.circuit.elements if e.length is not None]
            changed = set_length(hose, rnd.choice(ids), rnd.uniform(100, 5000))
            builds.save(connection, row["id"], row["head"], "Changed", dump(changed))


def cut_at_random(
    seed: int, folder: Path, patch: pytest.MonkeyPatch, points: int = POINTS
) -> list[str]:
    """Acts of every kind in turn, with the log begun anew every few, and a cut at so many points:
    what was lost of what had been acknowledged, and how many acts came through whole.
    """
    rnd, path = Random(seed), folder / "kept.sqlite"
    states: list[tuple[Files, dict[str, Any], set[Path]]] = []
    with patch.context() as shim, db.opened(path) as connection:
        disk = Disk(shim)
        connection.execute("PRAGMA wal_autocheckpoint = 40")
        assert connection.execute("PRAGMA synchronous").fetchone()[0] == 2  # FULL
        for name in ("bittern", "egret"):
            builds.create(connection, name, dump(demo_builds()[name]), "Begun")
        for i in range(ACTS):
            act(rnd, connection, path, i)
            states.append((files(path), everything(connection), disk.bytes & disk.names))
            states[-1][2].update(p for p in disk.names if p.is_dir())
    assert len({files[""] for files, *_ in states}) > 3  # checkpoints fell among them
    left, lost, whole = folder / "left", list[str](), 0
    for point in range(points):
        at = rnd.randrange(len(states) - 1)
        (before, acknowledged, safe), (after, following, safe_after) = states[at], states[at + 1]
        shutil.rmtree(left, ignore_errors=True)
        left.mkdir()
        for end, data in crashed(rnd, before, after).items():
            Path(str(left / "kept.sqlite") + end).write_bytes(data)
        with db.opened(left / "kept.sqlite") as connection:
            found = everything(connection)
        if found not in (acknowledged, following):
            lost.append(f"point {point}, act {at}: rows")
        came = found == following
        whole += came
        disk.left(
            rnd,
            safe_after if came else safe,  # what an act syncs of files, it syncs before its rows
            logs.folder(path),
            logs.folder(left / "kept.sqlite"),
        )
        lost += [
            f"point {point}, act {at}: {sha256[:8]}"
            for sha256, *_ in found["attachment"]
            if logs.file_data(left / "kept.sqlite", sha256) is None
        ]
    assert 0 < whole < points  # some acts came through whole, some not at all
    return lost


@pytest.mark.parametrize(
    "seed", [0, *(pytest.param(n, marks=pytest.mark.sweep) for n in (1, 2, 3))]
)
def test_nothing_acknowledged_is_lost_at_any_point(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, seed: int
) -> None:
    assert cut_at_random(seed, tmp_path, monkeypatch) == []


@pytest.mark.parametrize("forgotten", ["sync_names", "put_in_place"])
def test_a_sync_that_is_forgotten_is_seen(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, forgotten: str
) -> None:
    """The check can fail: names that are not synced, or bytes that are not."""
    instead = {
        "sync_names": lambda folder: None,
        "put_in_place": lambda half, target: (half.replace(target), db.sync_names(target.parent)),
    }
    for module in (db, logs):
        monkeypatch.setattr(module, forgotten, instead[forgotten])
    assert cut_at_random(0, tmp_path, monkeypatch, 30)


def test_a_cut_that_forgets_a_sync_is_seen(tmp_path: Path) -> None:
    """The check can fail: where the log is lost after an act was acknowledged, the act is missing."""
    path = tmp_path / "kept.sqlite"
    with db.opened(path) as connection:
        builds.create(connection, "knot", dump(demo_builds()["plover"]), "Begun")
        before = files(path)
        builds.create(connection, "ruff", dump(demo_builds()["plover"]), "Begun")
        assert files(path)["-wal"] != before["-wal"]
    for end, data in before.items():
        (tmp_path / f"left.sqlite{end}").write_bytes(data)
    with sqlite3.connect(tmp_path / "left.sqlite") as connection:
        assert [slug for (slug,) in connection.execute("SELECT slug FROM build")] == ["knot"]


def test_a_file_that_a_cut_left_short_is_written_anew(tmp_path: Path) -> None:
    file = tmp_path / "x.sqlite"
    with db.opened(file) as connection:
        sha256 = logs.keep_file(connection, file, b"a photograph", "image/png")
        (logs.folder(file) / sha256[:2] / sha256).write_bytes(b"")
        logs.keep_file(connection, file, b"a photograph", "image/png")
    assert logs.file_data(file, sha256) == b"a photograph"
