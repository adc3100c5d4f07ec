"""Readings, entries and causes in the reader's words and units."""

from dataclasses import dataclass

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.design import Design
from tall_heron.core.prove.entry import (
    Correction,
    Match,
    Pours,
    Reading,
    RunEntry,
    SignOff,
    StoredEntry,
    Upkeep,
)
from tall_heron.core.prove.proof import Proof
from tall_heron.core.prove.rank import Ranked, Verdict
from tall_heron.core.prove.words import cause_words
from tall_heron.core.rules.finding import AGAINST, Finding
from tall_heron.web.show.text import number, shown
from tall_heron.web.stations.prove.proving import Proving, day_words

READ_AS = {
    "vacuum": "pressure",
    "share": "fraction",
}  # quantities that are typed and shown as another
TOLD = {
    "against": "pressure",
    "volts": "voltage",
    "source": "voltage",
    "celsius": "temperature",
    "applied": "pressure",
}  # what is told with a reading, as what it is typed


def shown_value(value: float | None, quantity: str) -> str:
    """A reading in the reader's unit, with it."""
    if value is None:
        return "—"
    if quantity == "level":
        return f"{number(value)} dB"
    if quantity == "count":
        return number(value)
    if quantity == "duration":
        return f"{number(value, 1)} s"
    if quantity == "voltage":
        return f"{number(value, 2)} V"
    if quantity == "share":
        return f"{number(100 * value, 1)} %"
    return shown(
        value,
        READ_AS.get(quantity, quantity),
        2 if quantity in ("vacuum", "pressure_difference") and abs(value) < 7000 else None,
    )


def title_of(proof: Proof) -> str:
    """A test's title with its pressure."""
    return proof.title.replace("{x}", shown(proof.x, "pressure") if proof.x is not None else "")


def text_in(proof: Proof, name: str) -> str:
    """A text of a test's row with its pressure."""
    return (
        str(proof.row[name] or "")
        .replace("{x}", shown(proof.x, "pressure") if proof.x is not None else "")
        .replace("{part}", proof.part)
    )


@dataclass(frozen=True)
class CauseRow:
    """A cause as the page lists it."""

    words: str
    amount: str
    share: float
    do: str
    source: str
    ranked: Ranked


SOUND = "Nothing speaks against the build: all of it is within what parts and instruments may stray"


def headline(verdict: Verdict, rows: list[CauseRow], sound: str = SOUND) -> str:
    """What a verdict comes to, in a line: likely only where one cause is, and never told apart of
    one thing.
    """
    if not verdict.named:
        return (
            sound
            if verdict.sound
            else "No single cause explains the readings: read the odd one again"
        )
    if verdict.sure:
        return f"Likely: {rows[0].words}"
    if len(verdict.named) > 1:
        return f"Not told apart yet: {len(verdict.named)} causes explain it alike"
    return f"Best, not surely: {rows[0].words}"


def cause_rows(verdict: Verdict, most: int = 5) -> list[CauseRow]:
    """The likeliest causes of which something is there, with their strength in the reader's units."""
    there = [r for r in verdict.ranked if r.there]
    return [
        CauseRow(
            cause_words(r.fault, r.also),
            amount_words(r),
            r.share,
            str(r.fault.row["do"]),
            str(r.fault.row["source"]),
            r,
        )
        for r in there[:most]
    ]


def amount_words(r: Ranked) -> str:
    """How strong a cause fits, with how sure that is."""
    row = r.fault.row
    if not row["amount"]:
        return ""
    quantity, x = str(row["quantity"]), r.fault.strength

    def f(value: float) -> str:
        if quantity == "times":
            return number(value, 1)
        if quantity == "share":
            return f"{number(100 * value)} %"
        if quantity == "voltage":
            return f"{number(value, 1)} V"
        if quantity == "acceleration":
            return f"{number(value, 2)} g"
        return shown(value, quantity)

    said = str(row["amount"])
    if x < 0 and quantity == "pressure_difference":  # the other way, in words instead of a sign
        said, x = said.replace("too much", "too little").replace(" more than", " less than"), -x
    text = said.replace("{x}", f(x))
    if r.sigma is None or r.sigma > abs(r.cause.most - r.cause.least):
        return text
    close = f(2 * r.sigma)
    return f"{text}, ± {'next to nothing' if close == f(0.0) else close}"


def entry_words(k: StoredEntry, p: Proving) -> str:
    """An entry in a line."""
    e = k.entry
    if isinstance(e, Correction):
        conditions = (
            f"; instead {_reading_words(e.instead, p)}" if e.instead is not None else "; taken back"
        )
        return f"corrects entry {e.corrects}: {e.because.rstrip(chr(46))}{conditions}"
    if isinstance(e, Reading):
        return _reading_words(e, p)
    if isinstance(e, Pours):
        return f"{len(e.steps)} pours of {e.proof.partition(' ')[2]}, in {e.unit}s"
    if isinstance(e, Match):
        return f"injectors {', '.join(f'{x:g}' for x in e.flows)} {e.unit}: spread {number(100 * e.spread, 1)} %"
    if isinstance(e, RunEntry):
        return f"run “{e.name}”, {number(e.seconds)} s: {'likely ' if e.sure else ''}{' or '.join(e.named) or 'nothing found'}"
    if isinstance(e, Upkeep):
        return f"{by_name('upkeep').get(e.item, {'title': e.item})['title']} done on {day_words(e.day)}{f' at {e.hours:g} h' if e.hours is not None else ''}"
    if isinstance(e, SignOff):
        return f"signed: {e.name}, {e.role}"
    return f"note{f' on {e.proof}' if e.proof else ''}"


def _reading_words(e: Reading, p: Proving) -> str:
    row = p.row(e.proof)
    quantity = row.proof.quantity if row is not None else "count"
    title = f"T{row.proof.number} {title_of(row.proof)}" if row is not None else e.proof
    conditions_with = {
        "against": lambda x: shown(x, "pressure"),
        "volts": lambda x: f"{x:.1f} V",
        "celsius": lambda x: shown(x, "temperature"),
    }
    conditions = ", ".join(
        write(e.conditions[name]) for name, write in conditions_with.items() if name in e.conditions
    )
    return f"{title}: {shown_value(e.value, quantity)}{f' at {conditions}' if conditions else ''}{f', predicted {shown_value(e.predicted, quantity)}' if e.predicted is not None else ''}, {e.verdict}"


def findings_against(made: Design) -> list[Finding]:
    """Every Stop and Check of all stations, Stops first, as whoever signs must know them."""
    return [f for f in made.every_finding if f.level in AGAINST]


def reason_key(f: Finding) -> str:
    """The field of the sign-off that holds why a finding stays."""
    return f"reason {f.rule} {f.element_id}".strip()
