"""What may be added to a log: each act is read from the request, judged as it stands now, and kept."""

import json
import math
import re
from collections.abc import Callable
from datetime import date
from typing import Any

from flask import g

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.base.table_text import plain_number
from tall_heron.core.document.build import checked
from tall_heron.core.document.wiring import Sender
from tall_heron.core.prove.amount import Caught, read_caught
from tall_heron.core.prove.entry import Correction, File, Match, Note, Pours, Reading, Upkeep
from tall_heron.core.prove.proof import Proof
from tall_heron.core.prove.proofs import over_rating, usual
from tall_heron.core.prove.sender_fit import fit_sender, ohms
from tall_heron.core.prove.state import instrument_doubt, judged
from tall_heron.store import logs
from tall_heron.web.answers import Stored
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field
from tall_heron.web.forms.reading import Refused, sentence
from tall_heron.web.show.text import shown
from tall_heron.web.show.units import unit
from tall_heron.web.stations.prove.proving import Proving, keep, today
from tall_heron.web.stations.prove.words import READ_AS, TOLD

PLAIN = {"duration": "s", "volume": "l"}
# From where to where a reading can be at all [SI]: beyond it the unit is wrong.
CAN_BE = {
    "volume_flow": (0.0, 0.1),
    "pressure": (-101_325.0, 1e8),
    "vacuum": (-101_325.0, 1e7),
    "pressure_difference": (0.0, 1e8),
    "voltage": (0.0, 1000.0),
    "current": (0.0, 2000.0),
    "duration": (0.0, 1e6),
    "volume": (0.0, 10.0),
    "share": (0.0, 1.0),
    "level": (0.0, 200.0),
    "count": (0.0, 1e6),
}
MOST_OHM, MOST_VOLUME, FIRST_DAY = 1e7, 10.0, date(1990, 1, 1)
STEP = re.compile(r"[;:=]")  # between what is in the tank and what it reads


def _word(data: dict[str, Any], name: str, most: int) -> str:
    text = str(data.get(name) or "").strip()
    if len(text) > most:
        raise Refused(name, f"That is longer than {most} letters.")
    return text


def _files(data: dict[str, Any]) -> list[File]:
    """Files that were sent before, by their hash and name."""
    text = str(data.get("files") or "[]")
    try:
        rows = json.loads(text)
    except ValueError:
        rows = None
    if not isinstance(rows, list) or len(rows) > 20:
        raise Refused("files", "Attach the files again.")
    out = []
    for row in rows:
        known = (
            logs.file_row(g.connection, str(row.get("sha256"))) if isinstance(row, dict) else None
        )
        if known is None:
            raise Refused("files", "One of these files is not here; attach it again.")
        name = (
            "".join(c for c in str(row.get("name") or "file") if c.isprintable())[-120:] or "file"
        )
        out.append(
            File(name=name, sha256=known["sha256"], media=known["media"], size=known["size"])
        )
    return out


def _common(data: dict[str, Any]) -> dict[str, Any]:
    return {"by": _word(data, "by", 120), "note": _word(data, "note", 2000), "files": _files(data)}


def _proof(p: Proving, data: dict[str, Any]) -> Proof:
    row = p.row(_word(data, "proof", 120))
    if row is None:
        raise Refused("act", "There is no such test of this build now.")
    return row.proof


def value_of(
    text: str, proof: Proof, density: float, near: float | None = None
) -> tuple[float, Caught | None]:
    """What was read, in SI, and how it was caught; a comma that may be either is read as what lies
    nearer to what is said. Refused beside the field.
    """
    if not text:
        raise Refused("value", "Write what was read.")
    quantity = proof.quantity
    try:
        if quantity == "volume_flow":
            caught = read_caught(text, density, unit("volume_flow").word, near)
            return _possible(caught.flow, quantity), caught
        if quantity in ("level", "count"):
            number = plain_number(text.lower().removesuffix("db").removesuffix("drips").strip())
            if number is None:
                raise ValueError("Write a number, such as 0.")
            return _possible(number, quantity), None
        value = _of("value", READ_AS.get(quantity, quantity), PLAIN.get(quantity, "")).near(
            text, near
        )
    except ValueError as error:
        raise Refused("value", sentence(str(error))) from None
    return _possible(value, quantity), None


def _possible(value: float, quantity: str) -> float:
    low, high = CAN_BE[quantity]
    if not value >= low:
        raise Refused(
            "value",
            "That is less than nothing; write what was read."
            if low < 0
            else "That is below zero; write what was read.",
        )
    if not value <= high:
        raise Refused("value", "That cannot be read here; look at its unit.")
    return value


PITCH = Field("pitch", "Nose up", sort="angle", bounds=(-45.0, 45.0))


def _of(name: str, quantity: str, plain: str = "") -> Field:
    """A figure of a test, a bare number in the unit `plain`, or else in the reader's."""
    return Field(name, "The figure", quantity, on_sheet=(plain, plain) if plain else None)


