"""What may be done on the pages of station 7: each act is read from the request, made on the build and named."""

from typing import Any

from tall_heron.core.base.units import AMPERE_HOURS
from tall_heron.core.document.build import Build
from tall_heron.core.editing import wiring as edit
from tall_heron.web import answers
from tall_heron.web.answers import Act, Made
from tall_heron.web.show.units import unit


def _text(data: dict[str, Any], name: str, most: int = 40) -> str:
    return answers.text_of(data, name).strip()[:most]


def _figure(data: dict[str, Any], name: str, quantity: str, plain: str, none: bool = True) -> float | None:
    """A figure in SI, a bare one in the unit that is `plain`; None for an empty field. Refused beside it."""
    text = _text(data, name)
    if not text:
        if none:
            return None
        raise answers.Refused(name, "Write a figure here.")
    return answers.parse_quantity(name, text, quantity, plain)


def _long(data: dict[str, Any], name: str) -> float | None:
    meters = _figure(data, name, "length", unit("run").word)
    return None if meters is None else 1000 * meters


def _share(data: dict[str, Any], name: str) -> float | None:
    return _figure(data, name, "fraction", "%")


def _whole(data: dict[str, Any], name: str) -> int:
    text = _text(data, name)
    if not text.isdecimal() or len(text) > 4:
        raise answers.Refused(name, "Write a whole number, such as 4.")
    return int(text)


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
            changes[side] = {"size": _text(data, f"{side}_size") or None, "length_mm": _long(data, f"{side}_length"), "colour": _text(data, f"{side}_colour", 24)}
        changes |= {"fuse_a": _figure(data, "fuse", "current", "a"), "relay": _text(data, "relay", 12), "crimps": _whole(data, "crimps"), "bus": _text(data, "bus", 1)}
        changes |= {"connector_a": _figure(data, "connector", "current", "a"), "switch_a": _figure(data, "switch", "current", "a")}
        changes["lamp"] = _yes(data, "lamp")
        if changes["bus"] not in ("1", "2"):
            raise answers.Refused("bus", "There are two buses: write 1 or 2.")
    return edit.set_branch(build, pump, **changes), f"{pump}: its wires"


def relay(build: Build, data: dict[str, Any]) -> Made:
    """A relay."""
    name = _text(data, "relay")
    changes = {
        "contact_a": _figure(data, "contact", "current", "a"),
        "supply": {"size": _text(data, "supply_size") or None, "length_mm": _long(data, "supply_length")},
        "terminal_87a": _text(data, "terminal_87a"),
        "suppressed": _yes(data, "suppressed"),
    }
    return edit.set_relay(build, name, **changes), f"{name}: relay"


def loom(build: Build, data: dict[str, Any]) -> Made:
    """Air, insulation, bundle and family of all wires."""
    celsius = {name: _figure(data, key, "temperature", unit("temperature").word, none=False) for name, key in (("ambient_c", "ambient"), ("insulation_c", "insulation"))}
    changes = {k: v - 273.15 for k, v in celsius.items() if v is not None}
    return edit.set_wiring(build, "", together=_whole(data, "together"), sizes=_text(data, "sizes"), **changes), "The whole loom"


def cut_off(build: Build, data: dict[str, Any]) -> Made:
    """What lets pumps run and what stops them."""
    changes: dict[str, Any] = {x: _yes(data, x) for x in ("automatic", "control_unit", "oil_switch", "start_bypass", "crank", "inertia", "roll_over", "level")}
    changes |= {x: _figure(data, x, "duration", "s", none=False) for x in ("prime_s", "oil_falls_s", "control_unit_s")}
    return edit.set_wiring(build, "cut_off", breaks=_text(data, "breaks"), kill=_text(data, "kill"), **changes), "Cut-off"


def supply(build: Build, data: dict[str, Any]) -> Made:
    """Battery and alternator."""
    changes: dict[str, Any] = {x: _yes(data, x) for x in ("aged", "voltmeter", "ammeter")}
    changes |= {"hot_share": _share(data, "hot_share"), "idle_share": _share(data, "idle_share")}
    changes["alternator_a"] = _figure(data, "alternator_a", "current", "a", none=False)
    minutes = _figure(data, "landing_min", "duration", "min", none=False)
    changes["landing_min"] = (minutes or 0.0) / 60
    changes["battery_ah"] = _plain(data, "battery_ah")
    return edit.set_wiring(build, "supply", **changes), "Battery and alternator"


def _plain(data: dict[str, Any], name: str) -> float:
    value = answers.plain(name, _text(data, name), "60", AMPERE_HOURS)
    if not 0 <= value < 1e6:
        raise answers.Refused(name, "Write a number from 0 to a million.")
    return value


def load(build: Build, data: dict[str, Any]) -> Made:
    """Something else that takes current."""
    name, ampere = _text(data, "name"), _figure(data, "ampere", "current", "a")
    return edit.set_load(build, name, ampere, _yes(data, "kept")), f"{name}: {'off' if ampere is None else f'{ampere:g} A'}"


def sender(build: Build, data: dict[str, Any]) -> Made:
    """The level sender's divider."""
    changes: dict[str, Any] = {x: _figure(data, x, "resistance", "ohm", none=False) for x in ("empty_ohm", "full_ohm", "pull_up_ohm")}
    changes |= {x: _figure(data, x, "voltage", "v", none=False) for x in ("supply_v", "range_v")}
    changes |= {"bits": _whole(data, "bits"), "reserve": _figure(data, "reserve", "fraction", "%", none=False)}
    return edit.set_wiring(build, "sender", **changes), "Level sender"


ACTS: dict[str, Act] = {
    "wire": wire,
    "unwire": unwire,
    "branch": branch,
    "relay": relay,
    "loom": loom,
    "cut off": cut_off,
    "supply": supply,
    "load": load,
    "sender": sender,
}


def make(build: Build, data: dict[str, Any]) -> Made:
    """The act that a request asks for. Refused where there is none of that name, or it cannot be done, beside the field that is wrong."""
    return answers.made_by(ACTS, build, data, field=_field)


TYPED_AS = {"contact_a": "contact", "fuse_a": "fuse", "connector_a": "connector", "switch_a": "switch", "ambient_c": "ambient", "insulation_c": "insulation"}


def _field(path: str) -> str:
    """The field of a form that a path of the document is typed in: `/branches/P1/feed/size` in `feed_size`."""
    parts = path.strip("/").split("/")
    side = next((x for x in parts if x in ("feed", "earth") or (x == "supply" and parts[0] == "relays")), "")
    last = TYPED_AS.get(parts[-1], parts[-1])
    if parts[-1] == side:  # said of the whole conductor: of its size
        last = "size"
    return f"{side}_{last.removesuffix('_mm')}" if side else last or "act"
