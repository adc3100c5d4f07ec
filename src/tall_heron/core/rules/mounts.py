"""Where pumps sit, and what lies in the fuel with them."""

from collections.abc import Iterator

from tall_heron.core.document.mounts import IN_TANK, Hung, hung_pumps, stands_outside
from tall_heron.core.document.path import upstream, ways
from tall_heron.core.document.tank_shape import depth_mm
from tall_heron.core.rules.finding import Finding, FindingFigure
from tall_heron.core.rules.rule import Rule, elements
from tall_heron.core.study.study import Study

UNDER_MM = 25.0  # under a tank's outlet, as far as its floor may dip where nobody says


def _hangs(study: Study) -> bool:
    return any(e.properties.mount in IN_TANK for e in elements(study, "pump"))


def hangs_outside(study: Study) -> Iterator[Finding]:
    """A pump that the fuel round it cools and primes."""
    for hung in hung_pumps(study.build.circuit):
        if hung.within:
            yield from _under_its_tank(study, hung)
            continue
        between = [*hung.outside, *hung.lines]
        led = sum(e.length.mm for e in hung.lines if e.length is not None) / 1000
        figures = {
            "led": FindingFigure(led, "length"),
            "holds": FindingFigure(hung.reaches_mm / 1000, "length"),
        }
        tank = hung.tank.id if hung.tank is not None else "its tank"
        title = f"{hung.pump.id} is an in-tank pump mounted outside, behind {between[0].id}"
        if not hung.outside:
            title = f"{hung.pump.id} is an in-tank pump, and {{led}} of hose lead to it; {tank} is {{holds}} at its longest"
        why = "It cannot draw, and the fuel round it is what cools and quiets it."
        yield Finding(
            "Check",
            hung.pump.id,
            title,
            why,
            f"Hang it in {tank}, or fit an external pump.",
            figures,
        )


def _under_its_tank(study: Study, hung: Hung) -> Iterator[Finding]:
    """One whose inlet stands under the floor of the tank that it is made to hang in, or over its
    top.
    """
    if hung.tank is None:
        return
    facts, inlet = hung.tank.properties, ways(hung.pump)[0][0]
    over = study.height(inlet) - study.height(hung.tank.ports["outlet"])
    floor = -((facts.outlet_mm or 0.0) + (facts.sump_mm or 0.0) + UNDER_MM) / 1000
    deep = depth_mm(facts)
    if floor <= over and (deep is None or over <= deep / 1000):
        return
    figures = {"off": FindingFigure(abs(over), "length")}
    title = f"{hung.pump.id} is an in-tank pump mounted {{off}} {'under' if over < 0 else 'over'} the outlet of {hung.tank.id}: outside it"
    why = "The fuel round it is what cools and quiets it, and its seals and terminals are not made for air and spray."
    yield Finding(
        "Check",
        hung.pump.id,
        title,
        why,
        f"Hang it in {hung.tank.id}, or fit an external pump.",
        figures,
    )


def no_line_to_it(study: Study) -> Iterator[Finding]:
    """A pump made to stand beside the tank, drawn in it."""
    for pump in elements(study, "pump"):
        before = upstream(study.build.circuit, pump)
        if stands_outside(pump) and all(
            e.kind in ("strainer", "tank") and e.properties.mount != "gascolator" for e in before
        ):
            title = f"{pump.id} is an external pump, and no line leads to it"
            why = "Its motor, seals and terminals are not made to lie in fuel."
            yield Finding(
                "Check",
                pump.id,
                title,
                why,
                "Put in a suction hose before it, or fit a pump that is made to hang in the tank.",
            )


def too_long_for_its_tank(study: Study) -> Iterator[Finding]:
    """A pump must fit between the tank's top and its floor."""
    for hung in hung_pumps(study.build.circuit):
        long, deep = (
            hung.pump.properties.long_mm,
            depth_mm(hung.tank.properties) if hung.tank is not None else None,
        )
        if (
            hung.within
            and hung.tank is not None
            and long is not None
            and deep is not None
            and long > deep
        ):
            figures = {
                "long": FindingFigure(long / 1000, "length"),
                "deep": FindingFigure(deep / 1000, "length"),
            }
            title = f"{hung.pump.id} is {{long}} long; {hung.tank.id} is {{deep}} deep"
            yield Finding(
                "Check",
                hung.pump.id,
                title,
                "Upright on its pump hanger it does not go in.",
                "Fit a shorter pump, a deeper tank or a sump, or lay it along the floor.",
                figures,
            )


def no_hanger(study: Study) -> Iterator[Finding]:
    """What it hangs from passes all of its fuel."""
    for hung in hung_pumps(study.build.circuit):
        if hung.within and hung.hanger is None:
            title = f"No pump hanger is drawn for {hung.pump.id}"
            why = f"It hangs in {hung.tank.id if hung.tank is not None else 'a tank'}; its fuel leaves through the pump hanger's tube, often the narrowest place of the feed."
            yield Finding(
                "Note",
                hung.pump.id,
                title,
                why,
                "Put in the pump hanger with its bore, after the pump.",
            )


def hose_not_for_immersion(study: Study) -> Iterator[Finding]:
    """Fuel on both sides: cover, braid and clamps of a hose meant for air give way."""
    met: dict[str, str] = {}
    for hung in hung_pumps(study.build.circuit):
        for e in hung.immersed:
            if e.kind == "hose" and e.properties.immersion is not True and e.id not in met:
                met[e.id] = hung.tank.id if hung.tank is not None else "the tank"
                silent = e.properties.immersion is None
                title = f"{e.id} lies in the fuel of {met[e.id]} and is not {'said to be ' if silent else ''}made for it"
                why = "Its cover swells and sheds into the pre-filter, and the hose splits where nobody sees it."
                yield Finding(
                    "Check" if silent else "Stop",
                    e.id,
                    title,
                    why,
                    "Fit hose made for immersion (R10), or PTFE.",
                    station="hoses",
                )


RULES = (
    Rule(
        "S-07",
        "A pump made to hang in a tank hangs in one.",
        "maker's statement; common practice",
        hangs_outside,
        _hangs,
    ),
    Rule(
        "S-08",
        "An external pump has a line from the tank.",
        "maker's statement; common practice",
        no_line_to_it,
        lambda s: any(map(stands_outside, elements(s, "pump"))),
    ),
    Rule("S-09", "A pump fits the depth of its tank.", "arithmetic", too_long_for_its_tank, _hangs),
    Rule(
        "S-10",
        "A pump in a tank has its pump hanger on the drawing.",
        "common practice",
        no_hanger,
        _hangs,
    ),
    Rule(
        "H-09",
        "Hose that lies in fuel is made for it.",
        "SAE J30 R10, from memory",
        hose_not_for_immersion,
        _hangs,
    ),
)
