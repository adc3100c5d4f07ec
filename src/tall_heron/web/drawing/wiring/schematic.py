"""The schematic: source on the left, a row a pump, earth on the right. Coils stand apart from their
contacts and carry their name (IEC 61082, detached), so that no line crosses another.
"""

from dataclasses import dataclass, field
from typing import Protocol

from tall_heron.core.document.wiring import CutOff
from tall_heron.core.electrics.control import (
    CHAIN_FUSE_A,
    MAIN,
    agreeing,
    breaks_supply,
    crash_switches,
    main_fuse,
    main_rating,
    switch_of,
)
from tall_heron.core.electrics.driver import PHASES, Driver
from tall_heron.core.electrics.harness import Feed, Harness, Wire

BUS_X, FUSE_X, SWITCH_X, PUMP_X, EARTH_X, WIDE = 70.0, 150.0, 262.0, 640.0, 880.0, 920.0
DRIVER_X, LOW = (
    530.0,
    60.0,
)  # a brushless pump's controller, and how far under its row its earth runs
GROUND_X, GROUND_DOWN = 850.0, 38.0  # where wires meet that are grounded together, and how far
# under the last of them their own wire goes on
SPLIT_X = 340.0  # where one relay's contact is parted to its pumps
SPLIT_COIL_X, COIL_X = 680.0, 770.0
TOP, ROW, COIL_ROW, BETWEEN = 112.0, 124.0, 52.0, 60.0
LIFT = 48.0  # a second switch in the supply
OPENS = ("inertia", "roll-over", "kill", "level")  # contacts that are closed at rest


@dataclass(frozen=True)
class WireLine:
    """A wire on the drawing, along its corners; `number` of the wire that it shows, `soft` for what
    only carries a coil's current.
    """

    points: tuple[tuple[float, float], ...]
    number: str = ""
    soft: bool = False


@dataclass(frozen=True)
class WiringSymbol:
    """A symbol by its name in the template, where its middle is, its label and a second line of
    text; `part` is the pump it stands for, `earthed` its other side.
    """

    kind: str
    x: float
    y: float
    label: str = ""
    more: str = ""
    part: str = ""


@dataclass(frozen=True)
class Text:
    """Words beside something."""

    x: float
    y: float
    words: str
    anchor: str = "middle"
    bold: bool = False


@dataclass
class Schematic:
    """Everything drawn, and how high it is."""

    high: float = 0.0
    lines: list[WireLine] = field(default_factory=list)
    symbols: list[WiringSymbol] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)


def ordered(harness: Harness) -> list[Feed]:
    """Pumps by bus, those behind one relay together, then those on one ground point."""
    names, points = list(harness.relays), list(harness.grounds)
    return sorted(
        harness.feeds.values(),
        key=lambda f: (
            f.branch.bus,
            names.index(f.branch.relay)
            if f.branch.relay in names and len(harness.relays[f.branch.relay].pumps) > 1
            else -1,
            points.index(f.branch.ground) if f.branch.ground in points else -1,
            names.index(f.branch.relay) if f.branch.relay in names else -1,
        ),
    )


def draw_schematic(harness: Harness, words: "Words") -> Schematic:
    """The drawing of a harness; `words` says the figures in the reader's units."""
    out = Schematic()
    cut, lift = harness.wiring.cut_off, LIFT * max(len(_stops(harness)) - 1, 0)
    y = TOP + lift
    relays = list(harness.relays) if cut.automatic else []
    buses = list(dict.fromkeys(f.branch.bus for f in ordered(harness)))
    for bus in buses:
        feeds = [f for f in ordered(harness) if f.branch.bus == bus]
        first = last = y
        done: set[str] = set()
        for f in feeds:
            relay = harness.relays.get(f.branch.relay)
            if relay is None or len(relay.pumps) == 1:
                _row(
                    out,
                    f,
                    y,
                    words,
                    relay is not None,
                    relay.relay.terminal_87a if relay is not None else "not there",
                )
            elif f.branch.relay not in done:
                done.add(f.branch.relay)
                _shared(
                    out, [x for x in feeds if x.branch.relay == f.branch.relay], harness, y, words
                )
            last, y = y, y + ROW
        if relays and bus == buses[0]:
            last = y
            y = _coils(out, relays, last, cut, main_rating(harness) is not None) + ROW
        _source(out, bus, first, last, words, harness)
        y += BETWEEN + lift
    _grounds(out, harness, words)
    bottom = y - BETWEEN - lift - ROW + 20
    out.lines.append(WireLine(((EARTH_X, TOP - 20), (EARTH_X, bottom + 40))))
    out.symbols.append(WiringSymbol("earth", EARTH_X, bottom + 40))
    out.high = bottom + 84
    return out


