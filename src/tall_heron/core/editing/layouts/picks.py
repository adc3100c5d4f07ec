"""What the builder chose for a layout; the defaults make a sound return system for a boosted car."""

from typing import Annotated, Literal

from pydantic import Field

from tall_heron.core.document.record import Record
from tall_heron.core.document.wish import MOST_BOWLS

Angle = Literal[0, 30, 45, 60, 90, 120, 150, 180]
Rails = Literal["single", "series", "parallel", "dead-end"]


class HosePick(Record):
    """A hose to be: family, size, face-to-face length and the angles of its ends."""

    family: str = "ptfe"
    dash: str = "-8"
    mm: Annotated[float, Field(gt=0)]
    ends: tuple[Angle, Angle] = (0, 0)
    clock_deg: float | None = None
    runs: str = ""


class Picks(Record):
    """Parts by their names on the shelf, hoses, and heights over the tank's outlet. A layout takes
    what it has a place for.
    """

    tank: str = "tank-70"
    tank_title: str = "tank"
    level_mm: float = 150
    strainer: str = "sedge-100"
    sock: str = "alder-sock-100"  # on a pump that hangs in the tank, for each one
    pumps: tuple[str] | tuple[str, str] | tuple[str, str, str] = ("marrow-340", "marrow-340")
    hanger: str = "hanger-10"
    check: str | None = "rill-8"
    merge: str = "merge-10"
    filter: str = "reedmace-10g"
    rails: Rails = "single"
    rail: str | None = None  # by the cylinders it feeds
    split: str = "split-10"
    join: str = "merge-10"
    damper: str | None = None
    ethanol_sensor: str | None = None
    regulator: str = "heronsbill-bypass-9"
    injectors: str = "kingcup-1500"
    carburettor: str = "lapwing-850"
    bowls: Annotated[int, Field(ge=1, le=MOST_BOWLS)] = 1  # carburetors side by side
    bowl_split: str = "split-8"
    gauge: str | None = "gauge-10bar"
    tank_inlet: str = "tank-inlet-8"
    lift_tank: str = "cell-60"
    lift_strainer: str = "sedge-100"
    lift_pump: str = "marrow-340"
    lift_pumps: Annotated[int, Field(ge=1, le=3)] = 1
    engine_pump: str = "diver-gear-600"
    jet: str = "siphon-5"
    controller: str = "speed-control"
    stage_boost_kpa: float = 70.0
    second_tank: str = "wing-tank-60"
    selector: str = "selector-8"
    crossover: str = "crossover-6"
    shut_off: str = "shutoff-6"
    gascolator: str = "withy-85"
    junction: str = "junction-8"
    header: str = "header-6"
    second_inlet: HosePick = HosePick(dash="-8", mm=900, ends=(0, 0), runs="right tank to join")
    lift_suction: HosePick = HosePick(dash="-8", mm=420, ends=(0, 90), runs="tank to lift pump")
    lift_feed: HosePick = HosePick(dash="-8", mm=1200, ends=(45, 0), runs="lift pump to surge tank")
    overflow: HosePick = HosePick(
        dash="-8", mm=900, ends=(0, 45), runs="surge tank overflow to tank"
    )
    tank_height_mm: float = 0.0
    suction: HosePick = HosePick(dash="-10", mm=410, ends=(0, 90), runs="pre-filter to pumps")
    delivery: HosePick = HosePick(dash="-10", mm=700, ends=(45, 0), runs="Y-block to filter")
    feed: HosePick = HosePick(
        dash="-10", mm=3900, ends=(90, 45), clock_deg=135, runs="filter to rail"
    )
    back: HosePick = HosePick(
        dash="-8", mm=4300, ends=(90, 90), clock_deg=210, runs="regulator to tank"
    )
    vent: HosePick = HosePick(dash="-8", mm=880, ends=(0, 0), runs="tank to roll-over valve")
    reference: HosePick = HosePick(dash="-4", mm=500, ends=(0, 90), runs="plenum to regulator")
    cross: HosePick = HosePick(dash="-8", mm=520, ends=(90, 90), clock_deg=0, runs="rail to rail")
    to_rails: tuple[HosePick, HosePick] = (
        HosePick(dash="-8", mm=450, ends=(45, 90), clock_deg=0, runs="Y-block to rail 1"),
        HosePick(dash="-8", mm=450, ends=(45, 90), clock_deg=0, runs="Y-block to rail 2"),
    )
    from_rails: tuple[HosePick, HosePick] = (
        HosePick(dash="-8", mm=450, ends=(90, 45), clock_deg=0, runs="rail 1 to join"),
        HosePick(dash="-8", mm=450, ends=(90, 45), clock_deg=0, runs="rail 2 to join"),
    )
    to_bowls: HosePick = HosePick(
        family="rubber", dash="-6", mm=420, ends=(0, 90), runs="Y-block to bowl"
    )
    to_bowl: HosePick = HosePick(
        family="rubber", dash="-8", mm=420, ends=(0, 90), runs="regulator to bowl"
    )
    rail_height_mm: float = 350
    second_back: HosePick = HosePick(
        dash="-6", mm=1800, ends=(90, 0), runs="selector to right tank"
    )
    pump_height_mm: float = -20
