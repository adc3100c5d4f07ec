"""The loom sheet: every wire to cut with its pins and ends, what each connector holds, and what is
bought for it.
"""

import math
from collections import Counter
from dataclasses import dataclass

from tall_heron.core.base.catalogue import Row, by_name, house_figure, table
from tall_heron.core.electrics.control import (
    CHAIN_FUSE_A,
    MAIN,
    Lead,
    leads,
    main_fuse,
    main_rating,
    switch_of,
)
from tall_heron.core.electrics.feeds import relay_row
from tall_heron.core.electrics.harness import Harness, Wire, copper_kg
from tall_heron.core.electrics.wire import area_mm2

SLACK_MM = 150.0  # left on each wire for its ends, common practice
COILS = ("85", "86")
TOGGLES = (25.0, 50.0, 100.0)  # A, lamp ratings of guarded toggle switches, common practice
LABELS, SHEET = 2, 60  # a label at either end; on a sheet as they are sold, common practice


@dataclass(frozen=True)
class WireCut:
    """A wire to cut: what it is, its pins and color, how long with slack [mm], and what goes on
    either end, by its row of terminals.csv.
    """

    lead: Lead
    cut_mm: float
    start_end: str
    end_end: str

    @property
    def wire(self) -> Wire:
        """The wire itself."""
        return self.lead.wire

    @property
    def ends(self) -> tuple[Row, Row]:
        """The rows of its two terminals."""
        known = by_name("terminals")
        return known[self.start_end], known[self.end_end]


@dataclass(frozen=True)
class Part:
    """Something to buy for it: its key, title, how many or how much [mm], unit, and the price of
    one, or of a meter; None where the shelf has none.
    """

    key: str
    title: str
    quantity: float
    unit: str
    price: float | None
    needed: tuple[str, ...]
    mass_kg: float | None = None


@dataclass(frozen=True)
class Connector:
    """What is wired at one place: each pin with the numbers of its wires."""

    name: str
    pins: tuple[tuple[str, tuple[str, ...]], ...]


@dataclass(frozen=True)
class Loom:
    """Wires in the order of cutting, thick ones first; what each connector holds; what is bought."""

    cuts: tuple[WireCut, ...]
    connectors: tuple[Connector, ...]
    parts: tuple[Part, ...]

    @property
    def long_mm(self) -> float:
        """All wire together [mm]."""
        return sum(c.cut_mm for c in self.cuts)


def terminal_for(sort: str, size: str) -> str:
    """Which terminal of a sort takes a wire: blade, wide blade or ring lug by their range of
    copper; a ring lug where no blade is made for so much.
    """
    mine = next(
        (
            r
            for r in table("terminals")
            if r["sort"] == sort and area_mm2(size) <= r["to_mm2"] + 1e-9
        ),
        None,
    )
    if mine is None and sort != "lug":
        return terminal_for("lug", size)
    return str(mine["name"]) if mine is not None else str(table("terminals")[-1]["name"])


def _end(harness: Harness, place: str, pin: str, size: str) -> str:
    """What goes on a wire's end: by the relay's body there, blades in switches and on pumps, lugs
    elsewhere.
    """
    if place in harness.relays or place == MAIN:
        rated = (
            harness.relays[place].rated if place in harness.relays else main_rating(harness) or 0.0
        )
        ends = "blade" if pin in COILS else str(relay_row(rated)["ends"])
        return terminal_for("lug" if ends == "stud" else ends, size)
    driven = next(
        (f for f in harness.feeds.values() if f.driver is not None and f.driver.name == place), None
    )
    if driven is not None and driven.driver is not None:
        return terminal_for("blade" if pin == "speed" else driven.driver.ends, size)
    if place in harness.feeds:
        return terminal_for(harness.feeds[place].terminals, size)
    bolted = place in harness.grounds or place.startswith(("bus", "battery", "ground", "fuses"))
    return terminal_for("lug" if bolted else "blade", size)


def make_loom(harness: Harness) -> Loom:
    """The sheet of a harness."""
    cuts = []
    for lead in sorted(leads(harness), key=lambda x: (-area_mm2(x.wire.size), x.wire.number)):
        w = lead.wire
        cuts.append(
            WireCut(
                lead,
                w.long_mm + SLACK_MM,
                _end(harness, w.start, lead.start_pin, w.size),
                _end(harness, w.end, lead.end_pin, w.size),
            )
        )
    return Loom(tuple(cuts), tuple(_connectors(cuts)), tuple(_parts(harness, cuts)))


