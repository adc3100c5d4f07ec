"""Layouts: each builds a circuit from a brief and the builder's picks. A new layout is one function
and one row here.
"""

from typing import Any

from tall_heron.core.document.build import Brief
from tall_heron.core.editing.layouts import aircraft, cars
from tall_heron.core.editing.layouts.layout import Layout
from tall_heron.core.editing.layouts.picks import Rails

POT = {"tank": "pot-3", "tank_title": "surge tank"}
CARBURETOR = {
    "pumps": ("coot-380",),
    "filter": "dock-10c",
    "gauge": "gauge-1bar",
    "tank_inlet": "tank-inlet-6",
    "delivery": {"family": "rubber", "dash": "-8", "mm": 600, "runs": "pump to filter"},
    "feed": {
        "family": "rubber",
        "dash": "-8",
        "mm": 3400,
        "ends": (0, 45),
        "runs": "filter to regulator",
    },
    "back": {
        "family": "rubber",
        "dash": "-6",
        "mm": 3600,
        "ends": (45, 0),
        "runs": "regulator to tank",
    },
    "suction": {
        "family": "rubber",
        "dash": "-10",
        "mm": 500,
        "ends": (0, 45),
        "runs": "tank to pump",
    },
}
WINGS: dict[str, Any] = {
    "tank": "wing-tank-60",
    "tank_title": "left tank",
    "level_mm": 60,
    "tank_height_mm": 900,
    "pump_height_mm": -120,
    "rail_height_mm": 60,
    "vent": {"family": "aluminium", "dash": "-6", "mm": 700, "runs": "tanks to vent"},
    "suction": {
        "family": "aluminium",
        "dash": "-8",
        "mm": 1700,
        "ends": (0, 90),
        "runs": "left tank inward",
    },
    "second_inlet": {
        "family": "aluminium",
        "dash": "-8",
        "mm": 1900,
        "ends": (0, 90),
        "runs": "right tank inward",
    },
    "delivery": {
        "family": "braided",
        "dash": "-6",
        "mm": 700,
        "ends": (0, 45),
        "runs": "pumps to filter",
    },
    "feed": {
        "family": "braided",
        "dash": "-6",
        "mm": 1100,
        "ends": (45, 90),
        "clock_deg": 90,
        "runs": "filter to engine",
    },
    "to_bowl": {
        "family": "braided",
        "dash": "-6",
        "mm": 650,
        "ends": (0, 90),
        "runs": "to the carburetor",
    },
    "back": {
        "family": "braided",
        "dash": "-6",
        "mm": 1300,
        "ends": (90, 0),
        "runs": "regulator to selector",
    },
    "second_back": {
        "family": "aluminium",
        "dash": "-6",
        "mm": 2100,
        "ends": (0, 90),
        "runs": "to right tank",
    },
    "selector": "selector-6",
    "junction": "junction-6",
    "tank_inlet": "tank-inlet-6",
    "check": "rill-6",
    "merge": "merge-8",
}
INJECTED: dict[str, Any] = WINGS | {
    "hanger": "hanger-8",
    "pumps": ("sallow-120", "sallow-120"),
    "regulator": "heronsbill-bypass-9",
    "injectors": "kingcup-320",
}
ALL_RAILS: tuple[Rails, ...] = ("single", "series", "parallel", "dead-end")
LAYOUTS: dict[str, Layout] = {
    layout.key: layout
    for layout in (
        Layout(
            "C1",
            "Return, regulator after the rail",
            "Steady pressure and cool fuel at the rail; the surplus flows past every injector and home.",
            "injection",
            "where pressure must hold at any flow and fuel must stay cool at the rail",
            cars.return_rail,
            ALL_RAILS,
        ),
        Layout(
            "C4",
            "Regulator ahead of the rail",
            "The surplus bypasses before the engine, so the return is short and the rail is dead-ended; the rail's own drop is not regulated away.",
            "injection",
            "where no line can go back from the engine",
            cars.regulator_ahead,
            ("single", "series"),
        ),
        Layout(
            "C2",
            "Short return, regulator at the tank",
            "One line forward and a short way back: little heat in the tank. The regulator does not feel the manifold, and the feed's loss is the rail's.",
            "injection",
            "where one line matters and there is no boost",
            cars.short_return,
            ("single", "series"),
            usual={"regulator": "heronsbill-bypass-6"},
        ),
        Layout(
            "C3",
            "No return, pump speed controlled",
            "One line and no return: the pump turns only as fast as needed, so it draws and heats little. It needs a damper and a pump made for it.",
            "injection",
            "where one line and little heat matter most",
            cars.speed_controlled,
            ("single", "series"),
            usual={"pumps": ("osier-700",), "damper": "reedbed-damper-10"},
        ),
        Layout(
            "C5",
            "Carburetor, dead-head",
            "One line: pump, regulator, bowl. The pump works against a shut line whenever the bowl is full.",
            "carburettor",
            "where one line must do and the pump is made to dead-head",
            cars.carburetor_dead_head,
            usual=CARBURETOR | {"regulator": "grebe-low-deadhead-9", "check": None},
        ),
        Layout(
            "C6",
            "Carburetor, bypass",
            "The regulator sends the surplus home, so the pump runs cool and the bowl sees fresh fuel; it needs a second line.",
            "carburettor",
            "where heat soak and vapor lock are the trouble",
            cars.carburetor_bypass,
            usual=CARBURETOR | {"regulator": "grebe-low-bypass", "check": "rill-12"},
        ),
        Layout(
            "C7",
            "Surge tank",
            "A lift pump keeps a surge tank full, so the main pumps never see air; the return comes back to the surge tank and warms it.",
            "injection",
            "where the tank uncovers its pickup in corners",
            cars.surge_pot,
            ALL_RAILS,
            usual=POT,
        ),
        Layout(
            "C8",
            "Staged pumps",
            "One pump runs always, the second from a boost on: less heat, current and return flow where little is needed.",
            "injection",
            "where two pumps would swamp the return at idle",
            cars.staged,
            ALL_RAILS,
        ),
        Layout(
            "C9",
            "Pump on the engine, with lift pump and surge tank",
            "A pump that the engine turns gives more as it needs more, without current; an electric one fills its surge tank.",
            "injection",
            "where electric pumps no longer reach",
            cars.engine_driven,
            ("single", "parallel"),
            usual=POT
            | {
                "suction": {
                    "dash": "-12",
                    "mm": 3600,
                    "ends": (0, 45),
                    "runs": "surge tank to engine pump",
                },
                "regulator": "heronsbill-bypass-12",
            },
        ),
        Layout(
            "C10",
            "Saddle tank with a jet pump",
            "The return drives a jet that moves fuel over the hump to the half with the pumps; it adds back-pressure.",
            "injection",
            "in a tank of two halves",
            cars.saddle,
            ("single", "parallel"),
            usual={"tank": "saddle-60", "tank_title": "near half of the tank"},
        ),
        Layout(
            "C11",
            "External pump on a plate",
            "Pump and both filters on a plate that comes out in one piece, low beside the tank: no tank work, easy service, more noise.",
            "injection",
            "where everything must come out in minutes",
            cars.plate,
            ALL_RAILS,
            usual={
                "tank": "cell-60",
                "tank_title": "fuel cell",
                "pumps": ("teasel-620",),
                "check": "rill-12",
                "pump_height_mm": -40,
            },
        ),
        Layout(
            "C12",
            "Sump under a new tank",
            "A sump keeps the outlet covered; its second outlet, plugged, is the drain. Only ever on a new or certified tank.",
            "injection",
            "where a new tank is made anyway",
            cars.sump,
            ALL_RAILS,
            usual={
                "tank": "sump-tank-60",
                "tank_title": "tank with sump",
                "pumps": ("teasel-620",),
                "check": "rill-12",
                "pump_height_mm": -40,
            },
        ),
        Layout(
            "C13",
            "Carburetor, pump on the engine",
            "The camshaft works a diaphragm pump that draws from the tank, and its spring sets the pressure. No wiring; hot fuel boils first in its long suction line.",
            "carburettor",
            "where the engine has the cam and the pad for one",
            cars.carburetor_engine_driven,
            usual=CARBURETOR
            | {
                "engine_pump": "diver-diaphragm-7",
                "check": None,
                "pump_height_mm": 150,
                "suction": {
                    "family": "rubber",
                    "dash": "-8",
                    "mm": 3400,
                    "ends": (0, 45),
                    "runs": "tank to engine pump",
                },
                "to_bowl": {
                    "family": "rubber",
                    "dash": "-8",
                    "mm": 500,
                    "ends": (0, 90),
                    "runs": "filter to bowl",
                },
            },
        ),
        Layout(
            "A1",
            "Gravity from the wings",
            "Nothing turns: fuel falls from both tanks through a shut-off to the carburetor. The height must make the flow.",
            "carburettor",
            "on a high wing with a carburetor",
            aircraft.gravity,
            craft="air",
            usual=WINGS | {"carburettor": "lapwing-flight", "gauge": None, "rail_height_mm": 0},
        ),
        Layout(
            "A2",
            "Selector, boost pump, pump on the engine",
            "The pilot chooses the tank; the pump on the engine feeds, the electric one stands by, and a check valve lets fuel past it.",
            "carburettor",
            "on a low wing with a carburetor",
            aircraft.boost_and_engine_pump,
            craft="air",
            usual=WINGS
            | {
                "carburettor": "lapwing-flight",
                "pumps": ("coot-120",),
                "engine_pump": "diver-diaphragm",
                "gauge": "gauge-1bar",
            },
        ),
        Layout(
            "A3",
            "Injected, two pumps, duplex selector",
            "Two pumps side by side; the return goes through the same selector to the tank in use, or the wrong tank fills and spills.",
            "injection",
            "where the pilot is to balance the tanks",
            aircraft.injected_duplex,
            craft="air",
            usual=INJECTED,
        ),
        Layout(
            "A8",
            "Injected, pump on the engine, electric boost",
            "The pump on the engine feeds; the electric one stands by for take-off and for a failure, and a check valve past each lets the other work.",
            "injection",
            "where the engine turns its own pump",
            aircraft.boosted_injection,
            craft="air",
            usual=INJECTED | {"pumps": ("sallow-120",), "engine_pump": "diver-gear-180"},
        ),
        Layout(
            "A4",
            "A header and a pump for each wing",
            "Each wing feeds its own header with its own pump and regulator; both feed the engine through checks. No selector to forget.",
            "injection",
            "where no tank may be run dry by mistake",
            aircraft.header_each,
            craft="air",
            usual=INJECTED | {"pumps": ("marrow-210",), "regulator": "snipe-internal-3"},
        ),
        Layout(
            "A5",
            "One header in the fuselage",
            "Both wings fall into one header; the pumps draw from it and the return warms it.",
            "injection",
            "where there is room and height for a header",
            aircraft.one_header,
            craft="air",
            usual=INJECTED,
        ),
        Layout(
            "A6",
            "Pusher, side tanks teed",
            "Side tanks joined by a tee, one shut-off, two pumps, and a return to both. One dry tank lets air in.",
            "injection",
            "where both tanks stand at one height beside the engine",
            aircraft.pusher,
            craft="air",
            usual=INJECTED
            | {"tank": "side-tank-50", "second_tank": "side-tank-50", "tank_height_mm": 150},
        ),
        Layout(
            "A7",
            "Wings teed straight to one pump",
            "May be drawn, and is always a finding: the pump draws from two tanks at once.",
            "carburettor",
            "nowhere: choose a selector or headers",
            aircraft.teed_to_pump,
            craft="air",
            usual=WINGS
            | {
                "carburettor": "lapwing-flight",
                "pumps": ("coot-120",),
                "regulator": "grebe-low-deadhead",
                "check": None,
                "gauge": "gauge-1bar",
            },
        ),
    )
}


def layouts_for(brief: Brief) -> list[tuple[Layout, Rails]]:
    """Every layout that suits what the engine is for and how it is fed, with each arrangement of
    its rails; a single cylinder has one rail.
    """
    return [
        (layout, rails)
        for layout in LAYOUTS.values()
        if layout.feeding == brief.feeding and (layout.craft == "air") == (brief.use == "flight")
        for rails in layout.rails
        if rails == "single" or brief.cylinders > 1
    ]
