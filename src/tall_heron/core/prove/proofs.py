"""The tests of a build, as its document and its solved state ask for them: what is read, how it
stands meanwhile, what it should read or what is allowed.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from tall_heron.core.base.catalogue import Row, by_name, house_figure, table
from tall_heron.core.base.constants import CELSIUS, KPA, PSI
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import PumpMap, Regulator
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.core.physics.fuel import boils_at
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.study.demand import margin
from tall_heron.core.study.failures.key_off import prime
from tall_heron.core.study.sections import Section, sections, stored_l
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import current_of

OVER_WORKING = 1.5
AIRCRAFT_TANK = 3.5 * PSI  # 14 CFR 23.965 before 2017, from memory
CAR_TANK = 10e3  # Pa, common practice
GOOD_JOINT = 0.1  # V that a connection in good order takes at most, common practice
READABLE = 500.0  # Pa, the least that a gauge shows
SOAKED = 60 + CELSIUS  # K, fuel in a rail over a hot engine, common practice
HEARD_S = 1.0  # until somebody hears that a pump has stopped
BY_HAND, LEAST_BY_HAND = 50e3, 5e3  # Pa on a regulator's nipple, and the least that tells anything
ALL_ON = "all pumps on"
BEHIND = 0.85  # of base, at which fuel is caught behind a regulator that holds its outlet


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


def usual(study: Study, proof: Proof) -> dict[str, float]:
    """What is told with a reading where nobody says otherwise, in SI."""
    s = proof.setup
    if s is None:
        return {"celsius": SOAKED} if "celsius" in proof.asks else {}
    known = {
        "against": s.against,
        "volts": s.volts,
        "source": s.volts,
        "celsius": s.kelvin or 20 + CELSIUS,
        "applied": s.manifold,
        "pitch": s.pitch,
    }
    return {a: float(v) for a in proof.asks if (v := known.get(a)) is not None}


def proofs(predictor: Predictor) -> list[Proof]:
    """All tests of a build, numbered in the order of the work."""
    proofs_by_name: dict[str, list[Proof]] = {str(row["name"]): [] for row in table("proofs")}
    for p in _proofs_of(predictor.study):
        proofs_by_name[p.name].append(p)
    flat = [
        safe
        for ps in proofs_by_name.values()
        for p in ps
        if (safe := within_ratings(predictor, p)) is not None
    ]
    return [replace(p, number=i) for i, p in enumerate(flat, start=1)]


@dataclass(frozen=True)
class OverRating:
    """A part that a set-up would press beyond what it is made for: its tag, what would stand there
    and what it may have [Pa gauge].
    """

    part: str
    stands: float
    most: float


def over_rating(predictor: Predictor, setup: Setup) -> OverRating | None:
    """What a set-up, solved, would press beyond its rating: a float needle, a hose, a filter; None
    where it is safe, or where fuel is caught and nothing shut in.
    """
    if setup.reads in ("caught", "duty", "ethanol"):
        return None
    solution = predictor.solution(setup)
    if not solution.converged:
        return None
    met = []
    rail = predictor.study.rail_pressure(solution)
    if predictor.study.brief.carbureted and rail is not None and predictor.study.feed_path.burners:
        met.append(
            OverRating(predictor.study.feed_path.burners[0].id, rail, house_figure("needle_most"))
        )
    for e in predictor.study.build.circuit.elements:
        pressures = [p for n in e.ports.values() if (p := solution.nodes.get(n)) is not None]
        if e.properties.working_kpa is not None and pressures:
            met.append(OverRating(e.id, max(pressures), e.properties.working_kpa * KPA))
    return max((x for x in met if x.stands > x.most), key=lambda x: x.stands / x.most, default=None)


def within_ratings(predictor: Predictor, proof: Proof) -> Proof | None:
    """A test whose set-up is solved first: as it is where no part is over its rating, with less put
    on where that makes it safe, None where it cannot be done safely.
    """
    setup = proof.setup
    over = over_rating(predictor, setup) if setup is not None else None
    if setup is None or over is None:
        return proof
    if proof.name != "follow":
        return None
    for share in range(9, 0, -1):
        less = replace(setup, manifold=round(setup.manifold * share / 10, -2))
        if less.manifold >= LEAST_BY_HAND and over_rating(predictor, less) is None:
            return replace(proof, setup=less, x=less.manifold)
    return None


def _proof(
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


def _proofs_of(study: Study) -> list[Proof]:
    return [
        *_before_fuel(study),
        *_flows(study),
        *_pressures(study),
        *_at_rest(study),
        *_engine_runs(study),
    ]


COLD = 20 + CELSIUS


def _at_the_pumps(study: Study) -> float:
    return study.brief.voltage_v - house_figure("voltage_wiring_loss")


def _before_fuel(study: Study) -> list[Proof]:
    """Flush and leaks."""
    brief, circuit, out = study.brief, study.build.circuit, []
    pumps, flies = circuit.of_kind("pump"), brief.use == "flight"
    lines = sum(stored_l(e) for e in circuit.elements if e.kind in ("hose", "line"))
    if lines > 0 and (pumps or flies):
        name = "flush" if circuit.of_kind("injectors") and pumps else "flush_open"
        out.append(
            _proof(
                name,
                limit=ProofLimit(
                    by_allow(name) * lines,
                    None,
                    f"three times the {1000 * lines:.2f} L in the lines",
                ),
            )
        )
    at, why = test_pressure(study)
    out.append(
        _proof("leak", limit=ProofLimit(None, max(by_allow("leak") * at, READABLE), why), x=at)
    )
    if circuit.of_kind("injectors"):
        out.append(_proof("drips", limit=ProofLimit(None, 0.0, "none may")))
    for t in circuit.of_kind("tank"):
        x = AIRCRAFT_TANK if flies else CAR_TANK
        out.append(
            _proof(
                "tank",
                t.id,
                limit=ProofLimit(
                    None,
                    max(by_allow("tank") * x, READABLE),
                    "2 % of it, and no less than a gauge shows",
                ),
                x=x,
                optional=not flies,
            )
        )
    return out


def _flows(study: Study) -> list[Proof]:
    """Fuel caught, each pump alone and all together, or by gravity."""
    brief, circuit, out = study.brief, study.build.circuit, []
    pumps, flies, volts = circuit.of_kind("pump"), brief.use == "flight", _at_the_pumps(study)
    holds_outlet = any(
        isinstance(e.figures, Regulator) and e.figures.holds == "outlet" and e.kind == "regulator"
        for e in circuit.elements
    )
    against = (BEHIND if holds_outlet else 1.0) * brief.base
    need, share = margin(brief)[0], study.fuel_demand.volume_flow
    pitch = math.radians(house_figure("climb_deg")) if flies else None
    electric = electric_pumps(study.build)
    feeding = {p.id for p in study.feed_path.pumps}
    for p in electric:
        if p.id in feeding:
            least = (1 + need) * share if flies and p.stage is None else None
            limit = (
                ProofLimit(
                    least,
                    None,
                    f"{100 * (1 + need):.0f} % of take-off demand by each pump alone: 14 CFR 23.955 before 2017, from memory",
                )
                if least
                else None
            )
            out.append(
                _proof(
                    "flow",
                    p.id,
                    setup=Setup(
                        "caught",
                        alone=(p.id,),
                        against=against,
                        volts=volts,
                        kelvin=COLD,
                        pitch=pitch,
                    ),
                    limit=limit,
                )
            )
    if len(feeding & {p.id for p in electric}) > 1:
        every = tuple(p.id for p in pumps)
        out.append(
            _proof(
                "flow_all",
                setup=Setup(
                    "caught", alone=every, against=against, volts=volts, kelvin=COLD, pitch=pitch
                ),
            )
        )
    if not pumps:
        need = house_figure("margin_gravity") if flies else need
        limit = ProofLimit(
            (1 + need) * share,
            None,
            f"{100 * (1 + need):.0f} % of the full-power demand by gravity",
        )
        out.append(
            _proof(
                "gravity", setup=Setup("caught", against=0.0, kelvin=COLD, pitch=pitch), limit=limit
            )
        )
    return out


@dataclass(frozen=True)
class _On:
    """Which pumps are on at a test, what the title and the key add of it, and whether the engine
    idles meanwhile: it turns a pump on it.
    """

    pumps: tuple[str, ...]
    words: str = ""
    idles: bool = False

    def proof(
        self,
        study: Study,
        name: str,
        part: str = "",
        *,
        limit: ProofLimit | None = None,
        x: float | None = None,
        optional: bool = False,
        **setup: Any,
    ) -> Proof:
        """A test with these pumps on."""
        idle = study.cases["idle"]
        moment: dict[str, Any] = {"rpm": 0.0, "alone": self.pumps}
        if self.idles:
            moment = {
                "rpm": idle.point.engine_rpm,
                "fuel_demand": idle.demand,
                "manifold": idle.point.manifold_kpa * KPA,
            }
        test = _proof(
            name,
            part,
            key=" ".join(x for x in (name, part, self.words) if x),
            setup=Setup(**{**moment, **setup, "kelvin": COLD}),
            limit=limit,
            x=x,
            optional=optional,
        )
        row = (
            test.row | {"set_up": test.row["set_up_idle"]}
            if self.idles and test.row["set_up_idle"]
            else test.row
        )
        return replace(
            test,
            row=row,
            title=f"{test.title}, {self.words}"
            if self.words and self.words not in test.title
            else test.title,
        )


def _together(study: Study) -> list[_On]:
    """With which pumps on pressures are read: all that run with the ignition; where some are
    staged, then all. Where nothing but the engine turns what feeds it, at idle.
    """
    pumps, electric = (
        study.build.circuit.of_kind("pump"),
        {p.id for p in electric_pumps(study.build)},
    )
    if (
        study.feed_path.pumps
        and not any(p.id in electric for p in study.feed_path.pumps)
        and study.turns_back
    ):
        return [_On((), "", True)]
    first, every = tuple(p.id for p in pumps if p.stage is None), tuple(p.id for p in pumps)
    return [_On(first), _On(every, ALL_ON)] if first != every else [_On(every)]


def _running(study: Study, pump: Element) -> list[_On]:
    """With which pumps on a pump is read: as the ignition runs it, a staged one by itself; then
    with all.
    """
    feeding, pumps = {p.id for p in study.feed_path.pumps}, study.build.circuit.of_kind("pump")
    if pump.id not in feeding:
        return [_On((pump.id,))]
    if all(p.stage is None for p in pumps):
        return [_On(tuple(p.id for p in pumps))]
    alone = tuple(
        p.id
        for p in pumps
        if (p.stage is None if pump.stage is None else p.id == pump.id or p.id not in feeding)
    )
    return [_On(alone), _On(tuple(p.id for p in pumps), ALL_ON)]


def _pressures(study: Study) -> list[Proof]:
    """Pressures, volts and amperes with the engine off, pumps alone and together as each picture
    shows; at idle where the engine turns the pump.
    """
    circuit, electric, volts, out = (
        study.build.circuit,
        electric_pumps(study.build),
        _at_the_pumps(study),
        [],
    )
    together = _together(study)
    feeding = {p.id for p in study.feed_path.pumps}
    regulators = [
        e
        for e in circuit.elements
        if isinstance(e.figures, Regulator) and e.kind in ("regulator", "controller")
    ]
    if regulators and electric:
        felt = any(
            e.figures.reference in ("manifold", "hat")
            for e in regulators
            if isinstance(e.figures, Regulator)
        )
        out += [
            on.proof(study, "base", reads="rail", reference=False, volts=volts) for on in together
        ]
        if felt and not together[0].idles:
            out.append(
                together[0].proof(
                    study, "follow", x=BY_HAND, reads="rail", manifold=BY_HAND, volts=volts
                )
            )
        home = [
            e
            for e in regulators
            if isinstance(e.figures, Regulator)
            and e.figures.holds == "inlet"
            and e.kind == "regulator"
        ]
        for e in home:
            limit = ProofLimit(None, house_figure("return_back_pressure"), "common practice")
            out.append(
                together[-1].proof(
                    study,
                    "return",
                    e.id,
                    limit=limit,
                    reads="node",
                    place=e.ports["end"],
                    volts=volts,
                )
            )
    for p in electric:
        running = _running(study, p)
        if study.what_if.harness is not None:
            out += [
                on.proof(
                    study,
                    "volts",
                    p.id,
                    reads="volts",
                    place=p.id,
                    volts=study.brief.voltage_v,
                    at_pump=False,
                )
                for on in running
            ]
            out += _wires(study, p.id)
        if isinstance(p.figures, PumpMap) and all(
            len(r) == 3 for c in p.figures.curves for r in c.rows
        ):
            out += [
                on.proof(study, "amps", p.id, reads="amps", place=p.id, volts=volts)
                for on in running
            ]
        if p.id in feeding:
            out += [
                on.proof(
                    study,
                    "suction",
                    p.id,
                    optional=p.properties.mount == "in-tank",
                    reads="inlet",
                    place=p.id,
                    volts=volts,
                )
                for on in running
            ]
    for e in (
        circuit.of_kind("filter") if electric and study.turns_back else ()
    ):  # where nothing turns back nothing flows with the engine off
        out.append(together[-1].proof(study, "drop", e.id, reads="drop", place=e.id, volts=volts))
    return out


def _wires(study: Study, pump: str) -> list[Proof]:
    """What is lost on the way to a pump and back, where it is wired: each twice what its wire takes
    at most, and no less than a connection in good order may.
    """
    harness, solution = study.what_if.harness, study.peak.solution
    feed = harness.feeds.get(pump) if harness is not None else None
    if harness is None or feed is None or not solution.converged:
        return []
    contact, own = harness.relays.get(feed.branch.relay), current_of(solution, pump)
    together = sum(current_of(solution, p) for p in contact.pumps) if contact is not None else own
    rows = [
        ("earth", feed.back.ohm * own),
        *([("relay", contact.shared * together)] if contact is not None else []),
    ]
    return [
        _proof(
            name,
            pump,
            predicted=volts,
            limit=ProofLimit(
                None, max(2 * volts, GOOD_JOINT), "twice that, and no less than 0.1 V"
            ),
            optional=True,
        )
        for name, volts in rows
    ]


def _at_rest(study: Study) -> list[Proof]:
    """Priming, and what the rail keeps."""
    out, injected = [], bool(study.build.circuit.of_kind("injectors"))
    primed = prime(study)
    if primed is not None and primed.seconds is not None:
        out.append(
            _proof(
                "prime",
                predicted=primed.seconds,
                limit=ProofLimit(
                    None,
                    3 * primed.seconds + 2,
                    "three times what the lines and pumps say, and 2 s",
                ),
            )
        )
    if primed is not None and primed.keeps:
        out.append(
            _proof(
                "hold",
                limit=ProofLimit(
                    by_allow("hold") * study.brief.base,
                    None,
                    f"70 % of base; {primed.keeps} keep it: house figure",
                ),
            )
        )
    if injected and not study.fuel_demand.fuel.methanol:
        out.append(_proof("soak"))
    out += [_proof("noise", p.id, optional=True) for p in electric_pumps(study.build)[:1]]
    return out


def _engine_runs(study: Study) -> list[Proof]:
    """Injectors, sender, cut-off, and the loaded run."""
    circuit, electric, out = study.build.circuit, electric_pumps(study.build), []
    injected = bool(circuit.of_kind("injectors"))
    if injected:
        out.append(
            _proof(
                "match",
                limit=ProofLimit(None, house_figure("injector_tolerance"), "common practice"),
            )
        )
    out += [
        _proof(
            "sender",
            t.id,
            limit=ProofLimit(by_allow("sender"), None, "at least four pours: house figure"),
        )
        for t in circuit.of_kind("tank")
        if sendable(study, t.id)
    ]
    wiring = study.build.wiring
    if wiring is not None and wiring.cut_off.automatic and electric:
        cut = wiring.cut_off
        most = (
            max(
                [cut.control_unit_s] * cut.control_unit
                + [cut.oil_falls_s] * cut.oil_switch
                + [cut.prime_s if not cut.control_unit and not cut.oil_switch else 0.0]
            )
            + HEARD_S
        )
        out.append(
            _proof(
                "stop", limit=ProofLimit(None, most, "what the cut-off of the build takes, and 1 s")
            )
        )
    if injected and electric:
        out.append(
            _proof(
                "run",
                limit=ProofLimit(
                    by_allow("run"), None, "at least one run without a finding: house figure"
                ),
            )
        )
    return out


def sendable(study: Study, tank: str) -> bool:
    """Whether a tank has a level of its own to send: not a surge pot or header that always stands
    full.
    """
    element = study.build.circuit.element(tank)
    return element is not None and not getattr(element.figures, "floats", False)


def by_allow(name: str) -> float:
    """What a row of proofs.csv allows."""
    return float(by_name("proofs")[name]["allow"])


def working_pressure(study: Study) -> float:
    """The highest pressure the lines work at [Pa gauge]: what is asked at the rail in any case of
    the brief.
    """
    return max(study.asked(s) for s in study.solved.values())


def test_pressure(study: Study) -> tuple[float, str]:
    """What joints are tested at [Pa gauge]: 1.5 times what they work at, or what their weakest part
    is made for, but never less than they work at; and why, in words.
    """
    working = working_pressure(study)
    if study.brief.carbureted:
        needle = house_figure("needle_most")
        return (
            max(min(OVER_WORKING * working, needle), working),
            "2 % of it; a float needle holds no more"
            if OVER_WORKING * working > needle
            else "2 % of it",
        )
    rated = [
        (e.properties.working_kpa * KPA, e.id)
        for e in study.build.circuit.elements
        if e.properties.working_kpa
        and e.role == "feed"
        and e.kind in ("hose", "line", "filter", "fitting", "rail")
    ]
    weakest = min(rated, default=(float("inf"), ""))
    if weakest[0] < OVER_WORKING * working:
        return max(weakest[0], working), f"2 % of it; {weakest[1]} is made for no more"
    return OVER_WORKING * working, "2 % of it"


def boiling(study: Study, kelvin: float) -> float:
    """The least pressure that keeps the season's fuel from boiling [Pa gauge]."""
    return (
        boils_at(study.fuel_demand.fuel, study.brief.season, kelvin)
        - study.peak.case.point.atmosphere
    )


