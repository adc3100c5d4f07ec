"""What an instrument should read: the build's circuit as it stands for a test, with a fault in it
or none.
"""

import math
from dataclasses import dataclass, field, replace

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS, KPA
from tall_heron.core.base.roots import expanding_root
from tall_heron.core.document.acceleration import BodyAcceleration, accelerated
from tall_heron.core.document.figures import Injectors, Regulator
from tall_heron.core.document.own_fuel import OWN
from tall_heron.core.document.point import Point, reference_pressure_kpa
from tall_heron.core.hydraulics.compile import FluidState, injectors_full_flow
from tall_heron.core.hydraulics.laws import Law, RegulatorLaw
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.prove.faults import BARE_AIR, BARE_WITHIN, Cause, Fault, airy, causes, changed
from tall_heron.core.study.cases.cases import resting_at
from tall_heron.core.study.inlet import inlet_of
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Change, Fitted, WhatIf, current_of, make_what_if

SHUT = 1e8  # Pa, a regulator whose screw is turned right in
CAUGHT_WITH = -60.0  # kPa at the injectors while fuel is caught: the valve at the can gives way, whatever the pressure before it
CLOSE = 2e-4
NEAR = 20.0  # kPa of manifold within which one solution starts the next
LEAST_OPEN = 1000.0  # Pa, a can that is open


SOUND = Fault("none")


@dataclass(frozen=True)
class Setup:
    """How a build stands while it is read. `reads` says what: `caught` into a can at the rail
    [m3/s], `rail`, `node`, `inlet` of a pump [Pa gauge], `drop` over a part [Pa], `volts` and
    `amps` at a pump, `duty` of the injectors [-]; at its `place`. `alone` are the pumps that run
    (empty: those that the moment runs), `against` the pressure it is caught at [Pa], `manifold`
    what the engine's manifold holds [Pa gauge], `reference` whether the regulators' hose is on,
    `fuel_demand` what is commanded [m3/s], `asks` what the engine should ask by speed and air
    [m3/s] (None: the demand), `volts` at the pumps or, where not `at_pump`, at the battery, `pitch`
    nose up [rad] (None: nobody asks), `kelvin` of the fuel (None: the brief's), `fuel` by name
    (empty: the brief's), `rpm` (None: that of the peak), `ahead` the size of the acceleration [g],
    `trend` whether the burn falls or rises (-1, 0, 1), `closed` whether regulators let nothing back
    and hold nothing down.
    """

    reads: str
    place: str = ""
    alone: tuple[str, ...] = ()
    against: float | None = None
    manifold: float = 0.0
    reference: bool = True
    fuel_demand: float = 0.0
    asks: float | None = None
    volts: float | None = None
    at_pump: bool = True
    kelvin: float | None = None
    fuel: str = ""
    rpm: float | None = None
    ahead: float = 0.0
    trend: int = 0
    pitch: float | None = None
    closed: bool = False


