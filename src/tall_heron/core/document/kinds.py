"""The kinds of elements a circuit can hold: their trade words, ports, allowed laws, and which ports
are joined in each position.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Kind:
    """What a kind of element is: its trade word, ports, allowed laws and links by position (`''` is
    the only one of most).
    """

    word: str
    ports: tuple[str, ...]
    laws: tuple[str, ...]
    links: Mapping[str, tuple[tuple[str, str], ...]] = field(default_factory=dict)
    tag: str = "N"


_THROUGH = {"": (("start", "end"),)}
_TWO = ("start", "end")
KINDS: dict[str, Kind] = {
    "tank": Kind("tank", ("outlet",), ("tank",), {}, "S"),
    "strainer": Kind("pre-filter", _TWO, ("quadratic", "loss"), _THROUGH, "E"),
    "hose": Kind("hose", _TWO, ("pipe",), _THROUGH, "H"),
    "line": Kind("hard line", _TWO, ("pipe",), _THROUGH, "H"),
    "pump": Kind("pump", _TWO, ("pump", "displacement"), _THROUGH, "P"),
    "jet": Kind(
        "jet pump",
        ("motive", "suction", "end"),
        ("jet",),
        {"": (("motive", "end"), ("suction", "end"))},
        "P",
    ),
    "check": Kind("check valve", _TWO, ("check",), _THROUGH, "K"),
    "filter": Kind("filter", _TWO, ("quadratic", "loss"), _THROUGH, "F"),
    "merge": Kind("Y-block", ("a", "b", "end"), ("loss",), {"": (("a", "end"), ("b", "end"))}, "Y"),
    "split": Kind(
        "Y-block", ("start", "a", "b"), ("loss",), {"": (("start", "a"), ("start", "b"))}, "Y"
    ),
    "tee": Kind(
        "tee",
        ("start", "end", "branch"),
        ("tee",),
        {"": (("start", "end"), ("start", "branch"))},
        "Y",
    ),
    "junction": Kind(
        "junction",
        ("start", "end", "branch"),
        ("tee",),
        {"": (("start", "end"), ("branch", "end"))},
        "Y",
    ),
    "controller": Kind("speed control", _TWO, ("regulator",), _THROUGH, "PR"),
    "orifice": Kind("orifice", _TWO, ("loss",), _THROUGH, "N"),
    "relief": Kind("relief valve", _TWO, ("regulator",), _THROUGH, "PR"),
    "rail": Kind("rail", _TWO, ("loss", "pipe"), _THROUGH, "RL"),
    "injectors": Kind("injectors", ("start",), ("injectors",), {}, "J"),
    "carburettor": Kind("carburetor", ("start",), ("injectors",), {}, "C"),
    "auxiliary": Kind("auxiliary tap", ("start",), ("injectors",), {}, "A"),
    "regulator": Kind("regulator", _TWO, ("regulator",), _THROUGH, "PR"),
    "fitting": Kind("fitting", _TWO, ("loss", "quadratic"), _THROUGH, "N"),
    "damper": Kind("damper", _TWO, ("loss", "quadratic"), _THROUGH, "D"),
    "sensor": Kind("sensor", _TWO, ("loss", "quadratic"), _THROUGH, "T"),
    "valve": Kind("shut-off", _TWO, ("loss",), {"open": (("start", "end"),), "shut": ()}, "V"),
    "crossover": Kind(
        "crossover valve", _TWO, ("loss",), {"shut": (), "open": (("start", "end"),)}, "V"
    ),
    "selector": Kind(
        "selector",
        ("left", "right", "engine"),
        ("loss",),
        {
            "left": (("left", "engine"),),
            "right": (("right", "engine"),),
            "both": (("left", "engine"), ("right", "engine")),
            "off": (),
        },
        "V",
    ),
    "gauge": Kind("gauge", ("start",), ("tap",), {}, "T"),
    "overflow": Kind("overflow line", (), ("pipe",), {}, "H"),
    "vent": Kind("vent line", (), ("air",), {}, "H"),
    "vent_valve": Kind("roll-over valve", (), ("air",), {}, "N"),
    "reference": Kind("reference line", (), ("air",), {}, "H"),
    "filler": Kind("filler hose", (), ("air",), {}, "H"),
    "drain": Kind("drain line", (), ("air",), {}, "H"),
}
JOINED = {"merge": "end", "split": "start"}  # Ys, and the port where both legs' flow is one
PIPES = ("hose", "line")  # what carries fuel from part to part
DRY = ("vent", "reference", "filler", "drain")  # lines that nothing flows in while the engine runs
LINES = (*PIPES, *DRY, "overflow")  # what is cut to length, with an end on either side
FILTERS = ("strainer", "filter")  # what clogs
BURNERS = ("injectors", "carburettor")  # what takes the fuel out of the circuit
