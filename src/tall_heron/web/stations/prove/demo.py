"""The logs of the demo builds, laid through the same acts as a builder's: all of it invented."""

from functools import partial
from pathlib import Path
from sqlite3 import Connection
from typing import Any

from tall_heron.core.base.catalogue import document
from tall_heron.core.base.units import parse
from tall_heron.core.design import design
from tall_heron.core.document.build import Build
from tall_heron.core.prove.amount import read_caught
from tall_heron.core.prove.car import drive_text
from tall_heron.core.prove.entry import AnyEntry, Correction, File, Match, Pours, Reading, RunEntry, SignOff, digest, entry_hash, entry_text
from tall_heron.core.prove.faults import Fault
from tall_heron.core.prove.predict import Bench
from tall_heron.core.prove.proofs import Proof, proofs, usual
from tall_heron.core.prove.state import instrument_doubt, judged
from tall_heron.store import builds, logs
from tall_heron.web.stations.prove.acts import PLAIN, TOLD, TYPED_IN
from tall_heron.web.stations.prove.routes import solution_text


def lay_logs(connection: Connection, database: Path, slugs: dict[str, Build]) -> None:
    """Lay the logs of the demo builds that have one, and sign those that are signed."""
    for slug, rows in document("demo_log").items():
        build, row = slugs[slug], builds.find(connection, slug)
        assert row is not None
        made = design(build)
        bench = Bench(made.study)
        by_key = {p.key: p for p in proofs(bench)}
        asked: list[Reading] = []
        for told in rows:
            if "sign" in told:
                solution = solution_text(made)
                frozen = {"name": told["sign"], "role": told["role"], "build": row["sha256"], "solution": digest(solution)}
                logs.sign(connection, row["id"], row["head"], partial(_signature, frozen), entry_hash, (row["document"], solution), told["at"])
                continue
            entry = _entry(connection, database, build, bench, by_key, told, asked, row["sha256"])
            logs.add(connection, row["id"], entry.kind, entry_text(entry), entry_hash, told["at"])


def _signature(frozen: dict[str, str], last: str) -> str:
    return entry_text(SignOff.model_validate({**frozen, "last": last}))


def _entry(connection: Connection, database: Path, build: Build, bench: Bench, by_key: dict[str, Proof], told: dict[str, Any], asked: list[Reading], sha256: str) -> AnyEntry:
    common = {"by": told.get("by", ""), "note": told.get("note", "")}
    if "corrects" in told:
        old = asked[-1]
        again = {"proof": old.proof, "told": {k: v for k, v in old.typed.items() if k in old.told}, "value": told["value"]}
        return Correction(corrects=told["corrects"], because=told["because"], instead=_reading(bench, by_key[old.proof], again, sha256, {}), **common)
    if "flows" in told:
        return Match(flows=told["flows"], unit=told["unit"], **common)
    if "steps" in told:
        steps = [(litres / 1000, ohm) for litres, ohm in told["steps"]]
        typed = "\n".join(f"{litres:g} L; {ohm:g}" for litres, ohm in told["steps"])
        return Pours(proof=told["proof"], steps=steps, unusable=told["unusable"] / 1000, typed=typed, **common)
    if "run" in told:
        text = drive_text(build, Fault("none"), told["seed"])
        kept = logs.keep_file(connection, database, text.encode(), "text/plain")
        seconds = float(text.rstrip().rsplit("\n", 1)[1].split(",")[0])
        return RunEntry(name=told["run"], seconds=seconds, files=[File(name="ground-run.csv", sha256=kept, media="text/plain", size=len(text.encode()))], **common)
    reading = _reading(bench, by_key[told["proof"]], told, sha256, common)
    asked.append(reading)
    return reading


def _reading(bench: Bench, proof: Proof, told: dict[str, Any], sha256: str, common: dict[str, str]) -> Reading:
    typed = dict(told.get("told", {}))
    at = usual(bench.study, proof) | {k: parse(v, TOLD[k], "") for k, v in typed.items()}
    text, caught = told["value"], None
    if proof.quantity == "volume_flow":
        caught = read_caught(text, bench.study.burn.fuel.density(at["celsius"]), "l/h")
        value = caught.flow
        typed["steps"] = "; ".join(caught.steps)[:120]
    elif proof.quantity in ("count", "level"):
        value = float(text)
    else:
        value = parse(text, TYPED_IN.get(proof.quantity, proof.quantity), PLAIN.get(proof.quantity, ""))
    instrument = "scale" if caught is not None and caught.mass is not None else str(proof.row["instrument"])
    doubt = instrument_doubt(bench, instrument, proof, value, caught)
    reading = Reading.model_validate({"proof": proof.key, "value": value, "told": at, "typed": typed | {"value": text}, "instrument": instrument, "doubt": doubt, "build": sha256, **common})
    j = judged(bench, proof, reading)
    return reading.model_copy(update={"said": j.said, "band": j.band, "verdict": j.verdict})
