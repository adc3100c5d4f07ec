"""The rest of a loom beside what feeds the pumps: battery to bus, and the side that switches
relays: ignition, switches, control unit, coils, earth.
"""

import itertools
from dataclasses import dataclass
from functools import cache

from tall_heron.core.base.catalogue import house_figure, table
from tall_heron.core.document.wiring import Conductor, CutOff
from tall_heron.core.electrics.driver import PHASES, phase_mm
from tall_heron.core.electrics.feeds import conducting
from tall_heron.core.electrics.harness import Feed, Harness, Wire
from tall_heron.core.electrics.wire import carries, next_fuse, sizes

MAIN = "K0"  # the main contactor of a supply that a switch cannot break by itself
THIN = {"metric": "1 mm²", "AWG": "AWG 18"}  # of coils, strong enough to crimp and to hang
NEAR_MM = 300.0  # between what stands side by side
CHAIN_FUSE_A = 5.0


@dataclass(frozen=True)
class Lead:
    """A wire with the pins it joins, by DIN 72552, and its color: the builder's, or by rule."""

    wire: Wire
    start_pin: str
    end_pin: str
    color: str


def main_rating(harness: Harness) -> float | None:
    """What the main contactor must be rated that breaks the supply [A], where an inertia switch
    cannot do it by itself; None where none is needed.
    """
    cut, total = harness.wiring.cut_off, harness.together
    if not breaks_supply(cut) or total <= house_figure("inertia_a"):
        return None
    return next(
        (float(r["rated_a"]) for r in table("relays") if float(r["rated_a"]) >= total),
        float(table("relays")[-1]["rated_a"]),
    )


def breaks_supply(cut: CutOff) -> bool:
    """Whether a crash opens the supply itself, and not only the coils."""
    return cut.automatic and cut.breaks == "supply" and (cut.inertia or cut.roll_over)


def crash_switches(cut: CutOff) -> list[str]:
    """Switches that a crash opens."""
    return [
        name for name, there in (("inertia", cut.inertia), ("roll-over", cut.roll_over)) if there
    ]


def agreeing(cut: CutOff) -> list[str]:
    """What must be closed for the coils to get current, in their order from the bus."""
    crash = crash_switches(cut) if cut.breaks == "coil" else []
    rest = [
        name
        for name, there in (
            ("kill", cut.kill != "none"),
            ("level", cut.level),
            ("oil pressure", cut.oil_switch),
            ("control unit", cut.control_unit),
        )
        if there
    ]
    return ["ignition", *crash, *rest]


def main_fuse(harness: Harness) -> float | None:
    """The fuse at the battery [A]: over all that its pumps may draw together."""
    return next_fuse(house_figure("fuse_least") * harness.together)


def leads(harness: Harness) -> list[Lead]:
    """Every wire of a harness, thick ones and thin, with its pins."""
    out = [*_main(harness)]
    for contact in harness.relays.values():
        out.append(_lead(contact.supply, "30", "30"))
        if len(contact.pumps) > 1:
            out.append(
                _lead(
                    _thick(
                        harness,
                        f"{contact.relay.name}-87",
                        contact.relay.name,
                        "fuses",
                        contact.ampere,
                        contact.supply.size,
                    ),
                    "87",
                    "87",
                )
            )
    for f in harness.feeds.values():
        if not f.branch.relay:
            out.append(
                _lead(
                    _thick(
                        harness,
                        f"{f.pump}-0",
                        f"bus {f.branch.bus}",
                        switch_of(f.pump),
                        f.highest,
                        f.out.size,
                    ),
                    "30",
                    "30",
                )
            )
        out += [_lead(f.out, "87", "+"), _lead(f.back, "−", "31"), *_driven(harness, f)]
    out += [_lead(g.wire, "31", "31") for g in harness.grounds.values()]
    return out + _coils(harness)


def _driven(harness: Harness, f: Feed) -> list[Lead]:
    """From a controller to its brushless pump: three wires that carry its fuse, and what tells it
    how fast: the control unit where one holds the relays, else its own feed, which is full speed.
    """
    if f.driver is None:
        return []
    near, thick = Conductor(reach_mm=phase_mm()), _carrying(harness, f.fuse or f.highest)
    out = [
        Lead(
            conducting(
                harness.wiring, near, f"{f.pump}-{pin}", f.driver.name, f.pump, f.highest, thick
            ),
            pin,
            pin,
            color,
        )
        for pin, color in PHASES
    ]
    cut = harness.wiring.cut_off
    driven_by = "control unit" if cut.automatic and cut.control_unit else f.driver.name
    return [
        *out,
        Lead(
            _thin(
                harness,
                f"{f.pump}-s",
                driven_by,
                f.driver.name,
                0.0 if driven_by != f.driver.name else NEAR_MM,
            ),
            "speed" if driven_by != f.driver.name else "+",
            "speed",
            "",
        ),
    ]


