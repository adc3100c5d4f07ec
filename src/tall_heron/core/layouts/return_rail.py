"""C1: pumps by the tank, one feed, one rail, bypass regulator after the rail, return to the tank."""

from typing import Annotated, Any, Literal

from pydantic import Field

from tall_heron.core import shelf
from tall_heron.core.build import Brief
from tall_heron.core.circuit import Air, Circuit, Element, Injectors, Length, Node, Record, Regulator, TankLevel

Angle = Literal[0, 45, 90]
Role = Literal["feed", "return", "suction", "vent", "reference"]


class HosePick(Record):
    """A hose to be: family, size, face-to-face length and the angles of its ends."""

    family: str = "ptfe"
    dash: str = "-8"
    mm: Annotated[float, Field(gt=0)]
    ends: tuple[Angle, Angle] = (0, 0)
    clock_deg: float | None = None
    runs: str = ""


class Picks(Record):
    """What the builder chose; the defaults make a sound return system for a boosted car."""

    tank: str = "pot-3"
    tank_title: str = "surge pot"
    level_mm: float = 150
    strainer: str = "sedge-100"
    pumps: tuple[str] | tuple[str, str] = ("marrow-340", "marrow-340")
    check: str = "rill-8"
    merge: str = "merge-10"
    filter: str = "reedmace-10g"
    rail: str = "rail-six-14"
    regulator: str = "heronsbill-bypass-9"
    injectors: str = "kingcup-1500"
    tank_inlet: str = "pot-inlet-8"
    suction: HosePick = HosePick(dash="-10", mm=410, ends=(0, 90), runs="strainer to pumps")
    delivery: HosePick = HosePick(dash="-10", mm=700, ends=(45, 0), runs="merge to filter")
    feed: HosePick = HosePick(dash="-10", mm=3900, ends=(90, 45), clock_deg=135, runs="filter to rail")
    back: HosePick = HosePick(dash="-8", mm=4300, ends=(90, 90), clock_deg=210, runs="regulator to tank")
    vent: HosePick = HosePick(dash="-8", mm=880, ends=(0, 0), runs="tank to roll-over valve")
    reference: HosePick = HosePick(dash="-4", mm=500, ends=(0, 90), runs="plenum to regulator")
    rail_height_mm: float = 350
    pump_height_mm: float = -20


def _fit(name: str, element_id: str, kind: str, ports: dict[str, str], **more: Any) -> Element:
    part = shelf.part_named(name)
    if part.kind != kind and {part.kind, kind} != {"filter", "strainer"}:
        raise ValueError(f"{part.title} is a {part.kind}, and {element_id} is a {kind}")
    law = more.pop("part", part.part)
    return Element(id=element_id, kind=kind, title=part.title, ports=ports, part=law, shelf=name, about=part.about, **more)


def hose(pick: HosePick, element_id: str, kind: str, ports: dict[str, str], role: Role) -> Element:
    """A hose with its two ends; vent and reference lines carry air."""
    chosen = shelf.part_named(pick.family + pick.dash)
    ends = [shelf.end(shelf.end_name(pick.family, pick.dash, angle)) for angle in pick.ends]
    return Element(
        id=element_id,
        kind=kind,
        title=chosen.title,
        ports=ports,
        part=chosen.part if kind == "hose" else Air(bore_mm=getattr(chosen.part, "bore_mm", 8)),
        shelf=chosen.name,
        about=chosen.about,
        length=Length(mm=pick.mm),
        end_a=ends[0],
        end_b=ends[1],
        clock_deg=pick.clock_deg,
        role=role,
        runs=pick.runs,
    )


def build(brief: Brief, picks: Picks) -> Circuit:
    """The circuit. Raises ValueError where the shelf has not what was picked."""
    regulator = shelf.part_named(picks.regulator)
    assert isinstance(regulator.part, Regulator)
    injectors = shelf.part_named(picks.injectors)
    assert isinstance(injectors.part, Injectors)
    twin = len(picks.pumps) == 2
    heights = {"pot": 0.0, "strainer out": 0.0, "rail in": picks.rail_height_mm, "rail out": picks.rail_height_mm}
    heights |= {"regulator out": picks.rail_height_mm, "filter in": 0.0, "filter out": 0.0, "tank inlet": 0.0}
    pump_side = ["pump inlet", "P1 out", "merge a"] + (["P2 out", "merge b"] if twin else []) + ["merge out"]
    heights |= dict.fromkeys(pump_side, picks.pump_height_mm)
    elements = [
        _fit(picks.tank, "S1", "tank", {"outlet": "pot"}, part=TankLevel(level_mm=picks.level_mm), role="suction", runs=picks.tank_title),
        _fit(picks.strainer, "E1", "strainer", {"start": "pot", "end": "strainer out"}, role="suction", runs="in the tank"),
        hose(picks.suction, "H1", "hose", {"start": "strainer out", "end": "pump inlet"}, "suction"),
    ]
    for i, (pump, side) in enumerate(zip(picks.pumps, "ab", strict=False), start=1):
        end = f"merge {side}" if twin else "merge out"
        elements += [
            _fit(pump, f"P{i}", "pump", {"start": "pump inlet", "end": f"P{i} out"}),
            _fit(picks.check, f"K{i}", "check", {"start": f"P{i} out", "end": end}),
        ]
    if twin:
        elements.append(_fit(picks.merge, "Y1", "merge", {"a": "merge a", "b": "merge b", "end": "merge out"}))
    else:
        heights.pop("merge a")
    elements += [
        hose(picks.delivery, "H2", "hose", {"start": "merge out", "end": "filter in"}, "feed"),
        _fit(picks.filter, "F2", "filter", {"start": "filter in", "end": "filter out"}),
        hose(picks.feed, "H3", "hose", {"start": "filter out", "end": "rail in"}, "feed"),
        _fit(picks.rail, "RL", "rail", {"start": "rail in", "end": "rail out"}),
        _fit(
            picks.injectors,
            "J1",
            "injectors",
            {"start": "rail out"},
            part=injectors.part.model_copy(update={"count": brief.cylinders, "commanded_at_kpa": brief.base_kpa}),
        ),
        _fit(
            picks.regulator,
            "PR",
            "regulator",
            {"start": "rail out", "end": "regulator out"},
            part=regulator.part.model_copy(update={"set_kpa": brief.base_kpa}),
            role="return",
        ),
        hose(picks.back, "H4", "hose", {"start": "regulator out", "end": "tank inlet"}, "return"),
        _fit(picks.tank_inlet, "N1", "fitting", {"start": "tank inlet", "end": "pot"}, role="return"),
        _fit("gauge-10bar", "T1", "gauge", {"start": "rail out"}, runs="at the rail"),
        hose(picks.vent, "H5", "vent", {}, "vent"),
        _fit("vent-rollover-8", "N2", "vent_valve", {}, role="vent"),
        hose(picks.reference, "H6", "reference", {}, "reference"),
    ]
    return Circuit(template="C1", nodes=[Node(id=name, elevation_mm=mm) for name, mm in heights.items()], elements=elements)
