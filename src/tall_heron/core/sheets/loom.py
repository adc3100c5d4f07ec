"""The loom sheet: every wire to cut with its ends, and what is bought for it."""

from collections import Counter
from dataclasses import dataclass

from tall_heron.core.base.catalogue import by_name, house_figure, table
from tall_heron.core.electrics.feeds import Harness, Wire, copper_kg
from tall_heron.core.electrics.wire import area_mm2

SLACK_MM = 150.0  # left on each wire for its ends, common practice


@dataclass(frozen=True)
class Cut:
    """A wire to cut: what it is, how long with slack [mm], and what goes on either end."""

    wire: Wire
    cut_mm: float
    start_end: str
    end_end: str


@dataclass(frozen=True)
class Part:
    """Something to buy for it: its key, title, how many or how much [mm], unit, and the price of one, or of a metre; None where the shelf has none."""

    key: str
    title: str
    quantity: float
    unit: str
    price: float | None
    needed: tuple[str, ...]
    mass_kg: float | None = None


@dataclass(frozen=True)
class Loom:
    """Wires in the order of cutting, thick ones first, and what is bought."""

    cuts: tuple[Cut, ...]
    parts: tuple[Part, ...]

    @property
    def long_mm(self) -> float:
        """All wire together [mm]."""
        return sum(c.cut_mm for c in self.cuts)


def lug_for(size: str) -> str:
    """Which terminal takes a wire: ring lugs by their range of copper."""
    row = next((r for r in table("terminals") if r["sort"] == "lug" and area_mm2(size) <= r["to_mm2"] + 1e-9), None)
    return str(row["name"]) if row is not None else "lug-35"


def terminal_for(size: str) -> str:
    """Which blade terminal takes a wire."""
    row = next((r for r in table("terminals") if r["sort"] == "blade" and area_mm2(size) <= r["to_mm2"] + 1e-9), None)
    return str(row["name"]) if row is not None else lug_for(size)


def make_loom(harness: Harness) -> Loom:
    """The sheet of a harness."""
    cuts = []
    for wire in sorted(harness.wires, key=lambda w: (-area_mm2(w.size), w.number)):
        at_relay = wire.start in harness.relays
        start = terminal_for(wire.size) if at_relay or wire.start in harness.feeds else lug_for(wire.size)
        end = lug_for(wire.size) if wire.end == "earth" else terminal_for(wire.size)
        cuts.append(Cut(wire, wire.long_mm + SLACK_MM, start, end))
    return Loom(tuple(cuts), tuple(_parts(harness, cuts)))


def _parts(harness: Harness, cuts: list[Cut]) -> list[Part]:
    out, titles = [], by_name("terminals")
    for size in dict.fromkeys(c.wire.size for c in cuts):
        mine = [c for c in cuts if c.wire.size == size]
        row = by_name("wires", "size")[size]
        out.append(Part(f"wire {size}", f"wire {size}", sum(c.cut_mm for c in mine), "mm", row["price_m"], tuple(c.wire.number for c in mine), sum(copper_kg(c.wire) for c in mine)))
    ends = Counter(e for c in cuts for e in (c.start_end, c.end_end))
    for name, count in ends.items():
        out.append(Part(name, str(titles[name]["title"]), count, "piece", titles[name]["price"], ()))
    fuses = [f.fuse for f in harness.feeds.values()] + [c.fuse for c in harness.relays.values() if len(c.pumps) > 1]
    prices = {float(r["ampere"]): float(r["price"]) for r in table("fuses")}
    for ampere, count in Counter(x for x in fuses if x is not None).items():
        out.append(Part(f"fuse {ampere:g}", f"fuse {ampere:g} A with holder", count, "piece", prices.get(ampere), ()))
    for rated, count in Counter(c.relay.contact_a for c in harness.relays.values()).items():
        named = tuple(c.relay.name for c in harness.relays.values() if c.relay.contact_a == rated)
        out.append(Part(f"relay {rated:g}", f"relay, {rated:g} A at a motor, coil suppressed", count, "piece", house_figure("relay_price"), named))
    switches = [p for p, f in harness.feeds.items() if not f.branch.relay]
    if switches:
        out.append(Part("pump switch", "toggle switch with guard, 25 A", len(switches), "piece", house_figure("switch_price"), tuple(switches)))
    if harness.wiring.cut_off.automatic and harness.wiring.cut_off.inertia:
        out.append(Part("inertia switch", "inertia switch, reset by hand", 1, "piece", house_figure("inertia_price"), ()))
    if harness.wiring.cut_off.automatic and harness.wiring.cut_off.oil_switch:
        out.append(Part("oil switch", "oil-pressure switch, 1/8 NPT", 1, "piece", house_figure("oil_switch_price"), ()))
    return out

