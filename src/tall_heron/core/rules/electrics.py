"""Wires, fuses, relays and what feeds them. All of it of builds that somebody has wired."""

import math
from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.wiring import Wiring
from tall_heron.core.electrics.feeds import drop_allowed, takes_mm2
from tall_heron.core.electrics.sender import make_sender_sheet
from tall_heron.core.electrics.wire import area_mm2
from tall_heron.core.routing.loom_way import nearest_line
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.route import laid_of
from tall_heron.core.rules.rule import Rule, flies
from tall_heron.core.rules.wired import first_pump, harness_in, wire_finding
from tall_heron.core.study.cases.supply import balances, battery_alone, electric
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import current_of


def highest_in_cases(study: Study, pump: str) -> tuple[float, str]:
    """The most a pump draws in any case that is solved [A], and that case."""
    return max(
        (
            (current_of(s.solution, pump), s.case.key)
            for s in study.solved.values()
            if s.solution.converged
        ),
        default=(0.0, "peak"),
    )


def too_much_lost(study: Study) -> Iterator[Finding]:
    """What wires and contacts take of the voltage."""
    limit = drop_allowed(study.brief.voltage_v)
    for pump in harness_in(study).feeds:
        met = [
            (v - u, s.case.key)
            for s in study.solved.values()
            if s.solution.converged
            and pump not in s.case.point.off
            and (u := s.solution.voltage(pump)) is not None
            and (v := s.case.point.voltage_at("")) is not None
        ]
        lost, case = max(met, default=(0.0, "peak"))
        if lost > limit:
            yield wire_finding(
                "Check",
                pump,
                f"{pump} loses {{lost}} in its wires; {{limit}} is the most",
                "A pump on less voltage turns slower: what the wire drops is missing in flow, most where most is needed.",
                _less_lost(study, pump),
                {"lost": FindingFigure(lost, "voltage"), "limit": FindingFigure(limit, "voltage")},
                case,
            )


def _less_lost(study: Study, pump: str) -> str:
    """What to do about it: where crimps and contacts take most of it, thicker wire does little."""
    harness = harness_in(study)
    feed, relay = harness.feeds[pump], harness.relays.get(harness.feeds[pump].branch.relay)
    contacts = feed.contacts + (relay.shared - relay.supply.ohm if relay is not None else 0.0)
    if contacts > feed.own + harness.shared(pump) - contacts:
        return "Crimps and contacts drop most of it, so thicker wire does little: fit a contactor, a relay for each pump, or fewer crimps."
    return "Take thicker wire, make it shorter, or ground the pump nearby."


def wire_under_fuse(study: Study) -> Iterator[Finding]:
    """A wire that burns before its fuse does."""
    harness = harness_in(study)
    rows = [(f.pump, w, f.fuse) for f in harness.feeds.values() for w in (f.out, f.back)] + [
        (c.pumps[0], c.supply, c.fuse) for c in harness.relays.values()
    ]
    rows += [
        (g.pumps[0], g.wire, sum(harness.feeds[p].fuse or 0.0 for p in g.pumps))
        for g in harness.grounds.values()
    ]
    for pump, wire, fuse in rows:
        if fuse is not None and wire.carries_a < fuse:
            yield wire_finding(
                "Stop",
                pump,
                f"Wire {wire.number} of {wire.size} carries {{carries}}, and its fuse is {{fuse}}",
                "A fuse protects the wire. Behind one that is larger the wire glows first, beside fuel.",
                "Take thicker wire, wire for more heat, a cooler way, or a smaller fuse where the pump allows it.",
                {
                    "carries": FindingFigure(wire.carries_a, "current"),
                    "fuse": FindingFigure(fuse, "current"),
                },
            )


