"""A power cut in the middle of a write: what was acknowledged is there afterwards, what was not is
there whole or not at all.

SQLite in WAL with synchronous = FULL syncs the log before a commit is acknowledged, and the
database before the log is begun anew (sqlite.org/wal.html, *Checkpointing*;
sqlite.org/atomiccommit.html). Between two syncs a disk may keep any of the sectors written, in any
order: each crash point here keeps some and drops the rest.
"""

import os
import shutil
import sqlite3
from pathlib import Path
from random import Random
from typing import Any

import pytest

from tall_heron.core.document.build import Build, dump, load
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_length
from tall_heron.store import builds, db, logs

SECTOR, HEADER, POINTS, ACTS = 512, 32, 250, 60
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


def heads(path: Path) -> dict[str, str]:
    """Every build's document at its head, its hash checked; the database must be sound."""
    with db.opened(path) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        for row in connection.execute("SELECT document, sha256 FROM revision"):
            builds.document_of(row)
        return {row["slug"]: builds.document_of(row) for row in builds.every(connection)}


def acts(rnd: Random, build: Build) -> Build:
    hose = rnd.choice([e.id for e in build.circuit.elements if e.length is not None])
    return set_length(build, hose, rnd.uniform(100, 5000))


@pytest.mark.parametrize(
    "seed", [0, *(pytest.param(n, marks=pytest.mark.sweep) for n in (1, 2, 3))]
)
def test_nothing_acknowledged_is_lost_at_any_point(tmp_path: Path, seed: int) -> None:
    """Saves, undos and new builds in turn, with the log begun anew every few acts."""
    rnd, path = Random(seed), tmp_path / "kept.sqlite"
    states: list[tuple[Files, dict[str, str]]] = []
    with db.opened(path) as connection:
        connection.execute("PRAGMA wal_autocheckpoint = 40")
        assert connection.execute("PRAGMA synchronous").fetchone()[0] == 2  # FULL
        for name in ("bittern", "egret"):
            builds.create(connection, name, dump(demo_builds()[name]), "Begun")
        for i in range(ACTS):
            row = builds.find(connection, rnd.choice(["bittern", "egret"]))
            assert row is not None
            if i % 7 == 6:
                builds.undo(connection, row["id"], row["head"])
            elif i % 11 == 10:
                builds.create(connection, f"more {i}", row["document"], "Begun")
            else:
                builds.save(
                    connection,
                    row["id"],
                    row["head"],
                    "Changed",
                    dump(acts(rnd, load(row["document"]))),
                )
            states.append(
                (files(path), {r["slug"]: r["document"] for r in builds.every(connection)})
            )
    assert len({files[""] for files, _ in states}) > 3  # checkpoints fell among them
    left = tmp_path / "left"
    kept = 0
    for point in range(POINTS):
        at = rnd.randrange(len(states) - 1)
        (before, acknowledged), (after, following) = states[at], states[at + 1]
        shutil.rmtree(left, ignore_errors=True)
        left.mkdir()
        for end, data in crashed(rnd, before, after).items():
            Path(str(left / "kept.sqlite") + end).write_bytes(data)
        found = heads(left / "kept.sqlite")
        assert found in (acknowledged, following), f"point {point}, act {at}"
        kept += found == following
    assert 0 < kept < POINTS  # some acts came through whole, some not at all


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


def test_an_attached_file_and_the_names_that_lead_to_it_are_on_the_disk(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """POSIX fsync(2): a file that is synced is not found after a power cut unless the folder that
    names it was synced after it was put there, and so on up.
    """
    done: list[tuple[str, Path]] = []
    fsync, replace, mkdir = os.fsync, Path.replace, Path.mkdir

    def synced(handle: int) -> None:
        path = Path(os.readlink(f"/proc/self/fd/{handle}"))
        done.append(("names of" if path.is_dir() else "data of", path))
        fsync(handle)

    def put(half: Path, target: Path) -> Path:
        done.extend([("data must be of", half), ("put", target)])
        return replace(half, target)

    def made(folder: Path, *args: Any, **more: Any) -> None:
        if not folder.exists():
            done.append(("put", folder))
        mkdir(folder, *args, **more)

    file = tmp_path / "x.sqlite"
    with db.opened(file) as connection:
        monkeypatch.setattr(os, "fsync", synced)
        monkeypatch.setattr(Path, "replace", put)
        monkeypatch.setattr(Path, "mkdir", made)
        sha256 = logs.keep_file(connection, file, b"a photograph", "image/png")
    placed = [(i, path) for i, (what, path) in enumerate(done) if what == "put"]
    assert [path.name for _, path in placed if path.is_file()] == [sha256]
    assert len(placed) >= 3, "the file, its folder, and the folder of all"
    for i, path in placed:
        assert ("names of", path.parent) in done[i:], path
    half = next(path for what, path in done if what == "data must be of")
    assert ("data of", half) in done[: placed[-1][0]]
    (logs.folder(file) / sha256[:2] / sha256).write_bytes(b"")  # as a cut left it before
    with db.opened(file) as connection:
        logs.keep_file(connection, file, b"a photograph", "image/png")
    assert logs.file_data(file, sha256) == b"a photograph"
