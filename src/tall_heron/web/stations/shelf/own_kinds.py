"""The kinds of parts of one's own: which figures each asks for, and the law and the facts they
make.
"""

import math
from typing import Any

from tall_heron.core.base.constants import KPA, LPH
from tall_heron.core.document.figures import (
    Check,
    Displacement,
    Injectors,
    Law,
    Loss,
    Pipe,
    PumpMap,
    Quadratic,
    Regulator,
    TankLevel,
)
from tall_heron.core.document.mounts import HANGER
from tall_heron.core.document.properties import OwnEnds
from tall_heron.core.shelf.curve_file import CurveTable
from tall_heron.core.shelf.shelf import SHEET_FUEL
from tall_heron.web.forms.field import Field
from tall_heron.web.forms.reading import Refused
from tall_heron.web.show.text import liters
from tall_heron.web.stations.shelf.own_field import OwnKind

MOST_OPENINGS, MOST_NEEDLES = 40, 8
ROUNDED = 0.03  # liters and sides are rounded


def _flow(value: float) -> float:
    return value / LPH


def _pump(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    table: CurveTable = v["points"]
    relief = _kpa(v["relief"])
    part = PumpMap(
        curves=list(table.curves), kind=v["pump_kind"], relief_kpa=relief, measured_with=SHEET_FUEL
    )
    facts = {
        "mount": v["mount"],
        "suction_need_kpa": _kpa(v["need"]),
    }
    return part, facts | {"long_mm": _mm(v["long"]), "inlet_height_max_mm": _mm(v["height"])}


GEAR_SHARE = 0.8  # a gear pump's volumetric efficiency at its relief, common practice
SLIPS_LESS = 0.2  # of its slip at the relief, at no pressure; common practice
OPENS_OVER = 1.05  # a relief is wide open a twentieth above where it opens, common practice


def _engine_pump(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    """By what one turn displaces; its slip grows from no pressure to the relief."""
    relief, share = v["relief"] / KPA, v["efficiency"] or GEAR_SHARE
    part = Displacement(
        cc_per_turn=v["turn"] * 1e6,
        ratio=v["ratio"],
        efficiency=[
            (0.0, 1 - SLIPS_LESS * (1 - share)),
            (relief, share),
            (OPENS_OVER * relief, 0.0),
        ],
        rated_rpm=v["rated"] * 60 if v["rated"] is not None else None,
    )
    return part, {"mount": "external", "suction_need_kpa": _kpa(v["need"])}


def _kpa(pascals: float | None) -> float | None:
    return pascals / KPA if pascals is not None else None


def _mm(meters: float | None) -> float | None:
    return meters * 1000 if meters is not None else None


def _hanger(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    part, facts = _loss(v)
    return part, facts | {"mount": HANGER, "immersion": True}


def _tank(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    if (v["sump"] is None) != (v["deep"] is None):
        raise Refused(
            "sump" if v["sump"] is None else "deep",
            "A sump has both: what it holds and how deep it is. Write for example 1.5 L and 70 mm, or leave both empty.",
        )
    if v["sump"] is not None and v["sump"] >= v["holds"]:
        raise Refused(
            "sump",
            f"The sump is part of the tank, which holds {liters(v['holds'] * 1000)}; write less than that.",
        )
    if v["openings"] is not None and (
        v["openings"] != int(v["openings"]) or v["openings"] > MOST_OPENINGS
    ):
        raise Refused("openings", f"Openings are counted: a whole number, at most {MOST_OPENINGS}.")
    sides = [v[x] for x in ("long", "wide", "high") if v[x] is not None]
    room = math.prod(sides) + (v["sump"] or 0.0)
    if len(sides) == len(("long", "wide", "high")) and v["holds"] > room * (1 + ROUNDED):
        raise Refused(
            "holds",
            f"A box of these sides holds {liters(room * 1000)} at most, sump and all; write that or less, or mend a side.",
        )
    facts: dict[str, Any] = {
        "family": v["sort"],
        "capacity_l": v["holds"] * 1000,
        "baffles": "baffles" in v["inside"],
        "foam": "foam" in v["inside"],
        "vented": v["breathes"] == "itself",
    }
    facts |= {
        "long_mm": _mm(v["long"]),
        "wide_mm": _mm(v["wide"]),
        "high_mm": _mm(v["high"]),
        "outlet_mm": _mm(v["outlet"]),
        "sump_mm": _mm(v["deep"]),
    }
    facts |= {
        "sump_l": _mm(v["sump"]),
        "pot_l": _mm(v["pot"]),
        "openings": int(v["openings"]) if v["openings"] is not None else None,
    }  # liters of m3, as mm of m
    return TankLevel(), facts


def _filter(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    flow, drop = _flow(v["flow"]), v["drop"] / KPA
    part = Quadratic(
        a_kpa_per_lph=drop / 2 / flow, b_kpa_per_lph2=drop / 2 / flow**2, measured_with=SHEET_FUEL
    )
    return part, {"micron": v["micron"] * 1e6, "medium": v["medium"]}


def _line(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    part = Pipe(
        bore_mm=v["bore"] * 1000,
        roughness_um=v["roughness"] * 1e6 if v["roughness"] is not None else 10.0,
    )
    working = _kpa(v["working"])
    about: dict[str, Any] = {"family": "own", "dash": v["dash"] or "", "working_kpa": working}
    return part, about | (
        {"ends": _ends(v)} | {x: v[x] or "" for x in BUILT} if "fitted" in v else {}
    )


def _ends(v: dict[str, Any]) -> OwnEnds | None:
    """The ends that a hose takes; None where nobody says how they are fitted."""
    if not v["fitted"]:
        return None
    for name, what in (
        ("takes", "what a straight end allowance, seat to where the hose stops"),
        ("throat", "the narrowest bore of an end"),
    ):
        if v[name] is None:
            raise Refused(name, f"Write {what}, such as 25 mm, or leave its ends unsaid.")
    return OwnEnds(
        fitted=v["fitted"],
        take_up_mm=v["takes"] * 1000,
        bent_take_up_mm=(v["takes_bent"] or v["takes"]) * 1000,
        throat_bore_mm=v["throat"] * 1000,
    )


def _regulator(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    low, high = v["low"] / KPA, v["high"] / KPA
    if low > high:
        raise Refused(
            "high", "The highest setting lies below the lowest. Write for example 240 and 620 kPa."
        )
    part = Regulator(
        holds=v["holds"],
        set_kpa=low,
        slope_kpa_per_lph=v["rise"] / KPA / _flow(v["over"]),
        wide_open_bore_mm=v["seat"] * 1000,
        wide_open_loss_coefficient=2.5,
        reference=v["reference"],
    )
    return part, {"set_min_kpa": low, "set_max_kpa": high}


def _check(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    return Check(
        cracking_kpa=v["cracking"] / KPA, bore_mm=v["bore"] * 1000, loss_coefficient=v["loss"]
    ), {}


def _injectors(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    rated = v["rated_at"] / KPA
    part = Injectors(commanded_at_kpa=rated, rated_lph=_flow(v["rated"]), rated_kpa=rated)
    return part, {"body_mm": v["body"] * 1000 if v["body"] is not None else None}


def _carburetor(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    if v["needles"] != int(v["needles"]) or not 1 <= v["needles"] <= MOST_NEEDLES:
        raise Refused("needles", f"Needles are counted: a whole number, 1 to {MOST_NEEDLES}.")
    rated, density = v["rated_at"] / KPA, SHEET_FUEL.density_kg_m3
    each = _flow(v["rated"]) / v["needles"]
    return Injectors(
        count=int(v["needles"]),
        commanded_at_kpa=rated,
        rated_lph=each,
        rated_kpa=rated,
        rated_density_kg_m3=density,
        mode="compensated",
        into="bowl",
    ), {}


def _auxiliary(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    return Injectors(
        commanded_at_kpa=v["rated_at"] / KPA,
        own_lph=_flow(v["rated"]),
        rated_density_kg_m3=SHEET_FUEL.density_kg_m3,
    ), {}


def _loss(v: dict[str, Any]) -> tuple[Law, dict[str, Any]]:
    return Loss(bore_mm=v["bore"] * 1000, loss_coefficient=v["loss"]), {"dash": v.get("dash") or ""}


NEED = Field(
    "need", "NPSH required", "pressure_difference", optional=True, note="as its maker requires"
)
BORE = Field("bore", "Bore at its narrowest", "length")
LOSS = Field(
    "loss", "Loss coefficient K", sort="number", note="on that bore: 0.5 sharp entry, 1 an elbow"
)
DASH = Field("dash", "Size", optional=True, sort="dash", note="such as -8, where it has one")
FILTER = (
    Field("flow", "Flow of its one known point", "volume_flow"),
    Field("drop", "Pressure drop there, clean", "pressure_difference"),
    Field("micron", "Fineness", "fineness"),
    Field("medium", "Element", note="paper, glass fiber, steel mesh"),
)
LINE = (
    BORE,
    DASH,
    Field("roughness", "Roughness", "fineness", optional=True, note="empty: 10, rubber"),
    Field("working", "Working pressure", "pressure", optional=True),
)
BUILT = ("standard", "liner", "braid", "cover")
HOSE = (
    *LINE,
    Field(
        "fitted",
        "Its ends are",
        choices=(
            ("", "not stated"),
            ("crimped", "crimped on"),
            ("olive", "reusable, with an olive"),
            ("screwed", "reusable, screwed on"),
            ("push-on", "pushed on"),
        ),
    ),
    Field(
        "takes",
        "A straight end allowance",
        "length",
        optional=True,
        note="seat to where the hose stops",
    ),
    Field(
        "takes_bent",
        "A bent end allowance",
        "length",
        optional=True,
        note="empty: as a straight one",
    ),
    Field("throat", "An end's narrowest bore", "length", optional=True),
    *(Field(x, x.capitalize(), optional=True, note="for whoever makes it") for x in BUILT),
)
KINDS_OF_OWN: dict[str, OwnKind] = {
    k.kind: k
    for k in (
        OwnKind(
            "pump",
            "pump",
            (
                Field("points", "Points of its sheet, or a CSV file", sort="table"),
                Field(
                    "at_voltage",
                    "Voltage of the points",
                    "voltage",
                    optional=True,
                    note="empty: 13.5, or as a column says",
                ),
                Field(
                    "pump_kind",
                    "Works by",
                    choices=(("turbine", "turbine"), ("roller", "roller"), ("gerotor", "gerotor")),
                ),
                Field(
                    "mount", "Sits", choices=(("in-tank", "in the tank"), ("external", "outside"))
                ),
                Field(
                    "relief", "Relief opens at", "pressure", optional=True, note="empty: none known"
                ),
                Field(
                    "height",
                    "Inlet over the tank's outlet by",
                    "length",
                    optional=True,
                    note="what its maker allows; empty: level",
                ),
                Field(
                    "long",
                    "Long, with its sock",
                    "length",
                    optional=True,
                    note="one that hangs in a tank",
                ),
                NEED,
            ),
            _pump,
        ),
        OwnKind(
            "engine pump",
            "pump driven by the engine",
            (
                Field("turn", "One turn displaces", "volume", on_sheet=("cc", "cc")),
                Field(
                    "ratio",
                    "Turns for each turn of the engine",
                    sort="number",
                    note="0.5 on the camshaft; on a belt the driving pulley's teeth over the driven one's",
                    bounds=(0.1, 4.0),
                ),
                Field("relief", "Relief opens at, or it stalls", "pressure"),
                Field(
                    "efficiency",
                    "Volumetric efficiency there",
                    "fraction",
                    optional=True,
                    note="empty: 80 %, a gear pump's",
                    bounds=(0.05, 0.99),
                ),
                Field(
                    "rated",
                    "Measured at, turns of the pump",
                    "speed",
                    optional=True,
                    note="what it slips there it slips at any speed; empty: in proportion to speed",
                ),
                NEED,
            ),
            _engine_pump,
            element="pump",
        ),
        OwnKind("filter", "filter", FILTER, _filter),
        OwnKind("strainer", "pre-filter or sock", FILTER, _filter),
        OwnKind("hose", "hose", HOSE, _line),
        OwnKind("line", "hard line", LINE, _line),
        OwnKind(
            "regulator",
            "regulator",
            (
                Field(
                    "holds",
                    "Holds its",
                    choices=(("inlet", "inlet (bypass)"), ("outlet", "outlet (dead-head)")),
                ),
                Field("low", "Lowest setting", "pressure"),
                Field("high", "Highest setting", "pressure"),
                Field(
                    "rise",
                    "Pressure moves by",
                    "pressure_difference",
                    note="from little flow to much",
                ),
                Field("over", "over a flow of", "volume_flow"),
                Field("seat", "Seat bore", "length"),
                Field(
                    "reference",
                    "Its port feels",
                    choices=(
                        ("manifold", "manifold"),
                        ("atmosphere", "air"),
                        ("hat", "carburetor hat"),
                    ),
                ),
            ),
            _regulator,
        ),
        OwnKind(
            "check",
            "check valve",
            (Field("cracking", "Opens at", "pressure_difference"), BORE, LOSS),
            _check,
        ),
        OwnKind(
            "injectors",
            "injector",
            (
                Field("rated", "Rated flow of one", "volume_flow", on_sheet=("cc/min", "cc/min")),
                Field(
                    "rated_at", "at", "pressure_difference", note="usually 300 kPa, on n-heptane"
                ),
                Field("body", "Body height", "length", optional=True),
            ),
            _injectors,
        ),
        OwnKind(
            "carburettor",
            "carburetor",
            (
                Field(
                    "needles", "Needles and seats", sort="count", note="a whole number, such as 2"
                ),
                Field("rated", "Passes, all needles open", "volume_flow", note="gasoline"),
                Field("rated_at", "at a fuel pressure of", "pressure", note="such as 6 psi"),
            ),
            _carburetor,
        ),
        OwnKind(
            "auxiliary",
            "auxiliary fuel tap",
            (
                Field("rated", "Flow, full on", "volume_flow", note="gasoline"),
                Field("rated_at", "at", "pressure_difference", note="what its sheet states it at"),
            ),
            _auxiliary,
        ),
        OwnKind("rail", "rail", (BORE, LOSS), _loss),
        OwnKind("fitting", "fitting or bulkhead", (BORE, LOSS, DASH), _loss),
        OwnKind("valve", "shut-off valve", (BORE, LOSS, DASH), _loss),
        OwnKind("damper", "damper", (BORE, LOSS), _loss),
        OwnKind(
            "tank",
            "tank, cell or surge tank",
            (
                Field(
                    "sort",
                    "Sort",
                    choices=tuple(
                        (x, x)
                        for x in (
                            "tank",
                            "cell",
                            "pot",
                            "header",
                            "wing tank",
                            "side tank",
                            "saddle tank",
                        )
                    ),
                ),
                Field(
                    "holds",
                    "Holds",
                    "volume",
                    on_sheet=("l", "L"),
                    note="up to where it is full, the sump with it",
                ),
                Field("long", "Long inside", "length", optional=True),
                Field("wide", "Wide inside", "length", optional=True),
                Field("high", "High inside", "length", optional=True, note="without the sump"),
                Field(
                    "outlet",
                    "Outlet over its lowest point",
                    "length",
                    optional=True,
                    note="or the pickup's mouth",
                ),
                Field(
                    "sump", "A sump under it holds", "volume", on_sheet=("l", "L"), optional=True
                ),
                Field("deep", "and is deep", "length", optional=True),
                Field(
                    "pot", "A surge tank inside holds", "volume", on_sheet=("l", "L"), optional=True
                ),
                Field(
                    "inside",
                    "Inside",
                    choices=(
                        ("", "nothing"),
                        ("baffles", "baffles"),
                        ("foam", "foam"),
                        ("baffles and foam", "baffles and foam"),
                    ),
                ),
                Field(
                    "breathes",
                    "Breathes",
                    choices=(
                        ("line", "through a vent line"),
                        ("itself", "through a valve of its own"),
                    ),
                ),
                Field(
                    "openings",
                    "Threaded openings",
                    optional=True,
                    sort="count",
                    note="all of them, the pump hanger's own apart",
                ),
            ),
            _tank,
        ),
        OwnKind("hanger", "pump hanger", (BORE, LOSS, DASH), _hanger, element="fitting"),
    )
}