class Words(Protocol):
    """How figures are said."""

    def wire(self, wire: Wire) -> str:
        """A wire: number and size."""

    def long(self, wire: Wire) -> str:
        """Its length and color."""

    def pump(self, pump: str) -> str:
        """What the pump gets and draws."""

    def fuse(self, ampere: float | None) -> str:
        """A fuse's label."""

    def source(self) -> str:
        """The source's voltage."""


def _grounds(out: Schematic, harness: Harness, words: Words) -> None:
    """Where wires back meet at one ground point, and its own wire on."""
    for ground in harness.grounds.values():
        back = {f.back.number for f in harness.feeds.values() if f.pump in ground.pumps}
        meet = []
        for i, line in enumerate(out.lines):
            if line.number in back:
                *way, (_, y) = line.points
                out.lines[i] = WireLine((*way, (GROUND_X, y)), line.number)
                meet.append(y)
        low, high = min(meet), max(meet)
        on = high + GROUND_DOWN
        out.lines += [
            WireLine(((GROUND_X, low), (GROUND_X, on))),
            WireLine(((GROUND_X, on), (EARTH_X, on)), ground.wire.number),
        ]
        out.texts += [
            Text(GROUND_X - 8, on, ground.point.name, "end", True),
            Text(GROUND_X - 8, on + 17, words.wire(ground.wire), "end"),
        ]


def _terminals(at_rest: str, y: float) -> list[Text]:
    """What a relay's contact is numbered, and what is on the terminal that is live at rest."""
    texts = [Text(SWITCH_X - 30, y + 20, "30"), Text(SWITCH_X + 32, y + 20, "87")]
    return texts if at_rest == "not there" else [*texts, Text(SWITCH_X, y + 40, f"87a {at_rest}")]


def _row(
    out: Schematic, f: Feed, y: float, words: Words, relay: bool, at_rest: str = "not there"
) -> None:
    """One pump: bus, fuse, contact or switch, wire, motor, wire, earth."""
    out.lines += [
        WireLine(((BUS_X, y), (FUSE_X - 20, y))),
        WireLine(
            ((FUSE_X + 20, y), (SWITCH_X - 22, y)),
            f"{f.branch.relay}-30" if relay else f"{f.pump}-0",
        ),
    ]
    out.symbols.append(WiringSymbol("fuse", FUSE_X, y, words.fuse(f.fuse), "", f.pump))
    out.symbols.append(
        WiringSymbol("contact", SWITCH_X, y, f.branch.relay or switch_of(f.pump), "", f.pump)
    )
    if relay:
        out.texts += _terminals(at_rest, y)
    _from_contact(out, f, SWITCH_X + 22, y, words)


def _from_contact(out: Schematic, f: Feed, x: float, y: float, words: Words) -> None:
    ends = DRIVER_X - 24 if f.driver is not None else PUMP_X - 26
    out.lines.append(WireLine(((x, y), (ends, y)), f.out.number))
    if f.driver is None:
        out.lines.append(WireLine(((PUMP_X + 26, y), (EARTH_X, y)), f.back.number))
    else:
        _driver(out, f, f.driver, y)
    middle = (max(x, SPLIT_X if x > SWITCH_X + 30 else x) + ends) / 2
    out.texts += [Text(middle, y - 10, words.wire(f.out)), Text(middle, y + 22, words.long(f.out))]
    back = (PUMP_X + 26 + EARTH_X) / 2
    down = LOW if f.driver is not None else 0.0
    out.texts += [
        Text(back, y + down - 10, words.wire(f.back)),
        Text(back, y + down + 22, words.long(f.back)),
    ]
    out.symbols.append(WiringSymbol("motor", PUMP_X, y, f.pump, words.pump(f.pump), f.pump))


