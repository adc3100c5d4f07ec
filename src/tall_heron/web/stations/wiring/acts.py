"""What may be done on the pages of station 7: each act is read from the request, made on the build
and named.
"""

from typing import Any

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.document.build import Build
from tall_heron.core.editing import wiring as edit
from tall_heron.web import answers
from tall_heron.web.answers import Act, Made
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field


def _text(data: dict[str, Any], name: str, most: int = 40) -> str:
    return reading.text_of(data, name).strip()[:most]


def _current(name: str, label: str, optional: bool = True) -> Field:
    return Field(name, label, "current", on_sheet=("a", "A"), optional=optional)


def _seconds(name: str, label: str) -> Field:
    return Field(name, label, "duration", on_sheet=("s", "s"))


def _share(name: str, label: str, optional: bool = True) -> Field:
    return Field(name, label, "fraction", on_sheet=("%", "%"), optional=optional)


def _length(name: str, label: str) -> Field:
    """A wire's length [mm], a bare number in the reader's unit of runs."""
    return Field(name, label, "length", 1000.0, measure="run", optional=True)


# What the forms of this station take, by the names that the document has for it.
LENGTHS = {
    side: _length(f"{side}_length", "Length") for side in ("feed", "earth", "supply", "ground")
}
FUSE, CONNECTOR, SWITCH, CONTACT = (
    _current(*x)
    for x in (
        ("fuse", "Fuse"),
        ("connector", "Connector"),
        ("switch", "Switch"),
        ("contact", "Contact"),
    )
)
CRIMPS = Field("crimps", "Crimps", sort="count")
TOGETHER = Field("together", "Wires together", sort="count")
AIR = {
    name: Field(key, label, "temperature", 1.0, -CELSIUS)
    for name, key, label in (
        ("ambient_c", "ambient", "Air"),
        ("insulation_c", "insulation", "Insulation"),
    )
}
TIMES = {
    "prime_s": _seconds("prime_s", "Prime"),
    "oil_falls_s": _seconds("oil_falls_s", "Oil pressure falls"),
    "control_unit_s": _seconds("control_unit_s", "Control unit waits"),
}
SUPPLY = {
    "hot_share": _share("hot_share", "Alternator, hot"),
    "idle_share": _share("idle_share", "Alternator, at idle"),
    "alternator_a": _current("alternator_a", "Alternator", optional=False),
    "landing_min": Field(
        "landing_min", "To a landing", "duration", 1 / 60, on_sheet=("min", "min")
    ),
    "battery_ah": Field("battery_ah", "Battery", sort="ampere hours", bounds=(0.0, 999_999.0)),
}
LOAD = _current("ampere", "Current")
SENDER = {
    **{
        x: Field(x, label, "resistance", on_sheet=("ohm", "ohm"))
        for x, label in (("empty_ohm", "Empty"), ("full_ohm", "Full"), ("pull_up_ohm", "Pull-up"))
    },
    **{
        x: Field(x, label, "voltage", on_sheet=("v", "V"))
        for x, label in (("supply_v", "Supply"), ("range_v", "Range"))
    },
    "bits": Field("bits", "Bits", sort="count"),
    "reserve": _share("reserve", "Reserve", optional=False),
}


def _yes(data: dict[str, Any], name: str) -> bool:
    return _text(data, name) == "yes"


def wire(build: Build, _: dict[str, Any]) -> Made:
    """Wire all pumps by rule."""
    return edit.wire_by_rule(build), "Wired automatically"


def unwire(build: Build, _: dict[str, Any]) -> Made:
    """Take the wiring off."""
    return edit.unwired(build), "Wiring taken off"


def branch(build: Build, data: dict[str, Any]) -> Made:
    """What feeds one pump."""
    pump = _text(data, "pump")
    changes: dict[str, Any] = {}
    if "feed_size" in data:
        for side in ("feed", "earth"):
            changes[side] = {
                "size": _text(data, f"{side}_size") or None,
                "length_mm": LENGTHS[side].of(data),
                "colour": _text(data, f"{side}_colour", 24),
            }
        changes |= {
            "fuse_a": FUSE.of(data),
            "relay": _text(data, "relay", 12),
            "ground": _text(data, "ground", 12),
            "crimps": CRIMPS.of(data),
            "bus": _text(data, "bus", 1),
        }
        changes |= {"connector_a": CONNECTOR.of(data), "switch_a": SWITCH.of(data)}
        changes["lamp"] = _yes(data, "lamp")
        if changes["bus"] not in ("1", "2"):
            raise reading.Refused("bus", "There are two buses: write 1 or 2.")
    return edit.set_branch(build, pump, **changes), f"{pump}: its wires"