def _connectors(cuts: list[WireCut]) -> list[Connector]:
    wires: dict[str, dict[str, list[str]]] = {}
    for c in cuts:
        for place, pin in ((c.wire.start, c.lead.start_pin), (c.wire.end, c.lead.end_pin)):
            wires.setdefault(place, {}).setdefault(pin, []).append(c.wire.number)
    return [
        Connector(name, tuple((pin, tuple(numbers)) for pin, numbers in sorted(pins.items())))
        for name, pins in sorted(wires.items())
    ]


def _parts(harness: Harness, cuts: list[WireCut]) -> list[Part]:
    out, titles = [], by_name("terminals")
    for size in dict.fromkeys(c.wire.size for c in cuts):
        mine = [c for c in cuts if c.wire.size == size]
        row = by_name("wires", "size")[size]
        out.append(
            Part(
                f"wire {size}",
                f"wire {size}",
                sum(c.cut_mm for c in mine),
                "mm",
                row["price_m"],
                tuple(c.wire.number for c in mine),
                sum(copper_kg(c.wire) for c in mine),
            )
        )
    ends = Counter(e for c in cuts for e in (c.start_end, c.end_end))
    for name, count in ends.items():
        out.append(
            Part(name, str(titles[name]["title"]), count, "piece", titles[name]["price"], ())
        )
    lugs = sum(count for name, count in ends.items() if titles[name]["sort"] == "lug")
    out.append(
        Part(
            "heat-shrink",
            "heat-shrink with glue, for lugs",
            lugs * house_figure("shrink_mm"),
            "mm",
            house_figure("shrink_price"),
            (),
        )
    )
    out.append(
        Part(
            "wire labels",
            f"wire labels, a sheet of {SHEET}",
            math.ceil(LABELS * len(cuts) / SHEET),
            "piece",
            house_figure("label_price"),
            (),
        )
    )
    return [*out, *_fuses(harness), *_relays(harness), *_drivers(harness), *_switches(harness)]


def _fuses(harness: Harness) -> list[Part]:
    fuses = [f.fuse for f in harness.feeds.values()] + [
        c.fuse for c in harness.relays.values() if len(c.pumps) > 1
    ]
    fuses += [main_fuse(harness)] + [CHAIN_FUSE_A] * bool(
        harness.relays and harness.wiring.cut_off.automatic
    )
    prices = {float(r["ampere"]): float(r["price"]) for r in table("fuses")}
    return [
        Part(f"fuse {a:g}", f"fuse {a:g} A with holder", n, "piece", prices.get(a), ())
        for a, n in Counter(x for x in fuses if x is not None).items()
    ]


def _relays(harness: Harness) -> list[Part]:
    named = [(c.rated, c.relay.name) for c in harness.relays.values()]
    if (rated := main_rating(harness)) is not None:
        named.append((rated, MAIN))
    out = []
    for rating in dict.fromkeys(a for a, _ in named):
        row, names = relay_row(rating), tuple(n for a, n in named if a == rating)
        known = float(row["rated_a"]) == rating
        title = str(row["title"]) if known else f"relay, {rating:g} A at a motor, coil suppressed"
        out.append(Part(f"relay {rating:g}", title, len(names), "piece", row["price"], names))
        if row["ends"] != "stud":
            out.append(
                Part(
                    f"socket {row['ends']}",
                    f"relay socket for {'9.5' if row['ends'] == 'wide blade' else '6.3'} mm blades, sealed",
                    len(names),
                    "piece",
                    house_figure("socket_price"),
                    names,
                )
            )
    return out


def _drivers(harness: Harness) -> list[Part]:
    return [
        Part(
            f"pump controller {d.rated:g}{f' of {f.pump}' if d.with_pump else ''}",
            d.title,
            1,
            "piece",
            d.price,
            (f.pump, d.name),
        )
        for f in harness.feeds.values()
        if (d := f.driver) is not None
    ]


def _switches(harness: Harness) -> list[Part]:
    out, cut, share = [], harness.wiring.cut_off, house_figure("switch_share")
    for pump, f in harness.feeds.items():
        if not f.branch.relay:
            rated = next((a for a in TOGGLES if a * share >= f.highest), TOGGLES[-1])
            title = f"toggle switch with guard, {rated:g} A lamps, {rated * share:g} A at a motor"
            out.append(
                Part(
                    f"pump switch {rated:g}",
                    title,
                    1,
                    "piece",
                    house_figure("switch_price"),
                    (switch_of(pump),),
                )
            )
    if cut.automatic and cut.inertia:
        out.append(
            Part(
                "inertia switch",
                "inertia switch, reset by hand",
                1,
                "piece",
                house_figure("inertia_price"),
                (),
            )
        )
    if cut.automatic and cut.oil_switch:
        out.append(
            Part(
                "oil switch",
                "oil-pressure switch, 1/8 NPT",
                1,
                "piece",
                house_figure("oil_switch_price"),
                (),
            )
        )
    return out