@dataclass
class Predictor:
    """A build to be read: what has been compiled and solved for it so far."""

    study: Study
    _engines: dict[tuple[Fault, bool, float], WhatIf] = field(default_factory=dict)
    _volts: dict[Setup, dict[str, float]] = field(default_factory=dict)
    _causes: list[Cause] | None = None
    _known: dict[tuple[Setup, Fault], float | None] = field(default_factory=dict)
    _last: tuple[object, Solution] | None = None

    @property
    def causes(self) -> list[Cause]:
        """What may be wrong with it."""
        if self._causes is None:
            self._causes = causes(self.study)
        return self._causes

    def predict(self, setup: Setup, fault: Fault = SOUND) -> float | None:
        """What should be read, in SI; None where the circuit does not solve or nothing can be read
        there.
        """
        key = (setup, fault)
        if key not in self._known:
            if len(self._known) > 200_000:
                self._known.clear()
            self._known[key] = self._read(setup, fault)
        return self._known[key]

    def solution(self, setup: Setup, fault: Fault = SOUND) -> Solution:
        """The circuit solved as it stands for a reading."""
        key = replace(setup, reads="", place="", asks=None), fault
        if self._last is not None and self._last[0] == key:  # rail, then current, of one moment
            return self._last[1]
        engine, point = self._engine(setup, fault), self.point(setup, fault)
        solved = engine.at(point, setup.fuel_demand, self._laws(engine, point, setup, fault))
        self._last = key, solved
        return solved

    def point(self, setup: Setup, fault: Fault = SOUND) -> Point:
        """The moment of a reading."""
        brief, base = self.study.brief, self.study.peak.case.point
        fuel = (
            f"E{round(100 * fault.strength)}" if fault.kind == "fuel" else setup.fuel or base.fuel
        )
        kpa = setup.manifold / KPA
        rpm = setup.rpm if setup.rpm is not None else base.engine_rpm
        off = list(
            dict.fromkeys(
                [
                    *self._resting(setup, kpa, rpm or 0.0),
                    *([fault.part] if fault.kind == "dead" else []),
                ]
            )
        )
        volts: float | dict[str, float] | None = setup.volts
        if setup.volts is not None and not setup.at_pump:
            volts = self._at_pumps(setup, off)
        if fault.kind == "volts" and volts is not None:
            less = (
                {p: v - fault.strength for p, v in volts.items()}
                if isinstance(volts, dict)
                else volts - fault.strength
            )
            volts = (
                {p: max(v, 0.5) for p, v in less.items()}
                if isinstance(less, dict)
                else max(less, 0.5)
            )
        kelvin = setup.kelvin if setup.kelvin is not None else brief.fuel_temperature
        changes: dict[str, object] = {
            "name": f"read {kpa // NEAR:.0f}",
            "fuel": fuel,
            "temperature_c": kelvin - CELSIUS,
        }
        changes |= {
            "manifold_kpa": kpa,
            "engine_rpm": rpm,
            "off": off,
            "position": dict(base.position),
        }
        if setup.against is not None:
            changes["manifold_kpa"] = CAUGHT_WITH if not any(self._follows) else kpa
        if brief.fuel == OWN or base.fuel is None:
            own = self.study.fuel_demand.fuel
            changes |= {
                "fuel": None,
                "density_kg_m3": own.density(kelvin),
                "viscosity_mpa_s": own.viscosity(kelvin) * 1000,
            }
        if volts is not None:
            changes["voltage_v"] = volts
        if fault.kind == "over" and volts is not None:
            changes["voltage_v"] = (
                {p: v + fault.strength for p, v in volts.items()}
                if isinstance(volts, dict)
                else volts + fault.strength
            )
        if fault.kind == "clogged":
            changes["clogging"] = {fault.part: fault.strength}
        return base.model_copy(update=changes)

    @property
    def _follows(self) -> list[str]:
        """Regulators that hold their outlet by the manifold: what is caught behind them depends on
        it.
        """
        return [
            e.id
            for e in self.study.build.circuit.elements
            if isinstance(e.figures, Regulator)
            and e.figures.holds == "outlet"
            and e.figures.reference != "atmosphere"
        ]

    def _resting(self, setup: Setup, kpa: float, rpm: float) -> list[str]:
        study = self.study
        taps = (
            [e.id for e in study.build.circuit.of_kind("auxiliary")]
            if setup.fuel_demand < 0.5 * study.fuel_demand.volume_flow
            else []
        )
        if setup.alone:
            return [
                e.id for e in study.build.circuit.of_kind("pump") if e.id not in setup.alone
            ] + taps
        return (
            resting_at(
                study.build.circuit,
                study.brief,
                study.fuel_demand.fuel,
                setup.fuel_demand,
                kpa,
                rpm,
                idle=setup.fuel_demand < 0.1 * study.fuel_demand.volume_flow,
            )
            + taps
        )

    def _at_pumps(self, setup: Setup, off: list[str]) -> dict[str, float]:
        """Volts at each pump's terminals from those at the battery: through its wires, or less what
        the house assumes. As in the sound build: what a fault does to the current hardly tells.
        """
        assert setup.volts is not None
        pumps, key = (
            self.study.build.circuit.of_kind("pump"),
            replace(setup, reads="", place="", ahead=0.0, trend=0, asks=None),
        )
        if key not in self._volts:
            out = {p.id: max(setup.volts - house_figure("voltage_wiring_loss"), 0.5) for p in pumps}
            if self.study.what_if.harness is not None:
                point = self.point(replace(setup, at_pump=True)).model_copy(update={"off": off})
                solution = self.study.what_if.at(point, setup.fuel_demand)
                if solution.converged:
                    out |= {p.id: v for p in pumps if (v := solution.voltage(p.id)) is not None}
            self._volts[key] = out
        return self._volts[key]

    def _engine(self, setup: Setup, fault: Fault) -> WhatIf:
        """The compiled circuit with a fault in it; its pumps' volts are given, so it has no wires."""
        if fault.kind == "bare":
            share = BARE_AIR * min(max((setup.ahead - fault.strength) / BARE_WITHIN, 0.0), 1.0)
            fault = Fault("airs", "", round(share, 2)) if share > 0 else SOUND
        elif fault.kind in (
            "clogged",
            "volts",
            "screw",
            "sticks",
            "reference",
            "fuel",
            "gauge",
            "dead",
            "over",
            "can",
        ):
            fault = SOUND
        wide, pitch = setup.against is not None, setup.pitch or 0.0
        key = fault, wide, pitch
        if key not in self._engines:
            if len(self._engines) > 300:
                self._engines.clear()
            circuit = self.study.build.circuit
            plain = make_what_if(
                accelerated(
                    circuit, BodyAcceleration(pitch=pitch), self.study.brief.use == "flight"
                )
                if pitch
                else circuit
            )
            new = (
                [airy(circuit, p.id, fault.strength) for p in circuit.of_kind("pump")]
                if fault.kind == "airs"
                else changed(self.study, fault)
            )
            changes: list[Change] = [Fitted(e) for e in new]
            changed_circuit = plain.changed(*changes) if changes else plain
            self._engines[key] = changed_circuit.unlimited if wide else changed_circuit
        return self._engines[key]

    def _laws(self, engine: WhatIf, point: Point, setup: Setup, fault: Fault) -> dict[str, Law]:
        """Laws of regulators that stand otherwise at a reading than their sheet says."""
        out: dict[str, Law] = {}
        named = fault.part.split()
        for e in self.study.build.circuit.elements:
            part = e.figures
            if not isinstance(part, Regulator) or e.kind == "relief":
                continue
            felt = reference_pressure_kpa(part.reference, setup.manifold / KPA) * KPA
            shift = 0.0 if setup.reference else -felt
            if e.id in named and fault.kind in ("screw", "sticks", "reference"):
                shift += {
                    "screw": fault.strength,
                    "sticks": -fault.strength * setup.trend,
                    "reference": -fault.strength * felt if setup.reference else 0.0,
                }[fault.kind]
            shut = setup.closed or (setup.against is not None and part.holds == "inlet")
            if not shift and not shut:
                continue
            for link in engine.compiled.geometry.links_of[e.id]:
                law = link.make(FluidState(*point.fluid(), point, {}))
                if isinstance(law, RegulatorLaw):
                    out[link.key] = replace(law, target=SHUT if shut else law.target + shift)
        return out

    def _read(self, setup: Setup, fault: Fault) -> float | None:
        if setup.reads == "caught":
            caught = self._caught(setup, fault)
            return caught * fault.strength if caught is not None and fault.kind == "can" else caught
        if setup.reads == "duty":
            return self._duty(setup, fault)
        if setup.reads == "ethanol":
            return fault.strength if fault.kind == "fuel" else self.study.fuel_demand.fuel.ethanol
        solution = self.solution(setup, fault)
        if not solution.converged:
            return None
        off = fault.strength if fault.kind == "gauge" else 0.0
        if setup.reads == "rail":
            rail = self.study.rail_pressure(solution)
            return rail + off if rail is not None else None
        if setup.reads == "node":
            pressure = solution.pressure(setup.place)
            return pressure + off if pressure is not None else None
        if setup.reads == "inlet":
            return inlet_of(self.study.build.circuit, setup.place).pressure(solution)
        if setup.reads == "drop":
            link = solution.link(setup.place)
            return link.loss if link is not None else None
        if setup.reads == "amps":
            pumps = setup.place.split() or [e.id for e in self.study.build.circuit.of_kind("pump")]
            return sum(current_of(solution, p) for p in pumps) or None
        if setup.reads == "volts":
            return solution.voltage(setup.place)
        raise ValueError(setup.reads)

    def _caught(self, setup: Setup, fault: Fault) -> float | None:
        """The most that flows out at the rail while its pressure stands at `against`."""
        assert setup.against is not None
        against = max(
            setup.against - (fault.strength if fault.kind == "gauge" else 0.0), LEAST_OPEN
        )
        engine, point = self._engine(setup, fault), self.point(setup, fault)
        laws = self._laws(engine, point, setup, fault)

        def lacks(flow: float) -> float:
            solution = engine.at(point, flow, laws)
            return (
                against - (self.study.rail_pressure(solution) or 0.0)
                if solution.converged
                else math.inf
            )

        commanded = expanding_root(
            lacks,
            0.7 * self.study.fuel_demand.volume_flow,
            1e-8,
            20 * self.study.fuel_demand.volume_flow,
            CLOSE,
        )
        if commanded == 0.0:
            return 0.0
        if not math.isfinite(commanded):
            return None
        solution = engine.at(point, commanded, laws)
        return self.study.feed_path.burnt(solution) if solution.converged else None

    def _duty(self, setup: Setup, fault: Fault) -> float | None:
        """How far open the injectors are [-], dead time apart: what the engine asks over what they
        pass fully open at the pressure across.
        """
        solution = self.solution(setup, fault)
        rail = self.study.rail_pressure(solution) if solution.converged else None
        sets = [
            e.figures
            for e in self.study.build.circuit.of_kind("injectors")
            if isinstance(e.figures, Injectors)
        ]
        if rail is None or not sets or rail <= setup.manifold:
            return None
        asks = (setup.asks if setup.asks is not None else setup.fuel_demand) * self.fuel_times(
            fault
        )
        full = sum(
            injectors_full_flow(part, rail - setup.manifold, solution.density) for part in sets
        )
        return asks / full if full > 0 else None

    def fuel_times(self, fault: Fault) -> float:
        """How much more of a fuel the engine asks than of the one that was named, by volume [-]."""
        if fault.kind != "fuel":
            return 1.0
        named, other = (
            self.study.fuel_demand.fuel,
            self.study.brief.fuel_of(f"E{round(100 * fault.strength)}"),
        )
        kelvin = self.study.brief.fuel_temperature
        return (
            named.stoichiometric_ratio
            * named.density(kelvin)
            / (other.stoichiometric_ratio * other.density(kelvin))
        )