def fuse_wrong(study: Study) -> Iterator[Finding]:
    """A fuse that blows as the pump works, or none."""
    for f in harness_in(study).feeds.values():
        most, case = highest_in_cases(study, f.pump)
        need = max(most, f.highest)
        if f.fuse is None:
            yield wire_finding(
                "Stop",
                f.pump,
                f"No fuse is large enough for {f.pump}, which draws {{need}}",
                "Without a fuse a worn wire is a fire.",
                "Share the flow between pumps.",
                {"need": FindingFigure(need, "current")},
                case,
            )
        elif f.fuse < need:
            yield wire_finding(
                "Stop",
                f.pump,
                f"{f.pump} draws up to {{need}} and its fuse is {{fuse}}",
                "It blows where the pump works hardest: at full load, or with its relief open.",
                f"Fit a fuse of {house_figure('fuse_least'):g} to {house_figure('fuse_most'):g} times the highest current, and the wire for it.",
                {"need": FindingFigure(need, "current"), "fuse": FindingFigure(f.fuse, "current")},
                case,
            )


def fuse_large(study: Study) -> Iterator[Finding]:
    """A fuse far over what the pump draws."""
    for f in harness_in(study).feeds.values():
        most = house_figure("fuse_most") * f.highest
        if f.branch.fuse_a is not None and f.branch.fuse_a > max(
            most, house_figure("fuse_small_a")
        ):
            yield wire_finding(
                "Check",
                f.pump,
                f"The fuse of {f.pump}, {{fuse}}, is more than {{most}}",
                "A pump that seizes draws a little more than it should and heats for minutes before such a fuse goes.",
                f"Fit the next one over {house_figure('fuse_least'):g} times what it draws.",
                {
                    "fuse": FindingFigure(f.branch.fuse_a, "current"),
                    "most": FindingFigure(most, "current"),
                },
            )


def contacts_weak(study: Study) -> Iterator[Finding]:
    """Relays, switches and connectors rated below what flows through them."""
    harness = harness_in(study)
    for c in harness.relays.values():
        thick = max(
            (
                w
                for w in (c.supply, *(harness.feeds[p].out for p in c.pumps))
                if area_mm2(w.size) > takes_mm2(c.rated)
            ),
            key=lambda w: area_mm2(w.size),
            default=None,
        )
        if thick is not None and c.rated >= c.ampere:
            yield wire_finding(
                "Check",
                c.pumps[0],
                f"Wire {thick.number} of {thick.size} does not go on {c.relay.name}: its terminals take {takes_mm2(c.rated):.0f} mm²",
                "A lug that is bent or filed to go on a blade touches at a corner, grows hot and comes off.",
                "Fit a contactor with studs, or two relays with thinner wires.",
            )
        if c.rated < c.ampere:
            yield wire_finding(
                "Check",
                c.pumps[0],
                f"{c.relay.name} is rated {{rated}} and carries up to {{need}}",
                "A contact over its rating welds: then nothing stops the pump.",
                "Fit a larger relay, or one for each pump.",
                {
                    "rated": FindingFigure(c.rated, "current"),
                    "need": FindingFigure(c.ampere, "current"),
                },
            )
    most = house_figure("kill_a")
    if harness.wiring.cut_off.kill != "none" and harness.together > most:
        yield wire_finding(
            "Check",
            first_pump(study),
            "The pumps draw {need} through the kill switch, which is made for {rated}",
            "A switch over its rating grows hot, and welds when it is thrown.",
            "Let the kill switch open a contactor's coil.",
            {
                "rated": FindingFigure(most, "current"),
                "need": FindingFigure(harness.together, "current"),
            },
        )
    for f in harness.feeds.values():
        for what, rated, share in (
            ("connector", f.branch.connector_a, 1.0),
            (
                "switch",
                f.branch.switch_a if not f.branch.relay else None,
                house_figure("switch_share"),
            ),
        ):
            if rated is not None and rated * share < f.highest:
                more = " at a motor" if share < 1 else ""
                yield wire_finding(
                    "Check",
                    f.pump,
                    f"The {what} of {f.pump} carries {{rated}}{more} and the pump draws up to {{need}}",
                    "It grows hot, loses voltage, and at last opens or melts.",
                    f"Fit a larger {what}{', or a relay' if what == 'switch' else ''}.",
                    {
                        "rated": FindingFigure(rated * share, "current"),
                        "need": FindingFigure(f.highest, "current"),
                    },
                )


