"""What a layout is: what it is called, when it is chosen, and which parts are usual in it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

from tall_heron.core.base.catalogue import Row, house_figure, table
from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.editing.layouts.picks import Picks, Rails


@dataclass(frozen=True)
class Layout:
    """A layout: what it is called and when it is chosen, what takes its fuel, the arrangements of
    rails it knows, whether it flies, and picks that differ from the usual.
    """

    key: str
    title: str
    words: str
    feeding: Literal["injection", "carburettor"]
    wins: str
    make: Callable[[Brief, Picks], Circuit]
    rails: tuple[Rails, ...] = ("single",)
    craft: Literal["road", "air"] = "road"
    usual: dict[str, Any] = field(default_factory=dict)

    def build(self, brief: Brief, picks: Picks | None = None) -> Circuit:
        """The circuit; without picks, with the parts usual for it and a tank usual for its use.
        Raises ValueError where the shelf has not what was picked.
        """
        return self.make(brief, picks or self.picks(**self.more(brief)))

    def more(self, brief: Brief, outline: str = "") -> dict[str, str]:
        """What the brief's use and power change in the usual picks, and the vehicle where it says
        more: the tank.
        """

        def usual(use: str) -> Row | None:
            return next(
                (
                    r
                    for r in table("usual_tanks")
                    if r["use"] == use and brief.power_kw <= r["power_to_kw"]
                ),
                None,
            )

        if "tank" in self.usual and self.key not in POTS and usual(outline) is None:
            return {}
        own, pot = usual(outline) or usual(brief.use), usual("pot")
        if self.key in POTS and pot is not None:
            return {"tank": str(pot["tank"]), "tank_title": str(pot["title"])} | (
                {"lift_tank": str(own["tank"])} if own is not None else {}
            )
        return (
            {"tank": str(own["tank"]), "tank_title": str(own["title"])} if own is not None else {}
        )

    @property
    def pumps_given(self) -> bool:
        """Whether it has as many pumps as it has, however many are picked."""
        return self.key in ("A1", "A2", "A4", "A7", "A8", "C9", "C13")

    def sensible(self, brief: Brief) -> bool:
        """Whether one would think of it unasked: no pump that waits for boost where there is none,
        no pump on the engine where electric ones reach, no other tank.
        """
        if self.key in ("C10", "C12", "C13"):  # another tank, a cam for it: where it is there
            return False
        if self.key == "C8":
            return brief.boosted
        return self.key != "C9" or brief.most_power > house_figure("engine_pump_from")

    def picks(self, **more: Any) -> Picks:
        """The usual picks with some of the builder's own."""
        return Picks.model_validate(self.usual | more)


POTS = ("C7", "C9")  # layouts whose pumps draw from a pot