def conditions_of(
    data: dict[str, Any], p: Proving, proof: Proof
) -> tuple[dict[str, float], dict[str, str]]:
    """What was told with a reading in SI, and as it was typed; what was left empty is taken as
    usual.
    """
    conditions, typed, common = {}, {}, usual(p.predictor.study, proof)
    for name in proof.asks:
        text = _word(data, name, 40)
        if text and name == "pitch":
            conditions[name], typed[name] = math.radians(PITCH.read(text)), text
        elif text:
            conditions[name], typed[name] = _of(name, TOLD[name]).read(text), text
            limits = {
                "volts": (0.5, 100.0),
                "source": (0.5, 100.0),
                "celsius": (CELSIUS - 50, CELSIUS + 120),
                "against": (-1e5, 3e6),
                "applied": (-1e5, 1e6),
            }[name]
            if not limits[0] <= conditions[name] <= limits[1]:
                raise Refused(name, "That cannot be here; look at its unit.")
        elif name in common:
            conditions[name] = common[name]
    setup = proof.at(conditions).setup
    over = (
        over_rating(p.predictor, setup) if setup is not None and "applied" in conditions else None
    )
    if over is not None:
        raise Refused(
            "applied",
            f"With that on the nipple {over.part} would stand at {shown(over.stands, 'pressure')}, and is made for {shown(over.most, 'pressure')}. Put on less.",
        )
    return conditions, typed


def reading_of(data: dict[str, Any], found: Stored, p: Proving, proof: Proof) -> Reading:
    """A reading as it is typed, judged as the build stands."""
    conditions, typed = conditions_of(data, p, proof)
    kelvin = conditions.get("celsius", p.predictor.study.brief.fuel_temperature)
    text = _word(data, "value", 80)
    setup = proof.at(conditions).setup
    near = p.predictor.predict(setup) if setup is not None else proof.predicted
    value, caught = value_of(text, proof, p.predictor.study.fuel_demand.fuel.density(kelvin), near)
    instrument = _word(data, "instrument", 40) or str(proof.row["instrument"])
    if instrument not in by_name("instruments"):
        raise Refused("instrument", "Choose one of the instruments.")
    if caught is not None and caught.mass is not None:
        instrument = "scale"
    doubt = instrument_doubt(p.predictor, instrument, proof, value, caught)
    own = _word(data, "doubt", 40)
    if own:
        quantity = (
            "pressure_difference"
            if proof.quantity in ("pressure", "vacuum")
            else READ_AS.get(proof.quantity, proof.quantity)
        )
        if own.endswith("%"):
            doubt = abs(value * _of("doubt", "fraction", "%").read(own))
        elif quantity not in ("level", "count"):
            doubt = abs(_of("doubt", quantity, PLAIN.get(quantity, "")).read(own))
        if not doubt <= CAN_BE[proof.quantity][1]:
            raise Refused("doubt", "Nothing is as unsure as that; look at its unit.")
        typed["doubt"] = own
    typed["value"] = text
    if caught is not None and caught.steps:
        typed["steps"] = "; ".join(caught.steps)[:120]
    entry = Reading(
        proof=proof.key,
        value=value,
        conditions=conditions,
        typed=typed,
        instrument=instrument,
        doubt=doubt,
        build=found.row["sha256"],
        **_common(data),
    )
    j = judged(p.predictor, proof, entry)
    return entry.model_copy(update={"predicted": j.predicted, "band": j.band, "verdict": j.verdict})


def read(data: dict[str, Any], found: Stored, p: Proving) -> None:
    """Keep a reading."""
    keep(found.row["id"], reading_of(data, found, p, _proof(p, data)))


def note(data: dict[str, Any], found: Stored, p: Proving) -> None:
    """Keep a note, of a test or of the build."""
    entry = Note(proof=_word(data, "proof", 120), **_common(data))
    if not entry.note and not entry.files:
        raise Refused("note", "Write a note, or attach a file.")
    keep(found.row["id"], entry)


def correct(data: dict[str, Any], found: Stored, p: Proving) -> None:
    """Correct an entry: with another reading in its place, or with none."""
    number = reading.whole(str(data.get("corrects") or ""))
    old = next((k for k in p.log if k.number == number), None)
    if old is None or old.entry.kind == "sign-off":
        raise Refused(
            "act",
            "There is no such entry to correct."
            if old is None
            else "A signature is not corrected; sign again.",
        )
    if number in p.folded.corrected:
        raise Refused(
            "act",
            f"Entry {number} was corrected already, by entry {p.folded.corrected[number]}: correct that.",
        )
    because = _word(data, "because", 400)
    if len(because) < 3:
        raise Refused("because", "Say why: what was wrong with it.")
    instead = None
    if _word(data, "value", 80):
        row = (
            p.row(old.entry.proof)
            if isinstance(old.entry, Reading)
            else p.row(old.entry.instead.proof)
            if isinstance(old.entry, Correction) and old.entry.instead
            else None
        )
        if row is None:
            raise Refused(
                "value",
                "Only a reading of a test that the build still has can be given anew; leave this empty to take the entry back.",
            )
        instead = reading_of(data, found, p, row.proof)
    keep(
        found.row["id"],
        Correction(corrects=number, because=because, instead=instead, **_common(data)),
    )


