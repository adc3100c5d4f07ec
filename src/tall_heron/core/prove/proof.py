"""What one test of a build is."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import Row, by_name, house_figure
from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.prove.predict import Setup
from tall_heron.core.study.study import Study


@dataclass(frozen=True)
class ProofLimit:
    """What is allowed, in SI: at least, at most, in words why."""

    least: float | None
    most: float | None
    why: str


@dataclass(frozen=True)
class Proof:
    """One test: its `key` within a build, its number, the row of proofs.csv it follows, the part it
    is of, its title, how the build stands (None: nothing is solved for it), what is `said` where
    that does not come from a setup, and what is allowed. `x` is the pressure in its title [Pa].
    """

    key: str
    number: int
    row: Row
    part: str
    title: str
    setup: Setup | None = None
    predicted: float | None = None
    limit: ProofLimit | None = None
    x: float | None = None
    optional: bool = False

    @property
    def name(self) -> str:
        """Its row's name."""
        return str(self.row["name"])

    @property
    def quantity(self) -> str:
        """What is read."""
        return str(self.row["quantity"])

    @property
    def asks(self) -> tuple[str, ...]:
        """What else is told with a reading: against, volts, source (volts at the battery), celsius,
        applied; of an aircraft's flow how far its nose is up.
        """
        asks = str(self.row["asks"] or "").split()
        return tuple(asks if self.setup is None or self.setup.pitch is None else [*asks, "pitch"])

    def at(self, conditions: Mapping[str, float]) -> "Proof":
        """The same at what was told with a reading, in SI."""
        if self.setup is None:
            return self
        s = self.setup
        if "against" in conditions:
            s = replace(s, against=conditions["against"])
        if "volts" in conditions:
            s = replace(s, volts=conditions["volts"], at_pump=True)
        if "source" in conditions:
            s = replace(s, volts=conditions["source"], at_pump=False)
        if "celsius" in conditions:
            s = replace(s, kelvin=conditions["celsius"])
        if "pitch" in conditions:
            s = replace(s, pitch=conditions["pitch"])
        if "applied" in conditions:
            s = replace(s, manifold=conditions["applied"])
        return replace(self, setup=s)


def make_proof(
    name: str,
    part: str = "",
    *,
    key: str = "",
    setup: Setup | None = None,
    predicted: float | None = None,
    limit: ProofLimit | None = None,
    x: float | None = None,
    optional: bool = False,
) -> Proof:
    """A test by the row of proofs.csv it follows, without a number yet."""
    row = by_name("proofs")[name]
    return Proof(
        key or f"{name} {part}".strip(),
        0,
        row,
        part,
        str(row["title"]).replace("{part}", part),
        setup,
        predicted,
        limit,
        x,
        optional,
    )


COLD = 20 + CELSIUS


def volts_at_pumps(study: Study) -> float:
    """What pumps get with the engine off, the loss of their wires assumed [V]."""
    return study.brief.voltage_v - house_figure("voltage_wiring_loss")


def by_allow(name: str) -> float:
    """What a row of proofs.csv allows."""
    return float(by_name("proofs")[name]["allow"])
