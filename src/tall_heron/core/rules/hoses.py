"""Hoses and their ends: pressure, lengths, families, clocking."""

from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.kinds import KINDS, LINES, PIPES
from tall_heron.core.rules.finding import Finding, FindingFigure
from tall_heron.core.rules.rule import Rule, elements, has, solves_with
from tall_heron.core.rules.words import length_limit
from tall_heron.core.sheets.cut_list import make_cut_rows
from tall_heron.core.study.failures.shut_off import shut_off_pressures
from tall_heron.core.study.study import Study


def over_working_pressure(study: Study) -> Iterator[Finding]:
    """A hose bears its working pressure, no more."""
    shut_off = shut_off_pressures(study)
    for e in elements(study, *PIPES, "filter"):
        most = e.properties.working_kpa
        met = study.highest_met(e)
        blocked = max((shut_off.get(n, 0.0) for n in e.ports.values()), default=0.0)
        if most is not None and (met is None or met <= most * 1000) and blocked > most * 1000:
            figures = {
                "meets": FindingFigure(blocked, "pressure"),
                "bears": FindingFigure(most * 1000, "pressure"),
            }
            title = f"{e.id} would meet {{meets}} with the return blocked; it is made for {{bears}}"
            why = "A pinched return or a regulator that sticks shut brings the pumps to their relief or the end of their map."
            do = f"Fit a {KINDS[e.kind].word} made for it, or a relief that opens below."
            yield Finding(
                "Check",
                e.id,
                title,
                why,
                do,
                figures,
                station="circuit" if e.kind == "filter" else "hoses",
            )
        if most is not None and met is not None and met > most * 1000:
            figures = {
                "meets": FindingFigure(met, "pressure"),
                "bears": FindingFigure(most * 1000, "pressure"),
            }
            title, why = (
                f"{e.id} meets {{meets}} and is made for {{bears}}",
                "A quarter of its burst pressure is what it may carry.",
            )
            yield Finding(
                "Stop",
                e.id,
                title,
                why,
                f"Fit a {KINDS[e.kind].word} made for the pressure.",
                figures,
                station="circuit" if e.kind == "filter" else "hoses",
            )


def too_short(study: Study) -> Iterator[Finding]:
    """Cut-off allowances that leave no hose, or less than hands can hold while both ends go on."""
    least = house_figure("hose_least_free_mm")
    for cut in make_cut_rows(study.build.circuit):
        e = cut.element
        if (
            cut.cut_mm is not None
            and cut.cut_mm < least
            and e.kind == "hose"
            and (e.end_a or e.end_b)
        ):
            guessed = e.length is not None and e.length.guessed
            yield Finding(
                "Note" if guessed else "Check",
                e.id,
                f"{e.id} leaves {{cut}} of bare hose between its ends",
                "Under {least} there is nothing to hold it by while its second end goes on.",
                "Join the two parts by an adapter, or move them apart.",
                {
                    "cut": FindingFigure(cut.cut_mm / 1000, "length"),
                    "least": FindingFigure(least / 1000, "length"),
                },
                station="hoses",
            )
        if cut.cut_mm is None:
            figures = {
                "ends": FindingFigure(sum(cut.take_up_mm) / 1000, "length"),
                "whole": FindingFigure(cut.face_mm / 1000, "length"),
            }
            yield Finding(
                "Stop",
                cut.element.id,
                f"{cut.element.id} leaves no hose between its ends",
                "Its cut-off allowances are {ends} of {whole}.",
                "Choose shorter ends or move the parts apart.",
                figures,
                station="hoses",
            )


def short_and_bent(study: Study) -> Iterator[Finding]:
    """A long run forgives, a short one does not."""
    limit = house_figure("short_hose_mm") / 1000
    for cut in make_cut_rows(study.build.circuit):
        e = cut.element
        bent = [x for x in (e.end_a, e.end_b) if x is not None and x.angle_deg > 0]
        known = (
            e.length is not None
            and e.length.source == "measured"
            and e.clock_source in ("measured", "route")
        )
        if cut.cut_mm is not None and len(bent) == 2 and cut.cut_mm / 1000 < limit and not known:
            figures = {
                "cut": FindingFigure(cut.cut_mm / 1000, "length"),
                "limit": FindingFigure(limit, "length"),
            }
            title = f"{e.id} is short, {{cut}}, with both ends bent"
            yield Finding(
                "Note" if e.length is not None and e.length.guessed else "Check",
                e.id,
                title,
                "Under {limit} a few millimeters or degrees off do not fit.",
                "Measure it in the car before you cut.",
                figures,
                station="hoses",
            )


def families_do_not_match(study: Study) -> Iterator[Finding]:
    """An end holds only the hose it is made for."""
    for e in elements(study, *LINES):
        for side, end in (("A", e.end_a), ("B", e.end_b)):
            if (
                end is not None
                and end.family
                and e.properties.family
                and end.family != e.properties.family
            ):
                why = f"A {end.family} end does not seal or hold on {e.properties.family} hose; it blows off."
                yield Finding(
                    "Stop",
                    e.id,
                    f"{e.id} end {side} is for {end.family} hose, not {e.properties.family}",
                    why,
                    "Fit the end of the hose's own family.",
                    station="hoses",
                )


def sizes_do_not_match(study: Study) -> Iterator[Finding]:
    """An end of another size."""
    for e in elements(study, *LINES):
        for side, end in (("A", e.end_a), ("B", e.end_b)):
            if end is not None and end.dash and e.properties.dash and end.dash != e.properties.dash:
                yield Finding(
                    "Stop",
                    e.id,
                    f"{e.id} end {side} is {end.dash} on {e.properties.dash} hose",
                    "It cannot be assembled.",
                    "Fit an end of the hose's size.",
                    station="hoses",
                )


def clock_not_said(study: Study) -> Iterator[Finding]:
    """Two bent ends stand at an angle to each other."""
    for e in elements(study, *LINES):
        bent = [x for x in (e.end_a, e.end_b) if x is not None and x.angle_deg > 0]
        if len(bent) == 2 and e.clock_deg is None:
            why = "Both ends are bent; whoever assembles it must know how they stand to each other."
            yield Finding(
                "Check",
                e.id,
                f"{e.id} has no clocking angle",
                why,
                "Measure the angle of B from A, seen from B, clockwise.",
                station="hoses",
            )


RULES = (
    Rule(
        "H-02",
        "No hose or filter meets more than its working pressure.",
        "a quarter of burst, SAE J517, from memory",
        over_working_pressure,
        solves_with(*PIPES, "filter"),
    ),
    Rule(
        "H-03",
        f"Every hose is longer than its cut-off allowances, by {length_limit(house_figure('hose_least_free_mm'))} or more.",
        "arithmetic; common practice",
        too_short,
        has(*LINES),
    ),
    Rule(
        "H-04",
        f"No hose under {length_limit(house_figure('short_hose_mm'))} has both ends bent.",
        "common practice",
        short_and_bent,
        has(*LINES),
    ),
    Rule(
        "H-05",
        "Hose and ends are of one family.",
        "maker's statement",
        families_do_not_match,
        has(*LINES),
    ),
    Rule("H-06", "Hose and ends are of one size.", "arithmetic", sizes_do_not_match, has(*LINES)),
    Rule(
        "H-07",
        "Hoses with two bent ends have a clocking angle.",
        "common practice",
        clock_not_said,
        has(*LINES),
    ),
)