def _driver(out: Schematic, f: Feed, driver: Driver, y: float) -> None:
    """A brushless pump's controller: three wires to its motor, one that tells it how fast, its
    earth under the motor.
    """
    for i, (pin, _) in enumerate(PHASES):
        here = y + (i - 1) * 9
        out.lines.append(
            WireLine(
                ((DRIVER_X + 24, here), (PUMP_X - (26 if i == 1 else 24), here)), f"{f.pump}-{pin}"
            )
        )
    out.lines.append(
        WireLine(((DRIVER_X, y + 22), (DRIVER_X, y + LOW), (EARTH_X, y + LOW)), f.back.number)
    )
    out.lines.append(
        WireLine(
            ((DRIVER_X - 34, y - 36), (DRIVER_X, y - 36), (DRIVER_X, y - 22)),
            f"{f.pump}-s",
            soft=True,
        )
    )
    out.texts += [
        Text(DRIVER_X - 38, y - 32, f"{f.pump}-s", "end"),
        Text(DRIVER_X + 6, y + 38, f"{driver.rated:g} A", "start"),
        Text((DRIVER_X + PUMP_X) / 2, y - 16, "u v w"),
    ]
    out.symbols.append(WiringSymbol("driver", DRIVER_X, y, driver.name, "", f.pump))


def _shared(out: Schematic, feeds: list[Feed], harness: Harness, y: float, words: Words) -> None:
    """Several pumps behind one relay: its fuse and contact once, then a fuse for each."""
    contact = harness.relays[feeds[0].branch.relay]
    out.lines += [
        WireLine(((BUS_X, y), (FUSE_X - 20, y))),
        WireLine(((FUSE_X + 20, y), (SWITCH_X - 22, y)), contact.supply.number),
        WireLine(((SWITCH_X + 22, y), (SPLIT_X, y)), f"{contact.relay.name}-87"),
    ]
    out.symbols += [
        WiringSymbol("fuse", FUSE_X, y, words.fuse(contact.fuse), "", feeds[0].pump),
        WiringSymbol("contact", SWITCH_X, y, contact.relay.name, "", feeds[0].pump),
    ]
    out.texts += _terminals(contact.relay.terminal_87a, y)
    for k, f in enumerate(feeds):
        here = y + k * ROW
        out.lines.append(WireLine(((SPLIT_X, here), (SPLIT_X + 16, here))))
        out.symbols.append(WiringSymbol("fuse", SPLIT_X + 36, here, words.fuse(f.fuse), "", f.pump))
        _from_contact(out, f, SPLIT_X + 56, here, words)
    out.lines.append(WireLine(((SPLIT_X, y), (SPLIT_X, y + (len(feeds) - 1) * ROW))))


def _source(
    out: Schematic, bus: str, first: float, last: float, words: Words, harness: Harness
) -> None:
    """Battery and alternator at the head of a bus, with what breaks the supply."""
    stops = _stops(harness)
    top = first - LIFT * max(len(stops) - 1, 0)
    out.symbols.append(
        WiringSymbol(
            "source",
            BUS_X,
            top - 68,
            f"bus {bus}",
            f"{words.source()}, main fuse {words.fuse(main_fuse(harness))}",
        )
    )
    y = top - 58
    for i, stop in enumerate(stops, 1):
        at = top - 30 + LIFT * (i - 1)
        out.lines.append(WireLine(((BUS_X, y), (BUS_X, at - 16)), f"B{bus}-{i}"))
        out.symbols.append(WiringSymbol("break up", BUS_X, at, stop))
        y = at + 16
    out.lines.append(WireLine(((BUS_X, y), (BUS_X, last)), f"B{bus}-{len(stops) + 1}"))