def relay_at_rest(study: Study) -> Iterator[Finding]:
    """What is on 87a, which is live at rest; a coil without suppression."""
    for c in harness_in(study).relays.values():
        if c.relay.terminal_87a == "used":
            yield wire_finding(
                "Stop",
                c.pumps[0],
                f"{c.relay.name} feeds its pump from 87a",
                "87a is live at rest: the pump runs whenever nothing says it should.",
                "Move the wire to 87 and cap 87a.",
            )
        elif c.relay.terminal_87a == "open":
            yield wire_finding(
                "Check",
                c.pumps[0],
                f"87a of {c.relay.name} is live at rest and open",
                "A bare terminal beside 30 shorts against whatever touches it.",
                "Cap it, or fit a relay without one.",
            )
        if not c.relay.suppressed:
            yield wire_finding(
                "Note",
                c.pumps[0],
                f"The coil of {c.relay.name} is not suppressed",
                "Each time it opens it sends some hundred volts into what switched it.",
                "Fit a relay with a resistor or a diode over its coil; mind which way the diode goes.",
            )


APART = {
    "relay": ("stays open", "Give each pump a relay and a fuse of its own."),
    "ground": ("works loose", "Give each pump a ground of its own, on bare metal."),
}  # how what pumps share fails, and what to do


def all_at_once(study: Study) -> Iterator[Finding]:
    """What one fault takes down, where several pumps hang together."""
    harness = harness_in(study)
    if len(harness.feeds) < 2:
        return
    air = study.brief.use == "flight"
    shared = [path for path in harness.shared_paths if len(path.pumps) > 1]
    for path in shared:
        fails, do = APART[path.kind]
        level: Level = "Stop" if air and len(path.pumps) == len(harness.feeds) else "Check"
        title = f"{path.name} is one {path.kind} for {', '.join(path.pumps)}"
        why = f"If it {fails}, all of them stop at once."
        yield wire_finding(level, path.pumps[0], title, why, do)
    if air and not shared and len({f.branch.bus for f in harness.feeds.values()}) < 2:
        yield wire_finding(
            "Check",
            first_pump(study),
            "All pumps hang at one bus",
            "One fault of that bus stops the engine.",
            "Feed the second pump from the other bus, with a switch and a fuse of its own.",
        )


def alternator_short(study: Study) -> Iterator[Finding]:
    """What is taken against what the alternator gives; at idle alone it is worth knowing and no
    more.
    """
    short = [b for b in balances(study) if b.over < 0]
    running = [b for b in short if b.case != "idle"]
    worst = min(running or short, key=lambda b: b.over, default=None)
    if worst is None:
        return
    guess = (
        " Loads and alternator are guesses until they are entered."
        if "supply" in harness_in(study).wiring.guessed
        else ""
    )
    yield wire_finding(
        "Check" if running and not guess else "Note",
        first_pump(study),
        f"At {worst.name.lower()} the alternator gives {{gives}} and {{takes}} is taken",
        f"The battery gives the rest, the voltage falls, and the pumps with it.{guess}",
        "Fit a larger alternator or a smaller pulley, stage a pump, or shed loads.",
        {
            "gives": FindingFigure(worst.gives, "current"),
            "takes": FindingFigure(worst.pumps + worst.loads, "current"),
        },
        worst.case,
    )