def pours(data: dict[str, Any], found: Stored, p: Proving) -> None:
    """Keep a sender as it was poured: a line a step, `10 L; 222`."""
    proof = _proof(p, data)
    text, reads = _word(data, "steps", 8000), _word(data, "unit", 10) or "ohm"
    if reads not in ("ohm", "volt"):
        raise Refused("unit", "Ohms or volts?")
    steps: list[tuple[float, float]] = []
    for i, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        parts = [x.strip() for x in STEP.split(line)]
        number = (
            plain_number(
                parts[1].lower().removesuffix("ohm").removesuffix("ω").removesuffix("v").strip()
            )
            if len(parts) == 2 and parts[0]
            else None
        )
        if number is None:
            raise Refused(
                "steps", f"Line {i}: write what is in the tank and what it reads, such as 10 L; 222"
            )
        volume = _of("steps", "volume", unit("tank_volume").word).read(parts[0])
        if not (0 <= volume <= MOST_VOLUME and 0 <= number <= MOST_OHM):
            raise Refused(
                "steps", f"Line {i}: that cannot be in a tank, or be read there; look at its unit."
            )
        steps.append((volume, number))
    unusable = _of("unusable", "volume", unit("tank_volume").word).read(
        _word(data, "unusable", 40) or "0"
    )
    if not 0 <= unusable <= MOST_VOLUME:
        raise Refused("unusable", "That cannot be in a tank; look at its unit.")
    sender = found.build.wiring.sender if found.build.wiring is not None else None
    try:
        if not steps:
            raise ValueError("Write a line for each pour, such as 10 L; 222.")
        checked_sender = sender or Sender()
        fit_sender(
            [(v, ohms(x, checked_sender) if reads == "volt" else x) for v, x in steps],
            checked_sender,
            unusable,
        )
        entry = checked(
            Pours,
            {
                "proof": proof.key,
                "unit": reads,
                "steps": steps,
                "unusable": unusable,
                "typed": text,
                **{k: v for k, v in _common(data).items() if k != "files"},
            },
        )
    except BuildErrors as errors:
        raise Refused("steps", f"{errors.errors[0].message}.") from None
    except ValueError as error:
        raise Refused("steps", sentence(str(error))) from None
    keep(found.row["id"], entry.model_copy(update={"files": _files(data)}))


def match(data: dict[str, Any], found: Stored, p: Proving) -> None:
    """Keep what each injector gave."""
    numbers = [plain_number(x) for x in re.split(r"[;\s]+", _word(data, "flows", 1000)) if x]
    if len(numbers) < 2 or any(x is None or not 1e-3 <= x <= 1e6 for x in numbers):
        raise Refused(
            "flows",
            "Write what each gave, in order of the cylinders, such as 151 149 150 152 148 150.",
        )
    if len(numbers) > 48:
        raise Refused("flows", "More than 48 cylinders?")
    keep(
        found.row["id"],
        Match(
            proof=_proof(p, data).key,
            flows=[float(x) for x in numbers if x],
            unit=_word(data, "unit", 20),
            **_common(data),
        ),
    )


def upkeep(data: dict[str, Any], found: Stored, p: Proving) -> None:
    """Keep a piece of upkeep that was done."""
    item = _word(data, "item", 40)
    if item not in by_name("upkeep"):
        raise Refused("act", "There is no such upkeep.")
    text = _word(data, "day", 20)
    try:
        day = date.fromisoformat(text).toordinal() if text else today()
    except ValueError:
        raise Refused("day", "Write the day as 2026-11-27.") from None
    if day > today() + 1:
        raise Refused("day", "That day has not come yet.")
    if day < FIRST_DAY.toordinal():
        raise Refused("day", "That was long before this build; write the day as 2026-11-27.")
    hours_text = _word(data, "hours", 20)
    hours = plain_number(hours_text) if hours_text else None
    if hours_text and (hours is None or not 0 <= hours < 1e6):
        raise Refused("hours", "Write the hours of the engine as a number.")
    keep(found.row["id"], Upkeep(item=item, day=day, hours=hours, **_common(data)))


ACTS: dict[str, Callable[[dict[str, Any], Stored, Proving], None]] = {
    "read": read,
    "note": note,
    "correct": correct,
    "pours": pours,
    "match": match,
    "upkeep": upkeep,
}
