"""Limits belong to moments: what an engine does at one, and which figure of rail pressure or
suction is a Check or a Stop there.

| | steady load | a moment of load | light | overrun, cranking | thin air or dirt |
|---|---|---|---|---|---|
| rail under its target | 2 %, 5 % | 2 %, 15 % | | | 5 %, 15 % |
| rail over its target | | | 5 %, never a Stop | | |
| suction over boiling | need and 5 kPa, need | need, 0 | need and 5 kPa, need | need, 0 | need, 0 |

The figures are house_figures.csv's; a carburetor's few psi bear other shares (`allowance`).
"""

from typing import Literal

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Displacement, PumpMap
from tall_heron.core.study.demand import allowance

Phase = Literal["load", "moment", "light", "overrun", "cranking", "worse"]
Level = Literal["", "Check", "Stop"]
LIGHT = ("idle", "cruise", "descent")  # how the keys of moments begin at which little is burnt
OVERRUN = ("braking", "over-rev")
CRANKING = "cranking"
LASTS = ("climb",)  # leans, and lasts for minutes
WORSE = ("hot and high",)
CLOGGED = " clogged"  # how the keys of moments end at which a filter is half full of dirt


def phase_of(key: str, kind: str = "peak", leans: bool = False) -> Phase:
    """What an engine does at a moment of a key, a kind of case, and whether the vehicle speeds up,
    turns or tilts there.
    """
    if key in OVERRUN:
        return "overrun"
    if key == CRANKING:
        return "cranking"
    if kind == "idle" or key.startswith(LIGHT) or key.startswith("slip"):
        return "light"
    if key in WORSE or key.endswith(CLOGGED):
        return "worse"
    return "moment" if leans and key not in LASTS else "load"


def bowl_carries(brief: Brief, phase: Phase) -> bool:
    """Whether a carburetor's bowl carries the engine over a moment, whatever comes to its needle: a
    corner or a start from a light, not a drag strip.
    """
    return brief.carbureted and phase in ("moment", "overrun") and brief.use != "drag"


def rail_under(brief: Brief, phase: Phase) -> float:
    """By what share of its target a rail may stand under it before that is a Check [-]; a bowl
    bears for a moment what it would not for long, and a filter that is due for a change may be
    felt.
    """
    return allowance(
        brief,
        "rail_error_stop"
        if phase == "worse" or (brief.carbureted and phase == "moment")
        else "rail_error_check",
    )


def rail_stop(brief: Brief, phase: Phase) -> float:
    """By what share of its target a rail may stand under it before that is a Stop [-], never less
    than what is a Check.
    """
    return max(
        house_figure("rail_moment_stop")
        if phase in ("moment", "worse")
        else allowance(brief, "rail_error_stop"),
        rail_under(brief, phase),
    )


def rail_level(brief: Brief, share: float, phase: Phase) -> Level:
    """How bad a rail pressure is that stands off its target by a share of it [-], above 0 too high."""
    if share >= 0:
        return "Check" if phase == "light" and share > allowance(brief, "rail_over_check") else ""
    if phase in ("light", "overrun", "cranking"):
        return ""
    return (
        "Stop"
        if -share > rail_stop(brief, phase)
        else "Check"
        if -share > rail_under(brief, phase)
        else ""
    )


def rail_room(brief: Brief, share: float, phase: Phase) -> float:
    """What is used of what is a Check there [-]; 0 where nothing is asked."""
    if share >= 0:
        return share / allowance(brief, "rail_over_check") if phase == "light" else 0.0
    unasked = phase in ("light", "overrun", "cranking")
    return -share / rail_under(brief, phase) if not unasked else 0.0


def suction_need(pump: Element) -> float:
    """How far above boiling a pump's inlet must stay [Pa], its net positive suction head: its
    maker's figure, or what its kind usually needs.
    """
    own = pump.properties.suction_need_kpa
    if own is not None:
        return own * 1000
    part = pump.figures
    kind = (
        "engine"
        if isinstance(part, Displacement)
        else part.kind
        if isinstance(part, PumpMap)
        else "turbine"
    )
    return house_figure(f"suction_need_{kind}")


def suction_limits(pump: Element, phase: Phase) -> tuple[float, float]:
    """Margins above boiling under which a pump's inlet is a Check and a Stop [Pa]."""
    need = suction_need(pump)
    return (
        (need + house_figure("suction_reserve"), need)
        if phase in ("load", "light")
        else (need, 0.0)
    )
