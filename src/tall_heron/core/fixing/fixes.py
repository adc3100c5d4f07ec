"""The fix of a finding: the first act that, tried, clears it and brings no new Stop; and what would
have to exist where none does.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.base.constants import KPA, LPH
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.fixing import by_hand, by_route, by_setting, by_size, by_wire
from tall_heron.core.fixing.act import Act, Candidates, Wrong
from tall_heron.core.rules import (
    CASE_RULES,
    ROUTE_RULES,
    RULES,
    WIRING_RULES,
    every_cause,
    every_finding,
)
from tall_heron.core.rules.finding import AGAINST, Finding, FindingFigure
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study, make_study

EVERY = {r.id: r for r in (*RULES, *CASE_RULES, *ROUTE_RULES, *WIRING_RULES)}
fits_speed = by_size.swap(0, lambda p: p.properties.speed_control is True)
# By rule: where acts that may clear its findings come from, the plainest first.
CANDIDATES: dict[str, tuple[Candidates, ...]] = {
    "P-01": (by_setting.always_on, by_size.pumps, by_size.feed, by_size.all_sizes),
    "P-02": (by_size.returns, by_size.smaller_pumps, by_size.all_sizes),
    "P-03": (by_setting.screw, by_size.swap(1), by_size.returns, by_size.pumps, by_size.all_sizes),
    "P-04": (by_size.pumps, by_size.returns, by_size.all_sizes),
    "P-05": (by_size.swap(0, lambda p: getattr(p.figures, "reference", "") != "atmosphere"),),
    "P-06": (by_size.twins(1), by_size.pumps, by_size.all_sizes),
    "P-07": (by_size.feed, by_size.twins(1), by_size.all_sizes),
    "P-08": (by_size.swap(1), by_size.all_sizes),
    "P-09": (by_size.returns, by_size.smaller_pumps, by_size.all_sizes),
    "P-10": (by_size.twins(0), by_size.feed, by_size.all_sizes),
    "P-11": (by_size.swap(),),
    "P-13": (by_hand.way_back, by_size.twins(0, lambda p: p.properties.dead_heads is True)),
    "P-14": (by_hand.gauge,),
    "P-15": (by_size.feed, by_size.suction, by_size.all_sizes),
    "P-17": (by_size.smaller_pumps,),
    "P-18": (by_setting.runs_always,),
    "P-19": (by_setting.screw, by_hand.low_pressure, by_size.all_sizes),
    "P-20": (by_size.twins(-1),),
    "P-21": (by_hand.of_its_size, by_size.all_sizes),
    "P-23": (by_size.pumps, by_size.all_sizes),
    "S-01": (by_size.suction, by_hand.lower, by_size.lower_need, by_size.all_sizes),
    "S-02": (
        by_hand.lower,
        by_size.swap(0, lambda p: p.properties.inlet_height_max_mm is not None),
    ),
    "S-03": (by_size.swap(1), by_size.all_sizes),
    "S-04": (by_hand.straight,),
    "S-05": (by_hand.under_the_line,),
    "S-06": (by_size.suction, by_hand.lower, by_size.all_sizes),
    "S-07": (by_size.twins(0, lambda p: p.properties.mount == "external"), by_hand.lower),
    "S-08": (by_hand.suction_hose, by_size.twins(0, lambda p: p.properties.mount == "in-tank")),
    "S-09": (by_hand.deeper_tank,),
    "S-10": (by_hand.hang,),
    "F-01": (by_hand.change_over,),
    "F-02": (by_size.swap(0, lambda p: (p.properties.micron or 0.0) >= 40.0),),
    "F-03": (by_hand.strain,),
    "F-04": (by_hand.fine,),
    "F-05": (by_hand.turn,),
    "F-06": (by_hand.turn,),
    "F-07": (by_size.swap(1), by_size.all_sizes),
    "M-01": (by_size.swap(),),
    "M-04": (by_size.swap(0, lambda p: p.properties.medium != "paper"),),
    "M-06": (by_hand.maker_allows, by_size.swap()),
    "M-05": (by_size.swap(0, lambda p: p.properties.conductive is not False),),
    "H-01": (by_size.swap(),),
    "H-02": (by_size.swap(0), by_hand.way_back, by_size.all_sizes),
    "H-03": (by_hand.straight,),
    "H-04": (by_hand.straight,),
    "H-05": (by_hand.own_ends,),
    "H-06": (by_hand.own_ends,),
    "H-07": (by_hand.straight,),
    "H-09": (by_size.swap(0, lambda p: p.properties.immersion is True),),
    "L-01": (by_hand.vented,),
    "L-02": (by_hand.roll_over,),
    "L-03": (by_hand.check_behind,),
    "L-04": (by_hand.to_the_tank,),
    "L-05": (by_hand.relieve,),
    "L-06": (by_hand.way_back,),
    "L-07": (by_hand.line_of("reference", "a reference line from the plenum"),),
    "L-08": (by_size.pumps, by_hand.second, by_size.all_sizes),
    "L-09": (by_hand.shut_off,),
    "L-10": (by_size.lift_pumps, by_size.all_sizes),
    "L-11": (
        by_hand.line_of("overflow", "an overflow from its top back to the tank"),
        by_size.swap(1),
        by_size.all_sizes,
    ),
    "L-12": (by_hand.select,),
    "L-13": (by_hand.damp,),
    "L-14": (fits_speed, by_size.all_sizes),
    "L-15": (by_hand.senses,),
    "L-16": (by_hand.tank,),
    "L-17": (by_hand.jet_suction, by_size.twins(0), by_size.all_sizes),
    "L-18": (by_hand.gascolator,),
    "L-19": (by_size.all_sizes,),
    "L-20": (by_hand.tank,),
    "L-21": (by_setting.quarter_full, by_hand.tank),
    "L-22": (by_hand.tank,),
    "L-23": (by_hand.tank,),
    "L-25": (by_hand.to_the_tank,),
    "L-26": (by_hand.drop_tube,),
    "L-27": (by_setting.vent_clear, by_size.swap(1)),
    "L-29": (by_hand.out,),
    "E-02": (by_setting.brief("ethanol_range", "as sold", "look at all that is sold as E85"),),
    "E-03": (by_setting.fed_as_drawn,),
    "C-01": (by_size.twins(1), by_size.all_sizes),
    "C-02": (by_size.suction, by_size.lower_need, by_hand.lower, by_size.all_sizes),
    "C-03": (by_size.all_sizes,),
    "C-04": (by_setting.sooner, by_size.pumps),
    "C-06": (by_hand.senses,),
    "C-08": (by_size.swap(1),),
    "C-09": (by_setting.staged, by_size.smaller_pumps, by_size.all_sizes),
    "W-01": (by_wire.thicker, by_wire.relay_rating),
    "W-02": (by_wire.by_rule,),
    "W-03": (by_wire.fuse,),
    "W-04": (by_wire.fuse,),
    "W-05": (by_wire.relay_rating,),
    "W-06": (
        by_wire.cut_off("fit an inertia switch", inertia=True, breaks="supply"),
        by_wire.cut_off(
            "let the control unit hold the relay, and fit an inertia switch",
            automatic=True,
            control_unit=True,
            inertia=True,
            breaks="supply",
        ),
        by_wire.cut_off(
            "let an oil-pressure switch hold the relay, and fit an inertia switch",
            automatic=True,
            oil_switch=True,
            start_bypass=True,
            inertia=True,
            breaks="supply",
        ),
    ),
    "W-07": (
        by_wire.cut_off(
            "fit an inertia switch that breaks the supply itself", inertia=True, breaks="supply"
        ),
    ),
    "W-08": (
        by_wire.cut_off(
            "bypass the oil switch while the starter turns", start_bypass=True, crank=True
        ),
    ),
    "W-09": (by_wire.capped,),
    "W-10": (by_wire.apart,),
    "W-11": (
        by_wire.cut_off(
            "give each pump a switch and nothing else",
            automatic=False,
            inertia=False,
            roll_over=False,
        ),
    ),
    "W-12": (
        by_wire.cut_off(
            "fit a kill switch with a pole for the alternator", kill="battery and alternator"
        ),
    ),
    "W-13": (by_wire.alternator, by_setting.staged, by_size.smaller_pumps),
    "W-15": (by_wire.branch,),
    "W-16": (by_wire.pull_up,),
    "W-17": (by_wire.goes_off_lower,),
    "W-19": (by_wire.relay_at,),
    "R-01": (by_route.wider,),
    "R-02": (by_route.ways,),
    "R-03": (by_route.ways,),
    "R-05": (
        by_route.guarded("heat shield", "a heat shield"),
        by_route.guarded("sleeve", "a sleeve"),
        by_route.ways,
    ),
    "R-06": (by_route.ways,),
    "R-07": (by_route.ways,),
    "R-08": (by_route.guarded("sleeve", "a sleeve"), by_route.ways),
    "R-09": (by_route.guarded("separator", "separators"), by_route.ways),
    "R-10": (by_route.guarded("stone guard", "a cover"), by_route.ways),
    "R-11": (by_route.guarded("sleeve", "a sleeve"), by_route.ways),
    "R-29": (by_route.ways,),
    "R-12": (by_route.guarded("stone guard", "a guard"), by_route.ways),
    "R-13": (by_route.guarded("stone guard", "a guard"), by_route.ways),
    "R-14": (by_route.clamped,),
    "R-15": (by_route.ways,),
    "R-16": (by_route.ways,),
    "R-17": (by_route.crossed,),
    "R-19": (by_route.ways,),
    "R-22": (by_route.ways,),
    "R-27": (by_route.ways,),
}
MOST_TRIED = 24  # acts for one finding


@dataclass(frozen=True)
class Fix:
    """An act that was tried and clears a finding: its `words` with their figures, the tags it is
    about, the build it makes and what is left against that.
    """

    words: str
    figures: dict[str, FindingFigure]
    parts: tuple[str, ...]
    build: Build
    left: int


def fix_of(study: Study, finding: Finding, own: Sequence[ShelfPart] = ()) -> Fix | None:
    """The first act that clears a finding and brings no new Stop, and where it is a Check no new
    Check either; None where none does.
    """
    return _fix.under(study, (key_of(finding), *own), lambda: _fix.make(study, finding, own))


@derived()
def _causes(study: Study) -> list[Finding]:
    return every_cause(study)


def key_of(finding: Finding) -> str:
    """What a finding is known by from one look to the next."""
    return f"{finding.rule} {finding.element_id} {finding.case}"


@derived()
def _fix(study: Study, finding: Finding, own: Sequence[ShelfPart]) -> Fix | None:
    before = _causes(study)
    wrong, tried = Wrong(study, finding, own), 0
    for candidates in CANDIDATES.get(finding.rule, ()):
        try:
            for act in candidates(wrong):
                tried += 1
                if tried > MOST_TRIED:
                    return None
                cleared = _tried(study, finding, act, before)
                if cleared is not None:
                    return cleared
        except BuildErrors:
            continue
    return None


def _tried(study: Study, finding: Finding, act: Act, before: Sequence[Finding]) -> Fix | None:
    """An act made: what it comes to, None where it does not clear the finding or brings something
    as bad.
    """
    try:
        build = act.make(study.build)
    except (BuildErrors, ValueError, StopIteration):
        return None
    after = make_study(build, like=study)
    rule = EVERY[finding.rule]
    known = {(f.element_id, f.level) for f in before if f.rule == finding.rule} - {
        (finding.element_id, finding.level)
    }
    if rule.applies(after) and any(
        (f.element_id, f.level) not in known and _as_bad(f, finding) for f in rule.look(after)
    ):
        return None
    left = every_cause(after)
    bad = {(f.rule, f.element_id) for f in before if f.level == "Stop"}
    if any(f.level == "Stop" and (f.rule, f.element_id) not in bad for f in left):
        return None
    against = [f for f in left if f.level in AGAINST]
    known_before = {(f.rule, f.element_id) for f in before if f.level in AGAINST}
    if finding.level != "Stop" and any((f.rule, f.element_id) not in known_before for f in against):
        return None
    return Fix(
        act.words,
        act.figures,
        act.parts,
        build,
        sum(f.level in AGAINST for f in every_finding(after)),
    )


def _as_bad(f: Finding, than: Finding) -> bool:
    """Whether a finding of the same rule is still one: a Note does not count where a Stop or a
    Check was.
    """
    return f.level in AGAINST if than.level in AGAINST else True


def lacking(
    study: Study, finding: Finding, own: Sequence[ShelfPart] = ()
) -> tuple[str, dict[str, FindingFigure]]:
    """What would have to exist, where nothing clears a finding; empty where that cannot be said."""
    element = study.build.circuit.element(finding.element_id)
    if element is None:
        return "", {}
    if element.kind == "pump" and "deliver" in finding.figures and "burn" in finding.figures:
        limit = finding.figures.get("limit", FindingFigure(0.0, "fraction")).value
        needs = (1 + limit) * finding.figures["burn"].value
        asked = study.asked(study.peak)
        best = max((p.gives_lph(asked / KPA) for p in swaps_for(element, own)), default=0.0) * LPH
        figures = {
            "needs": FindingFigure(needs, "volume_flow"),
            "asked": FindingFigure(asked, "pressure"),
            "best": FindingFigure(best, "volume_flow"),
        }
        return (
            "Nothing on the shelf clears it: {needs} at {asked} are needed, and the largest pump that fits gives {best}.",
            figures,
        )
    if element.kind == "injectors" and "duty" in finding.figures:
        rated = getattr(element.figures, "rated_lph", None) or 0.0
        needs = rated * LPH * finding.figures["duty"].value / finding.figures["limit"].value
        best = (
            max(
                (getattr(p.figures, "rated_lph", 0.0) or 0.0 for p in swaps_for(element, own)),
                default=0.0,
            )
            * LPH
        )
        figures = {
            "needs": FindingFigure(needs, "volume_flow"),
            "best": FindingFigure(best, "volume_flow"),
        }
        return (
            "Nothing on the shelf clears it: each would have to pass {needs}, and the largest passes {best}. Two for each cylinder would do.",
            figures,
        )
    return "", {}
