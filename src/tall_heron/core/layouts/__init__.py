"""Layouts: each builds a circuit from a brief and the builder's picks. A new layout is one function and one row here."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

from tall_heron.core.build import Brief
from tall_heron.core.circuit import Circuit
from tall_heron.core.layouts import cars
from tall_heron.core.layouts.picks import Picks, Rails


@dataclass(frozen=True)
class Layout:
    """A layout: what it is called and when it is chosen, what takes its fuel, the arrangements of rails it knows, and picks that differ from the usual."""

    key: str
    title: str
    words: str
    feeding: Literal["injection", "carburettor"]
    wins: str
    make: Callable[[Brief, Picks], Circuit]
    rails: tuple[Rails, ...] = ("single",)
    usual: dict[str, Any] = field(default_factory=dict)

    def build(self, brief: Brief, picks: Picks | None = None) -> Circuit:
        """The circuit; without picks, with the parts usual for it. Raises ValueError where the shelf has not what was picked."""
        return self.make(brief, picks or self.picks())

    def picks(self, **more: Any) -> Picks:
        """The usual picks with some of the builder's own."""
        return Picks.model_validate(self.usual | more)


CARBURETTOR = {
    "tank": "tank-70",
    "tank_title": "tank",
    "pumps": ("coot-380",),
    "filter": "dock-10c",
    "gauge": "gauge-1bar",
    "tank_inlet": "tank-inlet-6",
    "delivery": {"family": "rubber", "dash": "-8", "mm": 600, "runs": "pump to filter"},
    "feed": {"family": "rubber", "dash": "-8", "mm": 3400, "ends": (0, 45), "runs": "filter to regulator"},
    "back": {"family": "rubber", "dash": "-6", "mm": 3600, "ends": (45, 0), "runs": "regulator to tank"},
    "suction": {"family": "rubber", "dash": "-10", "mm": 500, "ends": (0, 45), "runs": "tank to pump"},
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
            "The surplus turns back before the engine, so the return is short and the rail ends dead; what the rail takes is not regulated away.",
            "injection",
            "where no line can go back from the engine",
            cars.regulator_ahead,
            ("single", "series"),
        ),
        Layout(
            "C5",
            "Carburettor, dead-head",
            "One line: pump, regulator, bowl. The pump works against a shut line whenever the bowl is full.",
            "carburettor",
            "where one line must do and the pump is made to dead-head",
            cars.carburettor_dead_head,
            usual=CARBURETTOR | {"regulator": "grebe-low-deadhead-9", "check": None},
        ),
        Layout(
            "C6",
            "Carburettor, bypass",
            "The regulator sends the surplus home, so the pump runs cool and the bowl sees fresh fuel; it needs a second line.",
            "carburettor",
            "where heat soak and vapour lock are the trouble",
            cars.carburettor_bypass,
            usual=CARBURETTOR | {"regulator": "grebe-low-bypass", "check": "rill-12"},
        ),
    )
}


def layouts_for(brief: Brief) -> list[tuple[Layout, Rails]]:
    """Every layout that suits how the engine is fed, with each arrangement of its rails; a single cylinder has one rail."""
    return [
        (layout, rails)
        for layout in LAYOUTS.values()
        if layout.feeding == brief.feeding
        for rails in layout.rails
        if rails == "single" or brief.cylinders > 1
    ]
