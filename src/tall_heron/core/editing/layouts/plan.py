"""A circuit in the making: sections put parts from the shelf between places, and each says where it
ends.
"""

from typing import Any, Literal

from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Circuit, Element, Length, Node
from tall_heron.core.document.figures import Air, Injectors, Pipe, Regulator, TankLevel
from tall_heron.core.document.mounts import IN_TANK
from tall_heron.core.editing.layouts.picks import HosePick, Picks
from tall_heron.core.shelf import shelf

Role = Literal["feed", "return", "suction", "vent", "reference"]


class LayoutPlan:
    """Places with their heights [mm], and parts, in flow order. The same part has the same id in
    every layout, so that a change of layout keeps it.
    """

    def __init__(self, brief: Brief, picks: Picks) -> None:
        self.brief, self.picks = brief, picks
        self.heights: dict[str, float] = {}
        self.elements: list[Element] = []

    def airspaces(self) -> list[Element]:
        """The tanks that need a vent of their own."""
        return airspaces(self.elements)

    def hang(self, *pumps: str) -> bool:
        """Whether all of some pumps are made to hang in a tank."""
        return all(shelf.part_named(name).properties.mount in IN_TANK for name in pumps)

    def place(self, name: str, mm: float = 0.0) -> str:
        """A place by its name; its height is said once."""
        self.heights.setdefault(name, mm)
        return name

    def fit(
        self, name: str, element_id: str, kind: str, ports: dict[str, str], **more: Any
    ) -> None:
        """A part of the shelf. Raises ValueError where it is of another kind."""
        part = shelf.part_named(name)
        if part.kind != kind and {part.kind, kind} != {"filter", "strainer"}:
            raise ValueError(f"{part.title} is a {part.kind}, and {element_id} is a {kind}")
        law = more.pop("figures", part.figures)
        self.elements.append(
            Element(
                id=element_id,
                kind=kind,
                title=part.title,
                ports=ports,
                figures=law,
                shelf=name,
                properties=part.properties,
                **more,
            )
        )

    def through(
        self, name: str, element_id: str, kind: str, start: str, end: str, **more: Any
    ) -> str:
        """A part with one way in and one way out; returns where it ends."""
        self.fit(name, element_id, kind, {"start": start, "end": end}, **more)
        return end

    def hose(
        self, pick: HosePick, element_id: str, start: str, end: str, role: Role = "feed"
    ) -> str:
        """A hose, or a hard line, with its two ends; returns where it ends."""
        self._line(pick, element_id, "", {"start": start, "end": end}, role)
        return end

    def air(self, pick: HosePick, element_id: str, kind: Literal["vent", "reference"]) -> None:
        """A line that carries air."""
        self._line(pick, element_id, kind, {}, kind)

    def overflow(self, pick: HosePick, element_id: str) -> None:
        """A line that carries a pot's surplus: cut and fitted, judged by a rule, not solved."""
        self._line(pick, element_id, "overflow", {}, "return")

    def _line(
        self, pick: HosePick, element_id: str, kind: str, ports: dict[str, str], role: Role
    ) -> None:
        chosen = shelf.part_named(pick.family + pick.dash)
        assert isinstance(chosen.figures, Pipe)
        ends = [shelf.end(shelf.end_name(pick.family, pick.dash, angle)) for angle in pick.ends]
        self.elements.append(
            Element(
                id=element_id,
                kind=kind or chosen.kind,
                title=chosen.title,
                ports=ports,
                figures=Air(bore_mm=chosen.figures.bore_mm)
                if kind in ("vent", "reference")
                else chosen.figures,
                shelf=chosen.name,
                properties=chosen.properties,
                length=Length(mm=pick.mm),
                end_a=ends[0],
                end_b=ends[1],
                clock_deg=pick.clock_deg,
                role=role,
                runs=pick.runs,
            )
        )

    def regulator(
        self,
        start: str,
        end: str,
        element_id: str = "PR",
        name: str | None = None,
        reference: str | None = None,
    ) -> str:
        """The regulator, set to the base pressure wanted as far as its screw reaches."""
        chosen = shelf.part_named(name or self.picks.regulator)
        assert isinstance(chosen.figures, Regulator)
        set_to = {"set_kpa": chosen.properties.within_setting(self.brief.base_kpa)} | (
            {"reference": reference} if reference else {}
        )
        part = chosen.figures.model_copy(update=set_to)
        return self.through(
            chosen.name,
            element_id,
            chosen.kind,
            start,
            end,
            figures=part,
            role="return" if part.holds == "inlet" else "feed",
        )

    def injectors(self, element_id: str, at: str, count: int) -> None:
        """So many injectors at a place."""
        chosen = shelf.part_named(self.picks.injectors)
        assert isinstance(chosen.figures, Injectors)
        part = chosen.figures.model_copy(
            update={"count": count, "commanded_at_kpa": self.brief.base_kpa}
        )
        self.fit(chosen.name, element_id, "injectors", {"start": at}, figures=part)

    def tank(
        self,
        element_id: str = "S1",
        name: str | None = None,
        outlet: str = "pot",
        mm: float = 0.0,
        title: str | None = None,
        floats: bool = False,
    ) -> str:
        """A tank and its outlet; one that `floats` is a header that falls full from another."""
        picks = self.picks
        part = TankLevel(level_mm=0.0 if floats else picks.level_mm, floats=floats)
        self.place(outlet, mm or picks.tank_height_mm)
        words = picks.tank_title if title is None else title
        self.fit(
            name or picks.tank,
            element_id,
            "tank",
            {"outlet": outlet},
            figures=part,
            role="suction",
            runs=words,
        )
        if self.brief.use == "flight" and not floats:  # a pilot sees how much is left of each tank
            e = self.elements[-1]
            self.elements[-1] = e.model_copy(
                update={"properties": e.properties.model_copy(update={"level_gauge": True})}
            )
        return outlet

    def circuit(self, template: str) -> Circuit:
        """What has been put together."""
        return Circuit(
            template=template,
            nodes=[Node(id=name, elevation_mm=mm) for name, mm in self.heights.items()],
            elements=self.elements,
        )
