"""The shelf: catalogue rows to parts a circuit can hold, with their figures copied."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from tall_heron.core.base.catalogue import Row, by_name, pumps, table
from tall_heron.core.document.airspace import ONE_AIR
from tall_heron.core.document.circuit import Element, End
from tall_heron.core.document.figures import (
    Air,
    Check,
    Displacement,
    Fluid,
    Injectors,
    Jet,
    Law,
    Loss,
    Pipe,
    PumpMap,
    Quadratic,
    Regulator,
    TankLevel,
    Tap,
    Tee,
)
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.properties import Properties

CC_MIN_TO_LPH = 0.06
USUAL_SET_KPA = 300.0  # what a regulator of the shelf is set to until it is fitted
SHEET_FUEL = Fluid(
    density_kg_m3=745, viscosity_mpa_s=0.5
)  # makers' sheets state gasoline; E0 of data/fuels/fuels.csv


@dataclass(frozen=True)
class ShelfPart:
    """One part for sale: `kind` of element it serves as, its law and what it is made of."""

    name: str
    title: str
    kind: str
    figures: Law
    properties: Properties
    source: str

    def __hash__(self) -> int:
        """Of its name and title: parts that are the same are known by the same."""
        return hash((self.name, self.title))

    def gives_lph(self, kpa: float) -> float:
        """What a pump gives against a rise [kPa], by its map of most volts; 0.0 beyond it, and for
        what has no map.
        """
        return (
            (self.figures.curves[-1].flow_at(kpa) or 0.0)
            if isinstance(self.figures, PumpMap)
            else 0.0
        )


def _properties(row: Row) -> Properties:
    return Properties(
        **{field: row[field] for field in Properties.model_fields if row.get(field) is not None}
    )


def _pump(row: Row) -> ShelfPart:
    part = PumpMap(
        curves=row["curves"],
        kind=row["kind"],
        relief_kpa=row["relief_kpa"],
        measured_with=SHEET_FUEL,
    )
    return ShelfPart(row["name"], row["title"], "pump", part, _properties(row), "invented")


def _filter(row: Row) -> ShelfPart:
    # One maker's point: split half and half into a laminar and a turbulent share
    # (handbook-physics).
    flow, drop, share = row["flow_lph"], row["drop_kpa"], row["laminar_share"]
    part = Quadratic(
        a_kpa_per_lph=share * drop / flow,
        b_kpa_per_lph2=(1 - share) * drop / flow**2,
        measured_with=SHEET_FUEL,
    )
    return ShelfPart(
        row["name"],
        row["title"],
        "strainer" if row["stage"] == "suction" else "filter",
        part,
        _properties(row),
        row["source"],
    )


def _regulator(row: Row) -> ShelfPart:
    part = Regulator(
        holds=row["holds"],
        set_kpa=_properties(row).within_setting(USUAL_SET_KPA),
        slope_kpa_per_lph=row["slope_kpa_per_lph"],
        wide_open_bore_mm=row["wide_open_bore_mm"],
        wide_open_loss_coefficient=row["wide_open_loss_coefficient"],
        reference=row["reference"],
    )
    return ShelfPart(row["name"], row["title"], row["kind"], part, _properties(row), row["source"])


def _check(row: Row) -> ShelfPart:
    part = Check(
        cracking_kpa=row["cracking_kpa"],
        bore_mm=row["bore_mm"],
        loss_coefficient=row["loss_coefficient"],
    )
    return ShelfPart(row["name"], row["title"], "check", part, _properties(row), row["source"])


def _hose(row: Row) -> ShelfPart:
    part = Pipe(
        bore_mm=row["bore_mm"],
        roughness_um=row["roughness_um"],
        friction_factor_times=row["bore_factor"],
    )
    about = _properties(row).model_copy(
        update={"price": row["price_per_m"], "mass_kg": row["mass_kg_m"]}
    )
    title = f"{row['dash'].replace('-', '−')} {row['title']}"
    return ShelfPart(
        f"{row['family']}{row['dash']}", title, row["kind"], part, about, row["source"]
    )


def _injectors(row: Row) -> ShelfPart:
    part = Injectors(
        commanded_at_kpa=row["rated_kpa"],
        rated_lph=row["rated_cc_min"] * CC_MIN_TO_LPH,
        rated_kpa=row["rated_kpa"],
        rated_density_kg_m3=row["rated_density_kg_m3"],
        duty_limit=row["duty_limit"],
    )
    return ShelfPart(row["name"], row["title"], "injectors", part, _properties(row), row["source"])


def _auxiliary(row: Row) -> ShelfPart:
    part = Injectors(
        commanded_at_kpa=row["at_kpa"],
        own_lph=row["flow_lph"],
        rated_density_kg_m3=row["rated_density_kg_m3"],
    )
    return ShelfPart(row["name"], row["title"], "auxiliary", part, _properties(row), row["source"])


def _carburetor(row: Row) -> ShelfPart:
    part = Injectors(
        count=int(row["needles"]),
        commanded_at_kpa=row["rated_kpa"],
        rated_lph=row["rated_lph"],
        rated_kpa=row["rated_kpa"],
        rated_density_kg_m3=row["rated_density_kg_m3"],
        duty_limit=row["duty_limit"],
        mode="compensated",
        into="bowl",
    )
    return ShelfPart(
        row["name"], row["title"], "carburettor", part, _properties(row), row["source"]
    )


def _engine_pump(row: Row) -> ShelfPart:
    rows = [tuple(float(x) for x in pair.split(":")) for pair in str(row["efficiency"]).split()]
    part = Displacement(
        cc_per_turn=row["cc_per_turn"],
        ratio=row["ratio"],
        efficiency=rows,
        rated_rpm=row["rated_rpm"],
    )
    return ShelfPart(row["name"], row["title"], "pump", part, _properties(row), row["source"])


def _jet(row: Row) -> ShelfPart:
    part = Jet(nozzle_mm=row["nozzle_mm"], throat_mm=row["throat_mm"])
    return ShelfPart(row["name"], row["title"], "jet", part, _properties(row), row["source"])


def _adapter(row: Row) -> ShelfPart:
    part = Loss(bore_mm=row["bore_mm"], loss_coefficient=row["loss_coefficient"])
    return ShelfPart(row["name"], row["title"], "fitting", part, _properties(row), row["source"])


def _plain(row: Row) -> ShelfPart:
    part: Law
    if row["kind"] == "tank":
        part = TankLevel()
    elif row["kind"] == "gauge":
        part = Tap()
    elif row["kind"] == "controller":
        # Speed control holds the pressure behind the pump as a regulator without loss would; the
        # pump then makes no more than that.
        part = Regulator(
            holds="outlet", set_kpa=300, wide_open_bore_mm=20, wide_open_loss_coefficient=0.5
        )
    elif row["kind"] in ("tee", "junction"):
        corner = {r["name"]: r["friction_multiple"] for r in table("fittings_k")}
        run = row["loss_coefficient"]
        part = Tee(
            bore_mm=row["bore_mm"],
            run_loss_coefficient=run,
            branch_loss_coefficient=run * corner["tee-branch"] / corner["tee-run"],
        )
    elif row["kind"] == "vent_valve":
        part = Air(bore_mm=row["bore_mm"])
    else:
        part = Loss(bore_mm=row["bore_mm"], loss_coefficient=row["loss_coefficient"])
    return ShelfPart(row["name"], row["title"], row["kind"], part, _properties(row), row["source"])


@cache
def parts() -> dict[str, ShelfPart]:
    """Every part of the shelf by its name, in the order of the data files."""
    every = [_pump(row) for row in pumps().values()]
    for name, make in (
        ("filters", _filter),
        ("regulators", _regulator),
        ("checks", _check),
        ("hose_families", _hose),
        ("injectors", _injectors),
        ("carburettors", _carburetor),
        ("auxiliary_taps", _auxiliary),
        ("adapters", _adapter),
        ("engine_pumps", _engine_pump),
        ("jets", _jet),
        ("tanks", _plain),
        ("plain_parts", _plain),
    ):
        every += [make(row) for row in table(name)]
    return {part.name: part for part in every}


def part_named(name: str) -> ShelfPart:
    """One part. Raises ValueError where the shelf has none of that name."""
    shelf_part = parts().get(name)
    if shelf_part is None:
        raise ValueError(f"“{name}” is not on the shelf")
    return shelf_part


def _mount(element: Element) -> str:
    """Where a part sits: its own word, or that of the shelf for one fitted before the shelf said
    so.
    """
    known = parts().get(element.shelf or "")
    return element.properties.mount or (known.properties.mount if known is not None else "")


ANY_SIZE = ("inlet", "hanger")  # fittings that stand in a tank: any size takes another's place
OTHER_CLASS = 2.0  # times beyond its range: a regulator for another kind of engine


def suits_place(part: ShelfPart, element: Element) -> bool:
    """Whether a part can take an element's place: of its kind, a filter anywhere; a line of the
    same family in any size, or of another in the same size; a regulator that holds the same side
    and is mounted alike (one inside a module is no other); a tank any tank, the half of a saddle
    tank another; an adapter of the same size; a carburetor pump for low pressure only.
    """
    if element.kind == "tank":
        return part.kind == "tank" and (part.properties.family in ONE_AIR) == (
            element.properties.family in ONE_AIR
        )
    if element.kind in LINES:
        same = (
            part.properties.family == element.properties.family,
            part.properties.dash == element.properties.dash,
        )
        return part.kind in LINES and any(same)
    if {part.kind, element.kind} == {"strainer", "filter"}:
        return True
    if part.kind != element.kind:
        return False
    if part.figures.law != element.figures.law and element.kind == "pump":
        return False  # one driven by the engine is no electric one
    if (
        isinstance(part.figures, Regulator)
        and isinstance(element.figures, Regulator)
        and element.kind == "regulator"
    ):
        low, high, setting = (
            part.properties.set_min_kpa or 0.0,
            part.properties.set_max_kpa or 1e9,
            element.figures.set_kpa,
        )
        return (
            part.figures.holds == element.figures.holds
            and part.properties.mount == element.properties.mount
            and low / OTHER_CLASS <= setting <= high * OTHER_CLASS
        )
    if element.kind == "fitting" and part.properties.mount != (mount := _mount(element)):
        return False  # a hanger is no elbow
    if element.kind == "fitting" and mount in ANY_SIZE:
        return part.properties.family == element.properties.family or not (
            part.properties.family and element.properties.family
        )  # a hanger of as many pumps
    if (
        element.kind != "fitting"
        or not element.properties.dash
        or part.properties.dash == element.properties.dash
    ):
        return True
    known = parts().get(element.shelf or "")  # one that is bought in the size of its line
    return (
        bool(part.properties.family)
        and known is not None
        and known.properties.family == part.properties.family
    )


def swaps_for(element: Element, own: Sequence[ShelfPart] = ()) -> list[ShelfPart]:
    """What the shelf, and the builder's own part of it, has that can take an element's place."""
    return [p for p in (*own, *parts().values()) if suits_place(p, element)]


def end(name: str) -> End:
    """A hose end of the shelf, with its figures copied."""
    row = by_name("ends")[name]
    fields: dict[str, Any] = {key: row[key] for key in End.model_fields if key in row}
    return End(shelf=name, **fields)


def end_name(family: str, dash: str, angle: float) -> str:
    """The name of the shelf's end for a hose of a family and size."""
    return f"{family}-end-{dash.lstrip('-')}-{angle:g}"


def nearest_end(family: str, dash: str, angle: float) -> End | None:
    """The end of a hose whose angle is nearest to one wanted; None where the shelf has none for the
    hose.
    """
    rows = ends_for(family, dash)
    if not rows:
        return None
    return end(str(min(rows, key=lambda row: abs(row["angle_deg"] - angle))["name"]))


def own_end(angle: float, take_up_mm: float, bore_mm: float) -> End:
    """An end of the builder's own: the loss of the shelf's own ends at the nearest angle, on the
    bore that is typed.
    """
    near = min(table("ends"), key=lambda row: abs(row["angle_deg"] - angle))
    return End(
        angle_deg=angle,
        take_up_mm=take_up_mm,
        throat_bore_mm=bore_mm,
        loss_coefficient=near["loss_coefficient"],
        provenance="measured",
    )


def ends_for(family: str, dash: str) -> list[Row]:
    """The ends that fit a hose."""
    return [row for row in table("ends") if row["family"] == family and row["dash"] == dash]
