"""Wiring by rule and by hand, each a new document: feeds of pumps, relays, fuses, wires, what may
stop a pump, battery and loads, sender.
"""

from typing import Any

from tall_heron.core.base.errors import wrong
from tall_heron.core.document.build import Build, checked
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.document.wiring import (
    Conductor,
    CutOff,
    GroundPoint,
    Guess,
    Load,
    Relay,
    Wiring,
    WiringBranch,
)
from tall_heron.core.electrics.feeds import highest_current
from tall_heron.core.routing.laid import Laid, lay_out
from tall_heron.core.routing.loom_way import way_of

ALONG = 1.1  # of the way along the vehicle's axes, for bends and slack, common practice
EARTH_MM = 1000.0  # from a pump to where it is earthed, common practice
USUAL_REACH_MM = 4000.0  # where the outline says no battery
USUAL_LOADS = (
    ("control unit", 3.0, True),
    ("ignition", 6.0, True),
    ("injectors", 4.0, True),
    ("fans", 15.0, False),
    ("lamps", 8.0, False),
)
GUESSED: list[Guess] = ["loads", "supply", "sender"]
LOADS_IN_FLIGHT = (
    ("control unit", 4.0, True),
    ("radio and transponder", 6.0, True),
    ("lamps", 6.0, False),
)


def electric_pumps(build: Build) -> list[Element]:
    """Pumps that a motor of their own turns."""
    return [
        e for e in build.circuit.elements if e.kind == "pump" and isinstance(e.figures, PumpMap)
    ]


def reaches(build: Build, laid: Laid | None = None) -> dict[str, float]:
    """How far each pump's wire is from the battery [mm]: along the vehicle's axes, with slack; a
    usual length where nothing says where they stand.
    """
    laid = laid or lay_out(build)
    out = {}
    for e in electric_pumps(build):
        corners = way_of(laid, e.id)
        far = (
            sum(abs(a - b) for a, b in zip(corners[0], corners[-1], strict=True))
            if corners
            else 0.0
        )
        out[e.id] = round(ALONG * far, -1) if corners else USUAL_REACH_MM
    return out


def with_reach(build: Build, laid: Laid) -> Build:
    """The build with wires as long as its parts lie apart now; what was measured stands."""
    if build.wiring is None:
        return build
    far = reaches(build, laid)
    branches = {
        p: b.model_copy(
            update={"feed": b.feed.model_copy(update={"reach_mm": far.get(p, b.feed.reach_mm)})}
        )
        for p, b in build.wiring.branches.items()
    }
    return build.model_copy(
        update={"wiring": build.wiring.model_copy(update={"branches": branches})}
    )


def _checked(build: Build, data: dict[str, Any]) -> Build:
    return build.model_copy(update={"wiring": checked(Wiring, data)})


def of(build: Build) -> Wiring:
    """The wiring of a build. Raises BuildErrors where it has none."""
    if build.wiring is None:
        raise wrong("act", "wire the pumps first")
    return build.wiring


def wire_by_rule(build: Build) -> Build:
    """Every electric pump on a branch of its own: in a car a relay, a fuse and an inertia switch;
    in an aircraft a switch and a bus for each and nothing automatic.
    """
    if build.brief is None:
        raise wrong("act", "say first what the engine is")
    pumps, flies = electric_pumps(build), build.brief.use == "flight"
    if not pumps:
        raise wrong(
            "act", "no pump of this circuit has a motor of its own, so there is nothing to wire"
        )
    if all(highest_current(e) is None for e in pumps):
        raise wrong(
            "act",
            "no pump here says on its sheet what current it draws; type its current beside its flow on the shelf",
        )
    far = reaches(build)
    branches, relays = {}, []
    for i, e in enumerate(pumps):
        relay = "" if flies else f"R{i + 1}"
        bus = "2" if flies and i % 2 else "1"
        branches[e.id] = WiringBranch(
            bus=bus,
            relay=relay,
            feed=Conductor(reach_mm=far[e.id]),
            earth=Conductor(reach_mm=EARTH_MM),
        )
        if relay:
            relays.append(Relay(name=relay))
    injected = not build.brief.carbureted
    cut = CutOff(
        automatic=not flies,
        control_unit=injected,
        oil_switch=not injected,
        inertia=not flies,
        breaks="supply" if not flies else "coil",
    )
    loads = [
        Load(name=n, ampere=a, kept=k)
        for n, a, k in (LOADS_IN_FLIGHT if flies else USUAL_LOADS)
        if injected or n not in ("control unit", "injectors")
    ]
    family = "AWG" if flies else "metric"
    together, warm = max(2, 2 * len(pumps)), 40.0 if flies else 50.0
    return build.model_copy(
        update={
            "wiring": Wiring(
                branches=branches,
                relays=relays,
                cut_off=cut,
                loads=loads,
                together=together,
                sizes=family,
                ambient_c=warm,
                guessed=GUESSED,
            )
        }
    )