def not_to_landing(study: Study) -> Iterator[Finding]:
    """A battery that does not last to what the builder calls landing."""
    alone, wanted = battery_alone(study), harness_in(study).wiring.supply.landing_min
    if alone is not None and alone.minutes < wanted:
        yield wire_finding(
            "Check",
            first_pump(study),
            "Without the alternator the battery lasts {minutes}; {wanted} is required",
            "Then the pumps stop, and the engine with them.",
            "Fit a larger or a second battery, shed more loads, or land sooner.",
            {
                "minutes": FindingFigure(60 * alone.minutes, "duration"),
                "wanted": FindingFigure(60 * wanted, "duration"),
            },
            "low voltage",
        )


def not_wired(study: Study) -> Iterator[Finding]:
    """A pump that has been left out, or whose sheet says no current."""
    harness = harness_in(study)
    for pump in harness.unwired:
        if pump in harness.wiring.branches:
            yield wire_finding(
                "Check",
                pump,
                f"{pump} has no current on its sheet",
                "Its wires cannot be calculated; half a volt is assumed.",
                "Type its current beside its flow on the shelf.",
            )
        else:
            yield wire_finding(
                "Check",
                pump,
                f"{pump} is not wired",
                "Half a volt is assumed as lost on its way.",
                "Give it a branch.",
            )


def sender_blind(study: Study) -> Iterator[Finding]:
    """A divider that cannot tell full from empty."""
    for trouble in make_sender_sheet(harness_in(study).wiring.sender).troubles:
        yield wire_finding(
            "Check",
            first_pump(study),
            f"The level sender cannot be read well: {trouble[:1].lower()}{trouble[1:].rstrip('.')}",
            "The gauge and the reserve lamp hang at it.",
            "Choose pull-up and range as the page of the sender shows.",
        )


def stage_chatters(study: Study) -> Iterator[Finding]:
    """A stage that goes off where it comes on."""
    for pump in harness_in(study).feeds:
        element = study.build.circuit.element(pump)
        stage = element.stage if element is not None else None
        if stage is None or stage.by == "switch" or stage.at <= 0:
            continue
        if stage.off_at is None or stage.off_at > (1 - house_figure("hysteresis_share")) * stage.at:
            yield wire_finding(
                "Note",
                pump,
                f"{pump} comes on and goes off at the same {stage.by}",
                "Held just there, its relay chatters: pressure jumps, and contacts weld.",
                "Let it go off some way below; write it with the pump on the circuit, as 8 psi off 6 psi.",
            )


def no_relay(study: Study) -> Iterator[Finding]:
    """On wheels a pump of some current whose switch carries all of it."""
    most = house_figure("without_relay_a")
    for f in harness_in(study).feeds.values():
        if not f.branch.relay and f.highest > most:
            yield wire_finding(
                "Check",
                f.pump,
                f"{f.pump} draws up to {{need}} and hangs at no relay",
                "Its current runs through cabin, ignition lock and switch: long wires, hot contacts, and nothing that could stop it by itself.",
                "Let a relay near the battery feed it, and the switch the relay's coil.",
                {"need": FindingFigure(f.highest, "current")},
            )


def battery_in_vapor(study: Study) -> Iterator[Finding]:
    """A battery beside a tank: it gasses, its terminals spark, and vapor of fuel lies low around a
    tank.
    """
    laid, limit = laid_of(study), house_figure("battery_tank_mm")
    battery = next((z for z in laid.outline.zones if z.kind == "battery"), None)
    if battery is None:
        return
    for element, middle, body, yaw in laid.stands.boxes():
        if element.kind != "tank" or not laid.stands.standing[laid.stands.home[element.id]].typed:
            continue
        long, wide = (body.wide, body.long) if round(yaw / 90) % 2 else (body.long, body.wide)
        half = (long / 2, wide / 2, body.high / 2)
        gaps = [
            max(lo - (m + h), (m - h) - hi, 0.0)
            for m, h, lo, hi in zip(middle, half, battery.low, battery.high, strict=True)
        ]
        apart = math.hypot(*gaps)
        if apart < limit:
            yield Finding(
                "Check",
                element.id,
                f"The battery stands {{apart}} from {element.id}; {{limit}} is the least",
                "Vapor lies around a tank that is filled or leaks, and a battery's terminals spark when a clamp comes off.",
                "Move the battery on the page of the route, or box it and vent the box outside.",
                {
                    "apart": FindingFigure(apart / 1000, "length"),
                    "limit": FindingFigure(limit / 1000, "length"),
                },
                station="wiring",
            )


