"""Acts that set what is fitted otherwise: a screw, a stage, a level, a figure of the brief."""

from dataclasses import replace
from functools import partial

from tall_heron.core.document.circuit import Stage
from tall_heron.core.document.figures import Regulator, TankLevel
from tall_heron.core.editing.fields import set_air, set_brief, set_screw, set_stage
from tall_heron.core.editing.topology import set_level
from tall_heron.core.fixing.act import Act, Acts, Candidates, Wrong
from tall_heron.core.rules.finding import FindingFigure


def screw(w: Wrong) -> Acts:
    """The regulator's screw, so far that the rail stands where it is asked."""
    e = w.element
    if e is None or not isinstance(e.figures, Regulator):
        return
    for key in (w.finding.case, "peak", "idle"):
        solved = w.study.solved.get(key)
        error = (
            w.study.rail_error(solved) if solved is not None and solved.solution.converged else None
        )
        if error is None:
            continue
        for share in (1.0, 0.6):
            kpa = round(e.figures.set_kpa - share * error[0] / 1000, 1)
            if kpa > 0 and e.properties.within_setting(kpa) == kpa:
                yield Act(
                    f"turn the screw of {e.id} to {{at}}",
                    partial(set_screw, element_id=e.id, kpa=kpa),
                    (e.id,),
                    {"at": FindingFigure(1000 * kpa, "pressure")},
                )


def runs_always(w: Wrong) -> Acts:
    """A stage that comes on by half the boost, or always."""
    boost = w.study.brief.boost_kpa
    if boost > 0:
        half = Stage(by="boost", at=round(0.5 * boost), off_at=round(0.35 * boost))
        yield Act(
            f"let {w.part} come on from {{at}} of boost",
            lambda build: set_stage(build, w.part, half),
            (w.part,),
            {"at": FindingFigure(1000 * half.at, "pressure")},
        )
    yield Act(f"let {w.part} run always", lambda build: set_stage(build, w.part, None), (w.part,))


def always_on(w: Wrong) -> Acts:
    """A staged pump that does not run where the others fall short."""
    for e in w.build.circuit.of_kind("pump"):
        if e.id in w.study.peak.case.point.off:
            yield from runs_always(Wrong(w.study, replace(w.finding, element_id=e.id), w.own))


def sooner(w: Wrong) -> Acts:
    """A stage that comes on sooner."""
    for e in w.build.circuit.of_kind("pump"):
        stage = e.stage
        if stage is None or stage.by == "switch":
            continue
        for share in (0.75, 0.5, 0.25):
            new = Stage(
                by=stage.by, at=round(share * stage.at, 2), off_at=round(0.7 * share * stage.at, 2)
            )
            at = {
                "boost": "{at} of boost",
                "speed": f"{new.at:,.0f} rpm",
                "duty": f"{100 * new.at:.0f} % of duty",
            }[stage.by]
            figures = (
                {"at": FindingFigure(1000 * new.at, "pressure")} if stage.by == "boost" else {}
            )
            yield Act(
                f"let {e.id} come on from {at}",
                lambda build, e=e, new=new: set_stage(build, e.id, new),  # type: ignore[misc]
                (e.id,),
                figures,
            )


def staged(w: Wrong) -> Acts:
    """One of several pumps off at idle."""
    feeding = w.study.feed_path.pumps
    if len(feeding) < 2:
        return
    boost, last = w.study.brief.boost_kpa, feeding[-1].id
    if boost > 0:
        for share in (0.4, 0.25):
            at = Stage(by="boost", at=round(share * boost), off_at=round(0.6 * share * boost))
            yield Act(
                f"let {last} come on from {{at}} of boost",
                lambda build, at=at: set_stage(build, last, at),  # type: ignore[misc]
                (last,),
                {"at": FindingFigure(1000 * at.at, "pressure")},
            )
    for duty in (0.4, 0.25):
        by = Stage(by="duty", at=duty, off_at=0.7 * duty)
        yield Act(
            f"let {last} come on from {100 * duty:.0f} % of duty",
            lambda build, by=by: set_stage(build, last, by),  # type: ignore[misc]
            (last,),
        )


def quarter_full(w: Wrong) -> Acts:
    """A level within the tank."""
    e = w.element
    if e is not None and isinstance(e.figures, TankLevel) and e.properties.high_mm:
        mm = round(0.25 * e.properties.high_mm)
        yield Act(
            f"enter that fuel is {{level}} over the outlet of {e.id}",
            lambda build: set_level(build, e.id, mm),
            (e.id,),
            {"level": FindingFigure(mm / 1000, "length")},
        )


def vent_clear(w: Wrong) -> Acts:
    """What was typed of the air in a tank, taken back once its vent is clear."""
    e = w.element
    if e is not None and isinstance(e.figures, TankLevel) and e.figures.gauge_kpa < 0:
        yield Act(
            f"clear the vent of {e.id}: it stands at the air then",
            lambda build: set_air(build, e.id, 0.0),
            (e.id,),
        )


def brief(field: str, value: object, words: str) -> Candidates:
    """A figure of the brief."""

    def acts(_: Wrong) -> Acts:
        yield Act(words, lambda build: set_brief(build, field, value))

    return acts


def fed_as_drawn(w: Wrong) -> Acts:
    """The brief as the circuit feeds."""
    kind = (
        "carburettor" if w.element is not None and w.element.kind == "carburettor" else "injection"
    )
    yield Act(
        f"set in the brief that {'a carburetor' if kind == 'carburettor' else 'injection'} feeds the engine",
        lambda build: set_brief(build, "feeding", kind),
    )
