"""Acts on how lines run through the vehicle."""

from functools import partial

from tall_heron.core.editing.route import (
    add_bulkhead,
    add_guard,
    draw_line,
    set_grommet,
    set_radius,
    suggest_clamps,
)
from tall_heron.core.fixing.act import Act, Acts, Candidates, Wrong
from tall_heron.core.routing.laid import least_radius
from tall_heron.core.routing.suggest import suggestions
from tall_heron.core.rules.finding import FindingFigure
from tall_heron.core.rules.route import laid_of

MOST_WAYS = 3


def clamped(w: Wrong) -> Acts:
    """Clamped as often as its size asks."""
    yield Act(
        f"clamp {w.part} as often as its size requires",
        lambda build: suggest_clamps(build, w.part),
        (w.part,),
    )


def ways(w: Wrong) -> Acts:
    """The ways that are suggested for the line."""
    laid = laid_of(w.study)
    line = laid.lines.get(w.part)
    if line is None:
        return
    for i, way in enumerate(suggestions(laid, line)[:MOST_WAYS], start=1):
        corners = list(way.corners)
        yield Act(
            f"lead {w.part} along way {i} of those suggested",
            lambda build, corners=corners: draw_line(build, w.part, corners),  # type: ignore[misc]
            (w.part,),
        )


def guarded(kind: str, word: str) -> Candidates:
    """Protected where it passes, then all the way."""

    def acts(w: Wrong) -> Acts:
        line = laid_of(w.study).lines.get(w.part)
        if line is None:
            return
        total = float(line.path.along[-1])
        spot = w.finding.spot
        if spot is not None:
            from_mm = min(
                range(0, int(total) + 1, 10),
                key=lambda s: sum(
                    (a - b) ** 2 for a, b in zip(line.path.at(float(s)), spot, strict=True)
                ),
            )
            for half in (200.0, 500.0):
                words = f"put {word} over {w.part} for {{long}} where it passes"
                yield Act(
                    words,
                    partial(
                        add_guard, line=w.part, kind=kind, start=from_mm - half, end=from_mm + half
                    ),
                    (w.part,),
                    {"long": _mm(2 * half)},
                )
        yield Act(
            f"put {word} over all of {w.part}",
            partial(add_guard, line=w.part, kind=kind, start=0.0, end=total),
            (w.part,),
        )

    return acts


def crossed(w: Wrong) -> Acts:
    """A grommet or a bulkhead fitting where it goes through."""
    for panel in laid_of(w.study).outline.panels:
        if (panel.title or panel.name) in w.finding.title:
            yield Act(
                f"join {w.part} at the {panel.title or panel.name} by a bulkhead fitting",
                lambda build, panel=panel: add_bulkhead(build, w.part, panel.name)[0],  # type: ignore[misc]
                (w.part,),
            )
            yield Act(
                f"lead {w.part} through the {panel.title or panel.name} in a grommet",
                lambda build, panel=panel: set_grommet(build, w.part, panel.name, True),  # type: ignore[misc]
                (w.part,),
            )


def wider(w: Wrong) -> Acts:
    """Bent by no less than it may be."""
    e = w.element
    if e is not None:
        mm = 1.1 * least_radius(e)
        yield Act(
            f"bend {e.id} by {{radius}}",
            lambda build: set_radius(build, e.id, mm),
            (e.id,),
            {"radius": _mm(mm)},
        )
    yield from ways(w)


def _mm(value: float) -> FindingFigure:
    return FindingFigure(value / 1000, "length")