def near_fuel_lines(study: Study) -> Iterator[Finding]:
    """Wires that would run beside fuel lines, as they are taken to lie; never more than a Note,
    since nobody has drawn them.
    """
    limit, laid = house_figure("wire_off_fuel_mm"), laid_of(study)
    near = [
        n
        for pump in harness_in(study).feeds
        if (n := nearest_line(laid, pump)) is not None and n.mm < limit
    ]
    for n in sorted(near, key=lambda n: n.mm)[:1]:
        yield Finding(
            "Note",
            n.pump,
            f"The straight way of {n.pump}'s wire passes {n.line} at {{near}}; {{limit}} is the least",
            "Wire that chafes beside fuel needs only one spark. Where it lies is taken from battery and pump, not drawn.",
            "Route it above the line and {limit} off, or clamp both so that neither can reach the other.",
            {
                "near": FindingFigure(max(n.mm, 0.0) / 1000, "length"),
                "limit": FindingFigure(limit / 1000, "length"),
            },
            station="wiring",
            spot=n.at,
        )


CP = "common practice"
RULES = (
    Rule(
        "W-01",
        "Wires and contacts drop no more than is allowed.",
        "AC 43.13-1B table 11-6, from memory",
        too_much_lost,
        electric,
    ),
    Rule(
        "W-02",
        "Every wire carries more than its fuse.",
        "AC 43.13-1B 11-48 ff., DIN VDE 0298-4, from memory",
        wire_under_fuse,
        electric,
    ),
    Rule("W-03", "Every pump has a fuse that holds its highest current.", CP, fuse_wrong, electric),
    Rule("W-04", "No fuse is far larger than its pump.", CP, fuse_large, electric),
    Rule(
        "W-05",
        "Relays, switches and connectors are rated for their pump.",
        "AC 43.13-1B table 11-4, from memory; common practice",
        contacts_weak,
        electric,
    ),
    Rule(
        "W-09",
        "Terminal 87a is capped, coils are suppressed.",
        "ISO 7588, DIN 72552, from memory",
        relay_at_rest,
        electric,
    ),
    Rule("W-10", "No single relay or bus takes several pumps down.", CP, all_at_once, electric),
    Rule(
        "W-13",
        "The alternator gives what is taken.",
        "common practice; shares of its label assumed",
        alternator_short,
        electric,
    ),
    Rule(
        "W-14",
        "Without the alternator the battery lasts to landing.",
        "common practice, an assumption",
        not_to_landing,
        lambda s: electric(s) and flies(s),
    ),
    Rule(
        "W-15",
        "Every pump is wired.",
        "arithmetic",
        not_wired,
        lambda s: s.what_if.harness is not None and s.build.wiring != Wiring(),
    ),
    Rule("W-20", "The battery stands outside the vapor of a tank.", CP, battery_in_vapor, electric),
    Rule(
        "W-19",
        "A pump of some current hangs at a relay.",
        CP,
        no_relay,
        lambda s: electric(s) and not flies(s),
    ),
    Rule(
        "W-18",
        "Wires keep off fuel lines.",
        "AC 43.13-1B 11-126, 6 in, from memory",
        near_fuel_lines,
        electric,
    ),
    Rule("W-17", "A stage goes off lower than it comes on.", CP, stage_chatters, electric),
    Rule(
        "W-16",
        "The level sender can be read.",
        "Ohm's law",
        sender_blind,
        lambda s: (
            electric(s) and any(t.properties.level_gauge for t in s.build.circuit.of_kind("tank"))
        ),
    ),
)