def switch_of(pump: str) -> str:
    """The name of a pump's own switch."""
    return f"S{pump.lstrip('P')}"


def _main(harness: Harness) -> list[Lead]:
    """From the battery to each bus: straight, through what a crash opens, or through the main
    contactor.
    """
    out, cut, rated = [], harness.wiring.cut_off, main_rating(harness)
    for bus in harness.buses:
        total = sum(f.highest for f in harness.feeds.values() if f.branch.bus == bus)
        size = _carrying(harness, next_fuse(house_figure("fuse_least") * total) or total)
        through = [MAIN] if rated is not None else crash_switches(cut) if breaks_supply(cut) else []
        stops = ["battery", *through, f"bus {bus}"]
        pins = {MAIN: ("30", "87")}
        for i, (a, b) in enumerate(itertools.pairwise(stops), 1):
            wire = _thick(harness, f"B{bus}-{i}", a, b, total, size)
            out.append(_lead(wire, pins.get(a, ("", "30"))[1], pins.get(b, ("30", ""))[0]))
    return out


def _coils(harness: Harness) -> list[Lead]:
    """The side that switches: a chain from the bus through all that must agree to the coils, each
    coil to earth, and the main contactor's own.
    """
    relays, cut = list(harness.relays), harness.wiring.cut_off
    if not cut.automatic or not relays:
        return []
    stops = [f"bus {harness.buses[0]}", *agreeing(cut)]
    out = [
        _lead(
            _thin(harness, f"C{i}", a, b),
            "30" if i == 1 else "15",
            "30" if b == "ignition" else "15",
        )
        for i, (a, b) in enumerate(itertools.pairwise(stops), 1)
    ]
    last = stops[-1]
    for i, name in enumerate(relays):
        out.append(
            _lead(
                _thin(harness, f"{name}-86", last, name, 0.0 if not i else NEAR_MM),
                "15" if not i else "86",
                "86",
            )
        )
        out.append(_lead(_thin(harness, f"{name}-85", name, "ground", NEAR_MM), "85", "31"))
        last = name
    if cut.oil_switch and cut.start_bypass:
        out.append(_lead(_thin(harness, "C50", "starter", "oil pressure"), "50", "50"))
    if main_rating(harness) is not None:
        stops = ["ignition", *crash_switches(cut), MAIN]
        out += [
            _lead(_thin(harness, f"M{i}", a, b), "15", "86" if b == MAIN else "15")
            for i, (a, b) in enumerate(itertools.pairwise(stops), 1)
        ]
        out.append(_lead(_thin(harness, f"{MAIN}-85", MAIN, "ground", NEAR_MM), "85", "31"))
    return out


def _lead(wire: Wire, start_pin: str, end_pin: str) -> Lead:
    by = (
        "31"
        if end_pin == "31" and start_pin != "85"
        else end_pin
        if end_pin in ("86", "50")
        else start_pin
    )
    return Lead(wire, start_pin, end_pin, wire.color or _colors().get(by, ""))


@cache
def _colors() -> dict[str, str]:
    return {f"{r['pin']:g}": str(r["colour"]) for r in table("wire_colours")}


def _carrying(harness: Harness, ampere: float) -> str:
    w = harness.wiring
    return next(
        (
            s
            for s in sizes(w.sizes)
            if carries(s, w.ambient_c, w.together, w.insulation_c) >= ampere
        ),
        sizes(w.sizes)[-1],
    )


def _thick(harness: Harness, number: str, start: str, end: str, ampere: float, size: str) -> Wire:
    return conducting(harness.wiring, Conductor(reach_mm=NEAR_MM), number, start, end, ampere, size)


def _thin(harness: Harness, number: str, start: str, end: str, reach_mm: float = 0.0) -> Wire:
    far = reach_mm or house_figure("control_mm")
    return conducting(
        harness.wiring,
        Conductor(reach_mm=far),
        number,
        start,
        end,
        house_figure("coil_a") * max(len(harness.relays), 1),
        THIN[harness.wiring.sizes],
    )
