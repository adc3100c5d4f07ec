"""The five figures at the head of the Route page, each with its arithmetic."""

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.document.sources import SOURCE_WORDS
from tall_heron.core.routing.laid import LaidLine, spacing
from tall_heron.core.routing.limits import near_zone
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.route import laid_of, lines_of
from tall_heron.core.rules.route_parts import parts_in_cabin
from tall_heron.core.study.study import Study
from tall_heron.web.show.figures import HeadFigure
from tall_heron.web.show.text import bare, shown, unit_of


def route_figures(study: Study, findings: list[Finding]) -> list[HeadFigure]:
    """Line in the vehicle, the nearest to heat, the tightest bend, clamps, joints in the cabin:
    always five.
    """
    lines = lines_of(study)
    undrawn = sum(not x.drawn for x in lines)
    guess = f"{undrawn} of {len(lines)} lines" if undrawn else ""
    rules = {f.rule for f in findings}
    return [
        _length(lines, guess),
        _heat(study, lines, guess),
        _bend(lines, rules, guess),
        _clamps(lines, findings, guess),
        _joints(study, findings),
    ]


def _length(lines: list[LaidLine], guess: str) -> HeadFigure:
    def step(x: LaidLine) -> str:
        if abs(x.counted - x.length) > 0.6:
            return f"{x.element.id}: {shown(x.counted / 1000, 'length')}, {SOURCE_WORDS[x.element.length.source] if x.element.length is not None else 'drawn'}"
        return f"{x.element.id}: {shown(x.run.center_line / 1000, 'length')} between its sockets and {shown((x.length - x.run.center_line) / 1000, 'length')} in the legs of its ends"

    total = sum(x.counted for x in lines) / 1000
    return HeadFigure(
        "hose",
        bare(total, "run"),
        unit_of("run"),
        f"of line, {len(lines)} lengths",
        False,
        Why(tuple(map(step, lines)), "Straights, and for each bend R θ less 2 R tan(θ/2)."),
        guess,
    )


def _heat(study: Study, lines: list[LaidLine], guess: str) -> HeadFigure:
    outline = laid_of(study).outline
    met = [
        (n, x.drawn)
        for x in lines
        for z in outline.zones
        if z.kind == "hot" and (n := near_zone(x, z, outline.flies)) is not None
    ]
    if not met:
        return HeadFigure(
            "heat",
            bare(None, "length"),
            unit_of("length"),
            "nothing hot is near",
            False,
            Why(("The vehicle has no hot zone, or no line.",), ""),
            guess,
        )
    near, drawn = min(
        met, key=lambda m: m[0].clear - m[0].limit.mm
    )  # of what nobody drew it is a guess, and nothing wrong
    why = Why(
        (f"From the surface of the line to that of the {near.zone.title or near.zone.name}.",),
        near.limit.source,
    )
    return HeadFigure(
        "heat",
        bare(max(near.clear, 0.0) / 1000, "length"),
        unit_of("length"),
        f"nearest to heat, want {bare(near.limit.mm / 1000, 'length')}",
        near.short and drawn,
        why,
        guess,
    )


def _bend(lines: list[LaidLine], rules: set[str], guess: str) -> HeadFigure:
    bent = [
        (x.radius / least, least, x)
        for x in lines
        if x.run.bends and (least := x.element.properties.bend_radius_mm)
    ]
    if not bent:
        return HeadFigure(
            "bend",
            bare(None, "length"),
            unit_of("length"),
            "no line bends",
            False,
            Why(("No line bends, or none says its least bend.",), ""),
            guess,
        )
    _, least, x = min(bent, key=lambda b: b[0])
    why = Why(
        (
            f"{x.element.id}: its sheet allows {shown(least / 1000, 'length')}; drawn with {shown(x.radius / 1000, 'length')}.",
        ),
        "The sheet of the hose or line.",
    )
    return HeadFigure(
        "bend",
        bare(x.radius / 1000, "length"),
        unit_of("length"),
        f"tightest bend, {x.element.id} wants {bare(least / 1000, 'length')}",
        bool({"R-01", "R-02"} & rules),
        why,
        guess,
    )


def _clamps(lines: list[LaidLine], findings: list[Finding], guess: str) -> HeadFigure:
    short = sum(f.rule == "R-14" for f in findings)
    words = "clamps" if not short else f"clamps, {short} {'line' if short == 1 else 'lines'} short"
    steps = tuple(
        f"{x.element.id}: {len(x.clamps)}, at most {shown(spacing(x.element) / 1000, 'length')} apart"
        for x in lines
    )
    return HeadFigure(
        "clamps",
        str(sum(len(x.clamps) for x in lines)),
        "",
        words,
        bool(short),
        Why(steps, "AC 43.13-1B, from memory."),
        guess,
    )


def _joints(study: Study, findings: list[Finding]) -> HeadFigure:
    inside = [name for name, _, said in parts_in_cabin(study) if said]
    worst = next((f.level for f in findings if f.rule == "R-18"), "")
    why = Why(
        (
            f"In the cabin: {', '.join(inside)}."
            if inside
            else "Every part with a connection is outside the cabin.",
        ),
        "Rule R-18.",
    )
    return HeadFigure(
        "joints", str(len(inside)), "", "parts with connections in the cabin", worst == "Stop", why
    )