def _stops(harness: Harness) -> list[str]:
    """What breaks the supply, from the battery on."""
    if not breaks_supply(harness.wiring.cut_off):
        return []
    return [MAIN] if main_rating(harness) is not None else crash_switches(harness.wiring.cut_off)


def _numbered(out: Schematic, number: str, x: float, other: float, y: float) -> None:
    """A thin wire with its number under it, the first of the chain with its fuse."""
    out.lines.append(WireLine(((x, y), (other, y)), number, soft=True))
    out.texts.append(
        Text((x + other) / 2, y + 17, f"{number}, {CHAIN_FUSE_A:g} A" if number == "C1" else number)
    )


def _coils(out: Schematic, relays: list[str], y: float, cut: CutOff, main: bool) -> float:
    """What switches the coils, from the bus through all that must agree; then the coils one under
    another, the main contactor's last. Gives back how far down it reaches.
    """
    agree = agreeing(cut)
    step = (SPLIT_COIL_X - BUS_X) / (len(agree) + 1)
    x = BUS_X
    for i, name in enumerate(agree):
        at = BUS_X + (i + 1) * step
        _numbered(out, f"C{i + 1}", x, at - 22, y)
        out.symbols.append(WiringSymbol("break" if name in OPENS else "contact", at, y, name))
        if name == "oil pressure" and cut.start_bypass:
            out.lines += [
                WireLine(((at - 36, y), (at - 36, y + 40), (at - 22, y + 40)), soft=True),
                WireLine(((at + 22, y + 40), (at + 36, y + 40), (at + 36, y)), "C50", soft=True),
            ]
            out.symbols.append(WiringSymbol("contact", at, y + 40, "starter"))
        x = at + 22
    out.lines.append(WireLine(((x, y), (SPLIT_COIL_X, y)), soft=True))
    for i, name in enumerate(relays):
        here = y + i * COIL_ROW
        out.symbols.append(WiringSymbol("coil", COIL_X, here, name))
        out.lines += [
            WireLine(((SPLIT_COIL_X, here), (COIL_X - 22, here)), f"{name}-86", soft=True),
            WireLine(((COIL_X + 22, here), (EARTH_X, here)), f"{name}-85", soft=True),
        ]
        out.texts += [
            Text((SPLIT_COIL_X + COIL_X - 22) / 2, here - 6, f"{name}-86"),
            Text((COIL_X + 22 + EARTH_X) / 2, here - 6, f"{name}-85"),
        ]
        out.texts += [Text(COIL_X - 36, here + 18, "86"), Text(COIL_X + 36, here + 18, "85")]
    last = y + (len(relays) - 1) * COIL_ROW
    if len(relays) > 1:
        out.lines.append(WireLine(((SPLIT_COIL_X, y), (SPLIT_COIL_X, last)), soft=True))
    last = max(last, y + (60 if cut.oil_switch and cut.start_bypass else 20))
    return (
        _main_coil(out, BUS_X + step + 22, y, last + COIL_ROW, crash_switches(cut))
        if main
        else last
    )


def _main_coil(out: Schematic, x: float, y: float, here: float, crash: list[str]) -> float:
    """The main contactor's coil behind the ignition, through what a crash opens."""
    out.lines.append(WireLine(((x, y), (x, here)), soft=True))
    step = (SPLIT_COIL_X - x) / (len(crash) + 1)
    for i, name in enumerate(crash):
        at = x + (i + 1) * step
        _numbered(out, f"M{i + 1}", at - step + 22 * bool(i), at - 22, here)
        out.symbols.append(WiringSymbol("break", at, here, name))
    _numbered(out, f"M{len(crash) + 1}", x + len(crash) * step + 22, COIL_X - 22, here)
    out.symbols.append(WiringSymbol("coil", COIL_X, here, MAIN))
    _numbered(out, f"{MAIN}-85", COIL_X + 22, EARTH_X, here)
    return here + 20
