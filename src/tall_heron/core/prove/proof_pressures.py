"""The tests of pressures, volts and amperes with the engine off, each with the pumps that are on."""

from dataclasses import dataclass, replace
from typing import Any

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import KPA
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import PumpMap, Regulator
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.core.prove.predict import Setup
from tall_heron.core.prove.proof import COLD, Proof, ProofLimit, make_proof, volts_at_pumps
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import current_of

GOOD_JOINT = 0.1  # V that a connection in good order takes at most, common practice


BY_HAND, LEAST_BY_HAND = 50e3, 5e3  # Pa on a regulator's nipple, and the least that tells anything


ALL_ON = "all pumps on"


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
        test = make_proof(
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


def pressure_proofs(study: Study) -> list[Proof]:
    """Pressures, volts and amperes with the engine off, pumps alone and together as each picture
    shows; at idle where the engine turns the pump.
    """
    circuit, electric, volts, out = (
        study.build.circuit,
        electric_pumps(study.build),
        volts_at_pumps(study),
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
    ground = harness.grounds.get(feed.branch.ground)
    on = sum(current_of(solution, p) for p in ground.pumps) * ground.wire.ohm if ground else 0.0
    rows = [
        ("earth", feed.back.ohm * own + on),
        *([("relay", contact.shared * together)] if contact is not None else []),
    ]
    return [
        make_proof(
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