def relay(build: Build, data: dict[str, Any]) -> Made:
    """A relay."""
    name = _text(data, "relay")
    changes = {
        "contact_a": CONTACT.of(data),
        "supply": {
            "size": _text(data, "supply_size") or None,
            "length_mm": LENGTHS["supply"].of(data),
        },
        "terminal_87a": _text(data, "terminal_87a"),
        "suppressed": _yes(data, "suppressed"),
    }
    return edit.set_relay(build, name, **changes), f"{name}: relay"


def ground(build: Build, data: dict[str, Any]) -> Made:
    """The wire on from a ground point."""
    name = _text(data, "ground")
    size, long = _text(data, "ground_size") or None, LENGTHS["ground"].of(data)
    return edit.set_ground(build, name, size=size, length_mm=long), f"{name}: ground"


def loom(build: Build, data: dict[str, Any]) -> Made:
    """Air, insulation, bundle and family of all wires."""
    changes = {name: field.of(data) for name, field in AIR.items()}
    return edit.set_wiring(
        build, "", together=TOGETHER.of(data), sizes=_text(data, "sizes"), **changes
    ), "The whole loom"


def cut_off(build: Build, data: dict[str, Any]) -> Made:
    """What lets pumps run and what stops them."""
    changes: dict[str, Any] = {
        x: _yes(data, x)
        for x in (
            "automatic",
            "control_unit",
            "oil_switch",
            "start_bypass",
            "crank",
            "inertia",
            "roll_over",
            "level",
        )
    }
    changes |= {x: field.of(data) for x, field in TIMES.items()}
    return edit.set_wiring(
        build, "cut_off", breaks=_text(data, "breaks"), kill=_text(data, "kill"), **changes
    ), "Cut-off"


def supply(build: Build, data: dict[str, Any]) -> Made:
    """Battery and alternator."""
    changes: dict[str, Any] = {x: _yes(data, x) for x in ("aged", "voltmeter", "ammeter")}
    changes |= {x: field.of(data) for x, field in SUPPLY.items()}
    return edit.set_wiring(build, "supply", **changes), "Battery and alternator"


def load(build: Build, data: dict[str, Any]) -> Made:
    """Something else that takes current."""
    name, ampere = _text(data, "name"), LOAD.of(data)
    return edit.set_load(
        build, name, ampere, _yes(data, "kept")
    ), f"{name}: {'off' if ampere is None else f'{ampere:g} A'}"


def sender(build: Build, data: dict[str, Any]) -> Made:
    """The level sender's divider."""
    changes = {x: field.of(data) for x, field in SENDER.items()}
    return edit.set_wiring(build, "sender", **changes), "Level sender"


ACTS: dict[str, Act] = {
    "wire": wire,
    "unwire": unwire,
    "branch": branch,
    "relay": relay,
    "ground": ground,
    "loom": loom,
    "cut off": cut_off,
    "supply": supply,
    "load": load,
    "sender": sender,
}


def make(build: Build, data: dict[str, Any]) -> Made:
    """The act that a request asks for. Refused where there is none of that name, or it cannot be
    done, beside the field that is wrong.
    """
    return answers.made_by(ACTS, build, data, field=_field)


TYPED_AS = {
    "contact_a": "contact",
    "fuse_a": "fuse",
    "connector_a": "connector",
    "switch_a": "switch",
    "ambient_c": "ambient",
    "insulation_c": "insulation",
}


SIDES = {
    ("branches", "feed"): "feed",
    ("branches", "earth"): "earth",
    ("relays", "supply"): "supply",
    ("grounds", "wire"): "ground",
}  # what the forms call a conductor of the document


def _field(path: str) -> str:
    """The field of a form that a path of the document is typed in: `/branches/P1/feed/size` in
    `feed_size`.
    """
    parts = path.strip("/").split("/")
    wire = next((x for x in parts if (parts[0], x) in SIDES), "")
    side = SIDES.get((parts[0], wire), "")
    last = TYPED_AS.get(parts[-1], parts[-1])
    if wire and parts[-1] == wire:  # said of the whole conductor: of its size
        last = "size"
    return f"{side}_{last.removesuffix('_mm')}" if side else last or "act"
