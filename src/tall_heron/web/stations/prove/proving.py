"""Everything that the pages of station 8 read of a build: its log, checked; its tests; what they
say.
"""

import json
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from flask import abort, g

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.contract import solution_data
from tall_heron.core.design import Design
from tall_heron.core.document.build import Build
from tall_heron.core.prove import upkeep
from tall_heron.core.prove.entry import (
    AnyEntry,
    BrokenLog,
    StoredEntry,
    check_chain,
    entry_hash,
    entry_text,
    read_entry,
)
from tall_heron.core.prove.predict import Predictor
from tall_heron.core.prove.proof import Proof
from tall_heron.core.prove.proofs import proofs
from tall_heron.core.prove.rank import Verdict, judge
from tall_heron.core.prove.state import Folded, Tested, folded, points, tested
from tall_heron.core.study.study import make_study
from tall_heron.store import builds, logs, room
from tall_heron.web import answers
from tall_heron.web.answers import Stored

BENCHES = LruCache[
    Predictor
](
    8
)  # by the hash of the build's document: what was predicted once is not solved again; a request has one for itself until it ends
VERDICTS = LruCache[Verdict](32)  # by that hash and the last entry's


@dataclass(frozen=True)
class Proving:
    """A build with its log, its tests and what they came to."""

    predictor: Predictor
    log: tuple[StoredEntry, ...]
    folded: Folded
    proofs: tuple[Proof, ...]
    rows: tuple[Tested, ...]

    @property
    def last(self) -> str:
        """The hash of the last entry."""
        return self.log[-1].sha256 if self.log else ""

    @property
    def room(self) -> str:
        """That the files its entries name leave room for few more; empty where they do not."""
        return room.of_build(
            sum({f.sha256: f.size for k in self.log for f in k.entry.files}.values())
        )

    def row(self, key: str) -> Tested | None:
        """One test by its key."""
        return next((t for t in self.rows if t.proof.key == key), None)


LOGS = LruCache[tuple[StoredEntry, ...]](8)  # by their build, as they were checked last


def read_log(build: int) -> tuple[StoredEntry, ...]:
    """A build's log from the store, its chain checked. Raises BrokenLog. An entry that is letter
    for letter what was checked before is not read again.
    """
    known = LOGS.find(build) or ()
    rows = logs.entries(g.connection, build)
    same = 0
    for entry, row in zip(known, rows, strict=False):
        if (entry.number, entry.at, entry.text, entry.before, entry.sha256) != tuple(row):
            break
        same += 1
    if same == len(known) == len(rows):
        return known
    kept = known[:same] + tuple(read_entry(*row) for row in rows[same:])
    check_chain(kept)
    LOGS.put(build, kept)
    return kept


def log_of(build: int) -> tuple[StoredEntry, ...]:
    """A build's log. 409 in words where something in it was changed."""
    try:
        return read_log(build)
    except BrokenLog as broken:
        abort(
            409,
            f"This log cannot be trusted: {broken}. It was changed outside Tall Heron, or the disk has lost a bit of it. Take it from a backup.",
        )


def fresh_predictor(build: Build) -> Predictor:
    """A bench with a study of its own, for a thread of its own."""
    return Predictor(make_study(build))


def _lent(found: Stored) -> Predictor:
    lent: dict[str, Predictor] = g.setdefault("benches", {})
    key = found.row["sha256"]
    if key not in lent:
        lent[key] = BENCHES.take(key) or fresh_predictor(found.build)
    return lent[key]


def give_back(_: BaseException | None) -> None:
    """Keep the benches that this request has used, for the next."""
    for key, predictor in g.pop("benches", {}).items():
        BENCHES.put(key, predictor)


def proving(found: Stored) -> Proving:
    """All that station 8 shows of a build."""
    predictor = _lent(found)
    log = log_of(found.row["id"])
    state = folded(log)
    if any(e.build != found.row["sha256"] for _, e in state.signatures):
        abort(
            409,
            "This build is not the one that was signed: its document was changed outside Tall Heron. Take it from a backup.",
        )
    all_proofs = tuple(proofs(predictor))
    return Proving(predictor, log, state, all_proofs, tuple(tested(predictor, all_proofs, state)))


def verdict_of(found: Stored, p: Proving) -> Verdict | None:
    """The causes of what was read, every one of them weighed: no clock decides what is likely."""
    read = points(p.predictor, p.rows)
    if not read:
        return None
    key = f"{found.row['sha256']} {p.last}"
    verdict = VERDICTS.find(key) or judge(p.predictor, read)
    if verdict is not None and not verdict.stopped:
        VERDICTS.put(key, verdict)
    return verdict


def solution_text(made: Design) -> str:
    """All cases solved, as text that is the same for the same build."""
    rows = [solution_data(s.case.point.name, s.solution) for s in made.study.solved.values()]
    return json.dumps(
        {"format": "tall-heron-solution/1", "points": rows},
        sort_keys=True,
        separators=(",", ":"),
        ensure_ascii=False,
    )


def keep(build: int, entry: AnyEntry) -> int:
    """Add an entry to a build's log; returns its number."""
    return logs.add(g.connection, build, entry.kind, entry_text(entry), entry_hash)


def day_of(at: str) -> int:
    """The day of a moment as the log has it, counted from 1 January of the year 1."""
    return datetime.fromisoformat(at).date().toordinal()


def today() -> int:
    """The day."""
    return datetime.now(UTC).date().toordinal()


def day_words(day: int) -> str:
    """A day as it is written.

    >>> day_words(739947)
    '27 Nov 2026'
    """
    d = date.fromordinal(day)
    return f"{d.day} {d:%b %Y}"


def upkeep_of(build: Build, log: Folded) -> list[upkeep.Due]:
    """What falls due."""
    return upkeep.due(build, log, today(), day_of)


def counted(p: Proving) -> dict[str, Any]:
    """How far the proving is: tests that have to be, those that are in, those to look at."""
    asked = [t for t in p.rows if not t.proof.optional]
    run = [t for t in asked if t.verdict != "not run"]
    return {
        "asked": len(asked),
        "run": len(run),
        "look": [t for t in p.rows if t.verdict in ("off", "doubtful")],
        "next": next((t for t in asked if t.verdict == "not run"), None),
    }


def on_bench(rows: list[Any]) -> dict[int, str]:
    """Of each build with a log what the bench says of it, by the build's number: when it was
    signed, what is overdue. A log or build that cannot be read says so and hurts no other.
    """
    out = {}
    for number, (entries, signed) in logs.counts(g.connection).items():
        row = next((r for r in rows if r["id"] == number), None)
        if row is None:
            continue
        words = [
            f"signed {day_words(day_of(signed))}"
            if signed
            else f"{entries} {'entry' if entries == 1 else 'entries'} in its log"
        ]
        try:
            whole = builds.find(g.connection, row["slug"])
            assert whole is not None
            build = answers.build_of(whole)
            late = (
                [
                    str(d.row["title"]).lower()
                    for d in upkeep_of(build, folded(read_log(number)))
                    if d.stands == "late"
                ]
                if build.brief is not None
                else []
            )
        except (BrokenLog, BuildErrors, builds.Altered):
            late, words = [], ["its log or document cannot be trusted"]
        out[number] = " · ".join(words + ([f"overdue: {', '.join(late)}"] if late else []))
    return out
