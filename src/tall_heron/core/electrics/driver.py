"""Controllers of brushless pumps. A brushless pump's sheet states volts and amperes at its
controller, common practice: what that takes is in them.
"""

from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure, pumps, table
from tall_heron.core.document.circuit import Element

PHASES = (
    ("u", "yellow"),
    ("v", "green"),
    ("w", "blue"),
)  # pins of the three wires to the motor, and their colors; common practice


@dataclass(frozen=True)
class Driver:
    """A brushless pump's controller: its name on the drawing, its rating [A], what its terminals
    are and the thickest wire they take [mm2], title, price, and whether it comes with the pump.
    """

    name: str
    rated: float
    ends: str
    to_mm2: float
    title: str
    price: float
    with_pump: bool


def driver_of(pump: Element, ampere: float) -> Driver | None:
    """The controller of a pump that draws a current at most [A]: the one that comes with it where
    it carries that, else the smallest there is; None for a pump with brushes.
    """
    about = pump.properties.model_dump(include={"brushless", "controller_a"})
    if about["brushless"] is None:
        about = pumps().get(pump.shelf or "", about)  # fitted before the shelf said so
    if not about.get("brushless"):
        return None
    rows, comes = table("pump_controllers"), about.get("controller_a")
    own = float(comes) if comes is not None and comes >= ampere else None
    rated = own or next(
        (float(r["rated_a"]) for r in rows if float(r["rated_a"]) >= ampere),
        float(rows[-1]["rated_a"]),
    )
    row = next((r for r in rows if float(r["rated_a"]) >= rated), rows[-1])
    title = (
        f"pump controller, {rated:g} A, comes with {pump.id}"
        if own is not None
        else str(row["title"])
    )
    return Driver(
        f"D{pump.id.lstrip('P')}",
        rated,
        str(row["ends"]),
        float(row["to_mm2"]),
        title,
        0.0 if own is not None else float(row["price"]),
        own is not None,
    )


def phase_mm() -> float:
    """How far a controller stands from its pump where nobody says [mm]."""
    return house_figure("phase_mm")
