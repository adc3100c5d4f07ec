"""Entries of a build's log, as they are kept: each holds the hash of the one before, so that none
can be changed or left out unseen. A correction is an entry that names what it corrects.
"""

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, TypeAdapter, model_validator

from tall_heron.core.document.record import Record

Text = Annotated[str, Field(max_length=2000)]
Short = Annotated[str, Field(max_length=120)]
Sha = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
Si = Annotated[float, Field(ge=-1e12, le=1e12)]
MOST_FILES = 20


class File(Record):
    """A file beside an entry: its name, the hash of what it holds, what it is and how long."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    sha256: Sha
    media: Annotated[str, Field(max_length=60)]
    size: Annotated[int, Field(ge=1, le=200_000_000)]


class _Entry(Record):
    """What every entry has. Some fields stand in older records under other names, which their
    hashes hold for ever: these are their aliases.
    """

    model_config = ConfigDict(populate_by_name=True)

    by: Short = ""
    note: Text = ""
    files: Annotated[list[File], Field(max_length=MOST_FILES)] = Field(default_factory=list)


class Reading(_Entry):
    """What was read in a test: its `value` in SI, what was told with it in SI (`told`), both as
    they were typed, the instrument and how far it may be off [SI, all of it], and what the model
    said
    then: the reading it predicted, how far that may be off, and the verdict.
    """

    kind: Literal["reading"] = "reading"
    proof: Short
    value: Si
    conditions: dict[Short, Si] = Field(default_factory=dict, alias="told")
    typed: dict[Short, Short] = Field(default_factory=dict)
    instrument: Short = ""
    doubt: Annotated[float, Field(ge=0, le=1e12)] = 0.0
    predicted: Si | None = Field(default=None, alias="said")
    band: Si | None = None
    verdict: Short = ""
    build: Sha | Literal[""] = ""


class Pours(_Entry):
    """A level sender, poured full in steps: how much is in the tank [m3] and what it reads, ohms or
    volts.
    """

    kind: Literal["pours"] = "pours"
    proof: Short
    unit: Literal["ohm", "volt"] = "ohm"
    steps: Annotated[
        list[tuple[Annotated[float, Field(ge=0, le=100)], Annotated[float, Field(ge=0, le=1e7)]]],
        Field(min_length=1, max_length=200),
    ]
    unusable: Annotated[float, Field(ge=0, le=100)] = 0.0
    typed: Annotated[str, Field(max_length=8000)] = ""


class Match(_Entry):
    """What each injector gave, in order of the cylinders, in any one unit."""

    kind: Literal["match"] = "match"
    proof: Short = "match"
    flows: Annotated[
        list[Annotated[float, Field(gt=0, le=1e9)]], Field(min_length=2, max_length=48)
    ]
    unit: Short = ""

    @property
    def spread(self) -> float:
        """How much the least gives under their mean [-]."""
        mean = sum(self.flows) / len(self.flows)
        return 1 - min(self.flows) / mean


class RunEntry(_Entry):
    """A logger's run: the file by its hash, how its columns were read by their headers, and what
    the replay found then.
    """

    kind: Literal["run"] = "run"
    proof: Short = "run"
    name: Short
    columns: dict[Annotated[str, Field(max_length=200)], tuple[Short, Short, Short]] = Field(
        default_factory=dict
    )
    named: Annotated[list[Short], Field(max_length=10)] = Field(default_factory=list, alias="found")
    sure: bool = False
    seconds: Annotated[float, Field(ge=0, le=1e8)] = 0.0


class Note(_Entry):
    """Something to remember; of a test, where it names one."""

    kind: Literal["note"] = "note"
    proof: Short = ""


class Correction(_Entry):
    """What an entry said was not so: another reading in its place, or none."""

    kind: Literal["correction"] = "correction"
    corrects: Annotated[int, Field(ge=1, le=1_000_000)]
    because: Annotated[str, Field(min_length=3, max_length=400)]
    instead: Reading | None = None


class Upkeep(_Entry):
    """A piece of upkeep that was done: which, on which day (days from 1 January of the year 1), at
    how many hours of the engine where somebody counts.
    """

    kind: Literal["upkeep"] = "upkeep"
    item: Short
    day: Annotated[int, Field(ge=1, le=4_000_000)]
    hours: Annotated[float, Field(ge=0, le=1e6)] | None = None


class SignOff(_Entry):
    """Somebody's name under it all: the hashes of the build, of its solution and of the last entry
    before; the tests that stand in the way, and the findings that stay with their reasons.
    """

    kind: Literal["sign-off"] = "sign-off"
    name: Annotated[str, Field(min_length=2, max_length=80)]
    role: Literal["built by", "checked by"] = "built by"
    build: Sha
    solution: Sha
    last: Sha | Literal[""]
    standing: Annotated[list[Annotated[str, Field(max_length=800)]], Field(max_length=300)] = Field(
        default_factory=list
    )
    findings: (
        Annotated[list[Annotated[str, Field(max_length=800)]], Field(max_length=300)] | None
    ) = Field(default=None, description="of older entries they stand among `standing`")

    @model_validator(mode="after")
    def _named(self) -> "SignOff":
        if not self.name.strip():
            raise ValueError("name: write the name of whoever signs")
        return self


AnyEntry = Reading | Pours | Match | RunEntry | Note | Correction | Upkeep | SignOff
ADAPTER: TypeAdapter[AnyEntry] = TypeAdapter(Annotated[AnyEntry, Field(discriminator="kind")])


@dataclass(frozen=True)
class StoredEntry:
    """An entry in its log: its number from 1, when it was kept (UTC), what it holds, its text, the
    hash of the one before (empty for the first) and its own.
    """

    number: int
    at: str
    entry: AnyEntry
    text: str
    before: str
    sha256: str


class BrokenLog(ValueError):
    """A log in which something was changed, left out or put in."""


def entry_text(entry: AnyEntry) -> str:
    """An entry as it is kept: JSON with its names in order and nothing between."""
    return json.dumps(
        entry.model_dump(mode="json", by_alias=True),
        sort_keys=True,
        separators=(",", ":"),
        ensure_ascii=False,
    )


def entry_hash(before: str, number: int, at: str, text: str) -> str:
    """The hash of an entry: SHA-256 of the hash before, its number, its time and its text, each on
    a line.

    >>> entry_hash("", 1, "2026-01-01T00:00:00+00:00", "{}")[:12]
    '13780c0dc2fa'
    """
    return hashlib.sha256(
        "\n".join((before, str(number), at, text)).encode("utf-8", "surrogatepass")
    ).hexdigest()


def read_entry(number: int, at: str, text: str, before: str, sha256: str) -> StoredEntry:
    """An entry from what is kept. Raises BrokenLog."""
    if entry_hash(before, number, at, text) != sha256:
        raise BrokenLog(f"entry {number} is not what was kept: its hash has another value")
    try:
        return StoredEntry(number, at, ADAPTER.validate_json(text), text, before, sha256)
    except ValueError:
        raise BrokenLog(f"entry {number} holds something that is no entry") from None


def check_chain(entries: Sequence[StoredEntry]) -> None:
    """That entries follow on one another from the first. Raises BrokenLog."""
    before = ""
    for i, k in enumerate(entries, start=1):
        if k.number != i:
            raise BrokenLog(f"entry {i} is missing")
        if k.before != before:
            raise BrokenLog(f"entry {i} does not follow on the one before it")
        before = k.sha256


def digest(text: str) -> str:
    """SHA-256 of a text."""
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()


def record_file(
    title: str, entries: Sequence[StoredEntry], frozen: Sequence[str]
) -> dict[str, Any]:
    """A record that anybody can verify alone: the log with its hashes, and what was `frozen` under
    it: builds and solutions that were signed, by their hash (docs/prove.md has the twenty
    lines that do).
    """
    return {
        "format": "tall-heron-record/1",
        "title": title,
        "frozen": {digest(text): text for text in frozen},
        "entries": [
            {"number": k.number, "at": k.at, "text": k.text, "before": k.before, "sha256": k.sha256}
            for k in entries
        ],
    }