def limit_at(study: Study, proof: Proof, conditions: Mapping[str, float]) -> ProofLimit | None:
    """What is allowed at what was told with a reading."""
    if proof.name == "soak":
        kelvin = conditions.get("celsius", SOAKED)
        return ProofLimit(
            max(boiling(study, kelvin), 0.0),
            _most_soaked(study),
            f"the season's fuel boils under it at {kelvin - CELSIUS:.0f} °C; {soaked(study)}",
        )
    return proof.limit


def _rail_section(study: Study) -> Section | None:
    """The section that holds the rail while the engine stands."""
    near = {e.id for e in study.build.circuit.of_kind("rail")} or {
        e.id
        for e in study.build.circuit.elements
        if e.role == "feed" and e.kind in ("hose", "line")
    }
    return next((s for s in sections(study) if not s.shut and near & set(s.parts)), None)


def soaked(study: Study) -> str:
    """What heat does to fuel that is shut into the rail, in words."""
    section = _rail_section(study)
    if section is None:
        return "what holds it shut is not known"
    rise = f"shut in it rises {section.rise[0] / KPA:.0f} to {section.rise[1] / KPA:.0f} kPa for each kelvin"
    return (
        f"{rise}, and nothing relieves it"
        if section.trapped
        else f"{rise} until {section.relieved_by} lets it on"
    )


def _most_soaked(study: Study) -> float | None:
    """What a rail that a regulator relieves may come to [Pa]: its base and a tenth; None where
    nothing relieves it, which is a finding of the circuit, or something else does.
    """
    section = _rail_section(study)
    by = study.build.circuit.element(section.relieved_by) if section is not None else None
    return 1.1 * study.brief.base if by is not None and by.kind == "regulator" else None
