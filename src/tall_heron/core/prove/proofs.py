"""The tests of a build, as its document and its solved state ask for them: what is read, how it
stands meanwhile, what it should read or what is allowed.
"""

import math
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import house_figure, table
from tall_heron.core.base.constants import CELSIUS, KPA, PSI
from tall_heron.core.document.figures import Regulator
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.prove.proof import (
    COLD,
    Proof,
    ProofLimit,
    by_allow,
    make_proof,
    volts_at_pumps,
)
from tall_heron.core.prove.proof_limits import SOAKED, test_pressure
from tall_heron.core.prove.proof_pressures import LEAST_BY_HAND, pressure_proofs
from tall_heron.core.study.demand import margin
from tall_heron.core.study.failures.key_off import prime
from tall_heron.core.study.sections import stored_l
from tall_heron.core.study.study import Study

AIRCRAFT_TANK = 3.5 * PSI  # 14 CFR 23.965 before 2017, from memory
CAR_TANK = 10e3  # Pa, common practice
READABLE = 500.0  # Pa, the least that a gauge shows
HEARD_S = 1.0  # until somebody hears that a pump has stopped
BEHIND = 0.85  # of base, at which fuel is caught behind a regulator that holds its outlet


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


def _proofs_of(study: Study) -> list[Proof]:
    return [
        *_before_fuel(study),
        *_flows(study),
        *pressure_proofs(study),
        *_at_rest(study),
        *_engine_runs(study),
    ]


def _before_fuel(study: Study) -> list[Proof]:
    """Flush and leaks."""
    brief, circuit, out = study.brief, study.build.circuit, []
    pumps, flies = circuit.of_kind("pump"), brief.use == "flight"
    lines = sum(stored_l(e) for e in circuit.elements if e.kind in ("hose", "line"))
    if lines > 0 and (pumps or flies):
        name = "flush" if circuit.of_kind("injectors") and pumps else "flush_open"
        out.append(
            make_proof(
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
        make_proof("leak", limit=ProofLimit(None, max(by_allow("leak") * at, READABLE), why), x=at)
    )
    if circuit.of_kind("injectors"):
        out.append(make_proof("drips", limit=ProofLimit(None, 0.0, "none may")))
    for t in circuit.of_kind("tank"):
        x = AIRCRAFT_TANK if flies else CAR_TANK
        out.append(
            make_proof(
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
    pumps, flies, volts = circuit.of_kind("pump"), brief.use == "flight", volts_at_pumps(study)
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
                make_proof(
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
            make_proof(
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
            make_proof(
                "gravity", setup=Setup("caught", against=0.0, kelvin=COLD, pitch=pitch), limit=limit
            )
        )
    return out


def _at_rest(study: Study) -> list[Proof]:
    """Priming, and what the rail keeps."""
    out, injected = [], bool(study.build.circuit.of_kind("injectors"))
    primed = prime(study)
    if primed is not None and primed.seconds is not None:
        out.append(
            make_proof(
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
            make_proof(
                "hold",
                limit=ProofLimit(
                    by_allow("hold") * study.brief.base,
                    None,
                    f"70 % of base; {primed.keeps} keep it: house figure",
                ),
            )
        )
    if injected and not study.fuel_demand.fuel.methanol:
        out.append(make_proof("soak"))
    out += [make_proof("noise", p.id, optional=True) for p in electric_pumps(study.build)[:1]]
    return out


def _engine_runs(study: Study) -> list[Proof]:
    """Injectors, sender, cut-off, and the loaded run."""
    circuit, electric, out = study.build.circuit, electric_pumps(study.build), []
    injected = bool(circuit.of_kind("injectors"))
    if injected:
        out.append(
            make_proof(
                "match",
                limit=ProofLimit(None, house_figure("injector_tolerance"), "common practice"),
            )
        )
    out += [
        make_proof(
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
            make_proof(
                "stop", limit=ProofLimit(None, most, "what the cut-off of the build takes, and 1 s")
            )
        )
    if injected and electric:
        out.append(
            make_proof(
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
