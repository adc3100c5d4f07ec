"""The logs of the demo builds, laid through the same acts as a builder's: all of it invented."""

from functools import partial
from pathlib import Path
from sqlite3 import Connection
from typing import Any

from tall_heron.core.base.catalogue import document, text
from tall_heron.core.design import design
from tall_heron.core.document.build import Build
from tall_heron.core.prove.entry import (
    AnyEntry,
    Correction,
    File,
    Match,
    Pours,
    Reading,
    RunEntry,
    SignOff,
    digest,
    entry_hash,
    entry_text,
)
from tall_heron.core.prove.predict import Predictor
from tall_heron.core.prove.proofs import proofs
from tall_heron.core.prove.state import folded
from tall_heron.store import builds, logs
from tall_heron.web.answers import Stored
from tall_heron.web.stations.prove.acts import reading_of
from tall_heron.web.stations.prove.proving import Proving, solution_text


def lay_logs(connection: Connection, database: Path, slugs: dict[str, Build]) -> None:
    """Lay the logs of the demo builds that have one, and sign those that are signed."""
    for slug, rows in document("demo_log").items():
        build, row = slugs[slug], builds.find(connection, slug)
        assert row is not None
        made = design(build)
        predictor = Predictor(made.study)
        found, p = (
            Stored(row, build),
            Proving(predictor, (), folded(()), tuple(proofs(predictor)), ()),
        )
        asked: list[Reading] = []
        for told in rows:
            if "sign" in told:
                solution = solution_text(made)
                frozen = {
                    "name": told["sign"],
                    "role": told["role"],
                    "build": row["sha256"],
                    "solution": digest(solution),
                }
                logs.sign(
                    connection,
                    row["id"],
                    row["head"],
                    partial(_signature, frozen),
                    entry_hash,
                    (row["document"], solution),
                    told["at"],
                )
                continue
            entry = _entry(connection, database, found, p, told, asked)
            logs.add(connection, row["id"], entry.kind, entry_text(entry), entry_hash, told["at"])


def _signature(frozen: dict[str, str], last: str) -> str:
    return entry_text(SignOff.model_validate({**frozen, "last": last}))


def _entry(
    connection: Connection,
    database: Path,
    found: Stored,
    p: Proving,
    told: dict[str, Any],
    asked: list[Reading],
) -> AnyEntry:
    common = {"by": told.get("by", ""), "note": told.get("note", "")}
    by_key = {x.key: x for x in p.proofs}
    if "corrects" in told:
        old = asked[-1]
        again = {
            **{k: v for k, v in old.typed.items() if k in old.conditions},
            "value": told["value"],
        }
        return Correction(
            corrects=told["corrects"],
            because=told["because"],
            instead=reading_of(again, found, p, by_key[old.proof]),
            **common,
        )
    if "flows" in told:
        return Match(flows=told["flows"], unit=told["unit"], **common)
    if "steps" in told:
        steps = [(liters / 1000, ohm) for liters, ohm in told["steps"]]
        typed = "\n".join(f"{liters:g} L; {ohm:g}" for liters, ohm in told["steps"])
        return Pours(
            proof=told["proof"],
            steps=steps,
            unusable=told["unusable"] / 1000,
            typed=typed,
            **common,
        )
    if "run" in told:
        rows = text(told["file"]).split("\n", 1)[1]  # its first line says that it is invented
        run = rows.replace("\n", "\r\n")  # as a logger writes (RFC 4180)
        kept = logs.keep_file(connection, database, run.encode(), "text/plain")
        seconds = float(run.rstrip().rsplit("\n", 1)[1].split(",")[0])
        return RunEntry(
            name=told["run"],
            seconds=seconds,
            files=[
                File(name="ground-run.csv", sha256=kept, media="text/plain", size=len(run.encode()))
            ],
            **common,
        )
    asked.append(
        reading_of(
            {**told.get("told", {}), **common, "value": told["value"]},
            found,
            p,
            by_key[told["proof"]],
        )
    )
    return asked[-1]