def unwired(build: Build) -> Build:
    """Without wiring: voltage at the pumps is what the house assumes again."""
    return build.model_copy(update={"wiring": None})


def set_branch(build: Build, pump: str, **changes: Any) -> Build:
    """Change what feeds a pump; conductors by `feed` and `earth` as fields of theirs. A pump
    without a branch gets one. Raises BuildErrors.
    """
    wiring = of(build)
    if pump not in {e.id for e in electric_pumps(build)}:
        raise wrong("pump", f"there is no pump {pump} with a motor of its own")
    old = wiring.branches.get(pump) or WiringBranch(
        feed=Conductor(reach_mm=reaches(build)[pump]), earth=Conductor(reach_mm=EARTH_MM)
    )
    data = old.model_dump()
    for key, value in changes.items():
        data[key] = data[key] | value if isinstance(value, dict) else value
    branches = wiring.model_dump()["branches"] | {pump: data}
    return _checked(
        build,
        wiring.model_dump()
        | {
            "branches": branches,
            "relays": _relays(wiring, branches),
            "grounds": _grounds(wiring, branches),
        },
    )


def _relays(wiring: Wiring, branches: dict[str, Any]) -> list[dict[str, Any]]:
    """The relays that branches hang at: those there are, new ones as usual, none that nothing hangs
    at.
    """
    used = list(dict.fromkeys(b["relay"] for b in branches.values() if b["relay"]))
    known = {r.name: r.model_dump() for r in wiring.relays}
    return [known.get(name) or Relay(name=name).model_dump() for name in used]


def _grounds(wiring: Wiring, branches: dict[str, Any]) -> list[dict[str, Any]]:
    """The ground points that branches go to, as _relays."""
    used = list(dict.fromkeys(b["ground"] for b in branches.values() if b["ground"]))
    known = {g.name: g.model_dump() for g in wiring.grounds}
    return [known.get(name) or GroundPoint(name=name).model_dump() for name in used]


def set_ground(build: Build, name: str, **wire: Any) -> Build:
    """Change the wire on from a ground point. Raises BuildErrors."""
    wiring = of(build)
    if name not in {g.name for g in wiring.grounds}:
        raise wrong("ground", f"there is no ground point {name}")
    grounds = [
        g.model_dump() | ({"wire": g.wire.model_dump() | wire} if g.name == name else {})
        for g in wiring.grounds
    ]
    return _checked(build, wiring.model_dump() | {"grounds": grounds})


def set_relay(build: Build, name: str, **changes: Any) -> Build:
    """Change a relay. Raises BuildErrors."""
    wiring = of(build)
    if wiring.relay(name) is None:
        raise wrong("relay", f"there is no relay {name}")
    relays = [
        r.model_dump()
        | (
            {k: r.model_dump()[k] | v if isinstance(v, dict) else v for k, v in changes.items()}
            if r.name == name
            else {}
        )
        for r in wiring.relays
    ]
    return _checked(build, wiring.model_dump() | {"relays": relays})


def set_wiring(build: Build, part: str, **changes: Any) -> Build:
    """Change fields of the wiring itself (an empty `part`), or of its `cut_off`, `supply` or
    `sender`. Raises BuildErrors.
    """
    data = of(build).model_dump()
    guessed_left = [x for x in data["guessed"] if x != part]
    return _checked(
        build,
        data | {"guessed": guessed_left} | (changes if not part else {part: data[part] | changes}),
    )


def set_load(build: Build, name: str, ampere: float | None, running: bool = True) -> Build:
    """Add a load, change it, or take it off with no current. Raises BuildErrors."""
    wiring = of(build)
    if not name:
        raise wrong("name", "give the load a name")
    others = [x.model_dump() for x in wiring.loads if x.name != name]
    loads = (
        others
        if ampere is None
        else [
            x.model_dump() if x.name != name else {"name": name, "ampere": ampere, "kept": running}
            for x in wiring.loads
        ]
    )
    if ampere is not None and name not in {x.name for x in wiring.loads}:
        loads = [*others, {"name": name, "ampere": ampere, "kept": running}]
    return _checked(
        build,
        wiring.model_dump()
        | {"loads": loads, "guessed": [x for x in wiring.guessed if x != "loads"]},
    )
