"""The first circuit of a build: what its line asks for, laid out and sized."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from tall_heron.core.base.catalogue import house_figure, table
from tall_heron.core.base.constants import KPA
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.sources import with_source
from tall_heron.core.document.space import Space
from tall_heron.core.document.wish import MOST_BOWLS, Wish
from tall_heron.core.editing.drawn import followed
from tall_heron.core.editing.layouts import LAYOUTS, layouts_for
from tall_heron.core.editing.layouts.layout import Layout
from tall_heron.core.editing.layouts.picks import Rails
from tall_heron.core.routing.outline import usual_outline
from tall_heron.core.sizing.auto_size import Proposal, proposed
from tall_heron.core.sizing.on_hand import answered, pumps_wanted, with_tank
from tall_heron.core.sizing.pump_count import MOST_PUMPS, lacks, reaches

TWO_BANKS_FROM = 7  # cylinders: an engine of more is a V or flat, unless it says otherwise
LARGER_AFTER, LARGER = "C1", ("C11", "C9")


# What a line leaves open: power of a usual engine, the fuel of its use, the pressure its kind of
# feeding runs on [kPa].
USUAL_POWER_KW = 224.0
LAPSE_C_PER_M = 0.0065  # isa-1976
PUMPED, PUMPED_BOWL_KPA = (
    ("A2", "A7", "C9"),
    31.0,
)  # layouts of an aircraft whose bowl is pumped to, at 4.5 psi
USUAL_BASE_KPA = {
    ("injection", "road"): 300.0,
    ("injection", "air"): 300.0,
    ("carburettor", "road"): 45.0,
    ("carburettor", "air"): 3.5,
}


def first_brief(fields: dict[str, Any], wanted: str = "", outline: str = "") -> Brief:
    """A brief from what a line says, the rest as usual for it, so many cylinders and their volume
    among it; a layout that is asked for says how the engine is fed, an outline what it drives.
    Raises pydantic's ValidationError.
    """
    layout = LAYOUTS.get(wanted)
    asked = (
        {"feeding": layout.feeding, "use": "flight" if layout.craft == "air" else "street"}
        if layout is not None
        else {}
    ) | fields
    feeding, craft = (
        asked.get("feeding", "injection"),
        "air" if asked.get("use") == "flight" else "road",
    )
    cylinders = asked.get("cylinders") or usual_cylinders(
        outline if outline == "motorcycle" else asked.get("use", ""),
        asked.get("power_kw", USUAL_POWER_KW),
        asked.get("displacement_l"),
        feeding == "carburettor",
    )
    liters = house_figure("cylinder_air_l" if craft == "air" else "cylinder_road_l") * cylinders
    base = (
        PUMPED_BOWL_KPA
        if wanted in PUMPED and feeding == "carburettor"
        else USUAL_BASE_KPA.get((feeding, craft), USUAL_BASE_KPA["injection", craft])
    )
    usual = {
        "cylinders": cylinders,
        "displacement_l": liters,
        "power_kw": USUAL_POWER_KW,
        "fuel": "100LL" if craft == "air" else "E10",
        "base_kpa": base,
    }
    if "altitude_m" in asked:
        usual["fuel_temperature_c"] = _high_up(asked["altitude_m"])
    return Brief.model_validate(usual | asked)


def usual_cylinders(what: str, power_kw: float, liters: float | None, bowl: bool = False) -> int:
    """How many cylinders are usual for what it is for [flight, motorcycle, drag, else road], its power
    [kW] and its displacement [L], None where nobody says, and whether a carburetor feeds it.

    >>> usual_cylinders("drag", 900.0, None), usual_cylinders("street", 150.0, 2.0)
    (8, 4)
    """
    road = "road" if liters is not None else "carburetor of no size" if bowl else "road of no size"
    craft = what if what in ("flight", "motorcycle", "drag") else road
    return next(
        int(row["cylinders"])
        for row in table("usual_engines")
        if row["craft"] == craft
        and (row["to_l"] is None or (liters is not None and liters <= row["to_l"]))
        and (row["to_kw"] is None or power_kw <= row["to_kw"])
    )


def _high_up(altitude_m: float) -> float:
    """The hottest fuel [degC] that is usual at a height [m]: cooler by a share of what the standard
    atmosphere is there (isa-1976).
    """
    cooler = house_figure("fuel_cools_with_air") * LAPSE_C_PER_M * max(altitude_m, 0.0)
    return float(round(Brief.model_fields["fuel_temperature_c"].default - cooler))


@dataclass(frozen=True)
class First:
    """A build as it is `laid` out with usual parts, and as it is sized."""

    laid: Build
    sized: Build


def first_layout(brief: Brief, wanted: str = "") -> Layout:
    """The layout a line asks for, where it suits engine and use, or its like in the air; else the
    usual one.
    """
    if wanted == "C9" and (brief.use == "flight" or brief.carbureted):  # a pump on the engine
        wanted = "C13" if brief.use != "flight" else "A2" if brief.carbureted else "A8"
    suits = {layout.key: layout for layout, _ in layouts_for(brief)}
    falls = brief.base_kpa <= house_figure("gravity_most") / KPA  # what height can give
    usual = next(key for key in suits if key != "A1" or falls)
    return suits.get(wanted, suits[usual])


def first_rails(brief: Brief, layout: Layout, banks: int | None, wanted: str = "") -> Rails:
    """Rails as they are asked for, or by bank: two where the engine has two, side by side above
    what the house marks, else one after the other.
    """
    wanted_parts = next((r for r in layout.rails if r == wanted), None)
    if wanted_parts is not None and brief.cylinders > 1:
        return wanted_parts
    two = banks == 2 or (banks is None and brief.cylinders >= TWO_BANKS_FROM)
    if not two or brief.carbureted or brief.cylinders < 2:
        return "single"
    asked: Rails = "parallel" if brief.most_power > house_figure("rails_parallel") else "series"
    return (
        asked
        if asked in layout.rails
        else next((r for r in layout.rails if r != "single"), "single")
    )


def left_open(brief: Brief, fields: Iterable[str]) -> list[str]:
    """The figures of a brief that nobody has said: all but those of some `fields`, and what it can
    be without.
    """
    return [
        name
        for name in Brief.model_fields
        if name not in (*fields, "title") and getattr(brief, name) is not None
    ]


def first_build(
    name: str,
    brief: Brief,
    typed: dict[str, str],
    wanted: str = "",
    banks: int | None = None,
    assumed: Sequence[str] = (),
    wishes: Sequence[Wish] = (),
    rails: str = "",
    outline: str = "",
) -> First:
    """A build from its brief: the usual layout, rails by bank, and of one, two or three pumps the
    fewest that meet what is asked, for later power where that is asked, with all else sized to
    them; what somebody has or asks for is held to. Lengths are those of the usual ways in an
    outline.
    """
    layout = first_layout(brief, wanted)
    wanted_parts, space = (
        list(wishes),
        Space.model_validate({"outline": outline or usual_outline(brief)}),
    )

    def laid_out(plan: Layout, asked: Brief, more: dict[str, Any]) -> Build:
        picks = plan.picks(
            **plan.more(brief, space.outline or ""),
            rails=first_rails(brief, plan, banks, rails),
            bowls=_bowls(plan, wanted_parts),
            **more,
        )
        circuit = with_tank(plan.build(brief, picks), wanted_parts)
        return _guessed(
            Build(
                name=name,
                brief=asked,
                circuit=circuit,
                typed=typed,
                wishes=wanted_parts,
                space=space,
            )
        )

    laid = laid_out(layout, brief, {}).model_copy(update={"assumed": list(assumed)})
    asked = brief.model_copy(update={"power_kw": max(brief.power_kw, brief.later_power_kw or 0.0)})
    best: Proposal | None = None
    plans = list(_plans(layout, brief, wanted, pumps_wanted(wanted_parts)))
    for i, (plan, count) in enumerate(plans):
        more: dict[str, Any] = {"pumps": (plan.picks().pumps[0],) * count} if count else {}
        build = laid_out(plan, asked, more)
        if i + 1 < len(plans) and not reaches(build):
            continue
        lifting = plan.picks().lift_pumps
        while lifting < MOST_PUMPS and not reaches(
            build, "lift pump"
        ):  # as many that lift as it takes
            lifting += 1
            build = laid_out(plan, asked, more | {"lift_pumps": lifting})
        proposal = proposed(build, fresh=True)
        if best is None or lacks(best)[:2] > lacks(proposal)[:2]:  # what more pumps could mend
            best = proposal
        if not any(lacks(proposal)[:2]):
            break
    assert best is not None
    sized = laid.model_copy(update={"circuit": best.build.circuit})
    return First(laid, sized.model_copy(update={"wishes": answered(wanted_parts, sized)}))


def _bowls(layout: Layout, wishes: Sequence[Wish]) -> int:
    """How many carburetors are asked for, as far as a layout has lines for them."""
    asked = next((w.count or 1 for w in wishes if w.kind == "carburetors"), 1)
    several = layout.feeding == "carburettor" and layout.craft == "road"
    return asked if several and asked <= MOST_BOWLS else 1


def _plans(
    layout: Layout, brief: Brief, wanted: str, pumps: int | None = None
) -> Iterator[tuple[Layout, int]]:
    """Layouts with numbers of pumps to try, 0 where the layout says how many it has, one number
    where somebody says how many there are. An injected aircraft has no fewer than two pumps. Where
    three in the tank do not do on the road, larger ones beside it, and then one on the engine.
    """
    if pumps is not None and not layout.pumps_given:
        yield layout, min(pumps, MOST_PUMPS)
        return
    for plan in (
        layout,
        *(LAYOUTS[key] for key in LARGER if layout.key == LARGER_AFTER and not wanted),
    ):
        least = 2 if (brief.use == "flight" and not brief.carbureted) or plan.key == "C8" else 1
        yield from (
            (plan, count) for count in ((0,) if plan.pumps_given else range(least, MOST_PUMPS + 1))
        )


def _guessed(build: Build) -> Build:
    """The build with its lengths, heights, clocks and levels marked as what they are, and as the
    usual ways in the outline of its vehicle make them: nobody has measured them.
    """
    return followed(
        build.model_copy(update={"circuit": with_source(build.circuit, "assumed")}), undrawn=True
    )
