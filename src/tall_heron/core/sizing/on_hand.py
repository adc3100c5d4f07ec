"""What a builder has already, or asks for, in his line: figures from a box made into parts, and
what sizing holds to because of them.
"""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Injectors, PumpMap, TankLevel
from tall_heron.core.document.wish import Wish
from tall_heron.core.editing.fields import in_place
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.shelf.own_part import stem_of
from tall_heron.core.shelf.shelf import CC_MIN_TO_LPH, ShelfPart, parts

BOX_KPA = 300.0  # 43.5 psi at 13.5 V: what the figure on a pump's box is stated at; common practice
LOW_CLASS_KPA = 200.0  # a pump rated beyond is none for a carburetor
PLACED = {
    "C1": "in-tank",
    "C11": "external",
}  # where a pump is to stand, as the layouts that are asked for by it say
LINES = ("feed", "return", "suction")  # what a dash size may be said of, as sizing calls its groups


def wish_for(wishes: Iterable[Wish], *kinds: str) -> Wish | None:
    """The first wish of some kinds that has a figure."""
    return next((w for w in wishes if w.kind in kinds and w.figure is not None), None)


def pumps_wanted(wishes: Iterable[Wish]) -> int | None:
    """How many pumps side by side somebody has or wants; one where he has one and says no number."""
    wish = next((w for w in wishes if w.kind == "pumps"), None)
    return None if wish is None else wish.count or 1


def dashes_wanted(wishes: Iterable[Wish]) -> dict[str, str]:
    """Dash sizes that somebody has or wants, by what the line is."""
    return {w.kind: f"-{w.figure:g}" for w in wishes if w.kind in LINES and w.figure is not None}


def part_on_hand(build: Build, like: Element) -> ShelfPart | None:
    """What the builder has for the place of a pump or of injectors; None where he has none."""
    if build.brief is None:
        return None
    kind = {"pump": "pumps", "injectors": "injectors"}.get(like.kind, "")
    wish = wish_for(build.wishes, kind)
    if wish is None or wish.figure is None:
        return None
    return (
        pump_of(wish, like.properties.mount, build.brief) if kind == "pumps" else injectors_of(wish)
    )


def _own(like: ShelfPart, title: str, **figures: object) -> ShelfPart:
    """A part like one of the shelf, with other figures: it is there already, so it costs nothing,
    and all that its box does not say is guessed.
    """
    about = like.properties.model_copy(update={"price": 0.0, "provenance": "guessed"})
    return replace(
        like,
        name=stem_of(title),
        title=title,
        figures=like.figures.model_copy(update=figures),
        properties=about,
        source="on hand; its curve is guessed from its kind",
    )


def pump_of(wish: Wish, mount: str, brief: Brief) -> ShelfPart | None:
    """A pump of a flow [L/h] as its box says it: the curve of the shelf's pump of its kind that
    comes nearest, stretched to that flow.
    """
    asked = wish.figure or 0.0
    at = brief.base_kpa if brief.carbureted else BOX_KPA

    def suits(p: ShelfPart) -> bool:
        low = (p.properties.rated_kpa or 0.0) <= LOW_CLASS_KPA
        return (
            p.kind == "pump"
            and isinstance(p.figures, PumpMap)
            and p.properties.mount == mount
            and low == brief.carbureted
            and p.gives_lph(at) > 0
        )

    like = min(
        (p for p in parts().values() if suits(p)),
        key=lambda p: (abs(p.gives_lph(at) - asked), p.name),
        default=None,
    )
    if like is None or not isinstance(like.figures, PumpMap):
        return None
    share = asked / like.gives_lph(at)
    curves = [
        c.model_copy(
            update={
                "rows": [
                    [row[0] * share, row[1], *(round(x * share, 2) for x in row[2:])]
                    for row in c.rows
                ]
            }
        )
        for c in like.figures.curves
    ]
    return _own(like, f"Pump, {asked:.0f} L/h, on hand", curves=curves)


def injectors_of(wish: Wish) -> ShelfPart | None:
    """Injectors of a size [cc/min at 3 bar] as their maker names them."""
    rated = (wish.figure or 0.0) * CC_MIN_TO_LPH
    options = [
        p for p in parts().values() if p.kind == "injectors" and isinstance(p.figures, Injectors)
    ]
    like = min(
        options,
        key=lambda p: (abs((p.figures.rated_lph or 0.0) - rated), p.name),  # type: ignore[union-attr]
        default=None,
    )
    return (
        _own(like, f"Injectors, {wish.figure:.0f} cc/min, on hand", rated_lph=rated)
        if like is not None
        else None
    )


def with_tank(circuit: Circuit, wishes: Iterable[Wish]) -> Circuit:
    """The circuit with the tank that the builder has in the place of the one that fuel is carried
    in: like the shelf's that comes nearest, its box stretched alike each way.
    """
    wish = wish_for(wishes, "tank")
    place = next(
        (
            e
            for e in circuit.of_kind("tank")
            if e.properties.family not in ("pot", "header", "saddle tank")
        ),
        None,
    )
    if wish is None or wish.figure is None or place is None:
        return circuit
    family = "cell" if wish.value == "cell" else place.properties.family
    options = [
        p
        for p in parts().values()
        if p.kind == "tank"
        and p.properties.family in (family, place.properties.family)
        and p.properties.capacity_l
    ]
    like = min(
        options,
        key=lambda p: (
            p.properties.family != family,
            abs((p.properties.capacity_l or 0.0) - wish.figure),  # type: ignore[operator]
            p.name,
        ),
        default=None,
    )
    if like is None or not like.properties.capacity_l:
        return circuit
    k = (wish.figure / like.properties.capacity_l) ** (1 / 3)
    box = {
        name: round(v * k, 1)
        for name in ("long_mm", "wide_mm", "high_mm")
        if (v := getattr(like.properties, name)) is not None
    }
    own = _own(like, f"{'Fuel cell' if family == 'cell' else 'Tank'}, {wish.figure:.0f} L, on hand")
    own = replace(
        own,
        properties=own.properties.model_copy(
            update={
                **box,
                "capacity_l": wish.figure,
                "level_gauge": place.properties.level_gauge,
            }
        ),
    )
    twins = [e for e in circuit.of_kind("tank") if e.shelf == place.shelf]
    fitted = {e.id: _filled(in_place(e, own, None)) for e in twins}
    return circuit.model_copy(update={"elements": [fitted.get(e.id, e) for e in circuit.elements]})


def _filled(tank: Element) -> Element:
    """A tank that is no fuller than it is high."""
    figures, high = tank.figures, tank.properties.high_mm
    if (
        isinstance(figures, TankLevel)
        and high is not None
        and figures.level_mm is not None
        and figures.level_mm > 0.8 * high
    ):
        return tank.model_copy(
            update={"figures": figures.model_copy(update={"level_mm": round(0.7 * high, 1)})}
        )
    return tank


def answered(wishes: Sequence[Wish], build: Build) -> list[Wish]:
    """The wishes with how the build honors each, or why it does not."""
    return [
        w.model_copy(update=dict(zip(("honored", "says"), _answer(w, build), strict=True)))
        for w in wishes
    ]


def _answer(wish: Wish, build: Build) -> tuple[bool, str]:
    circuit, brief = build.circuit, build.brief
    assert brief is not None
    layout = LAYOUTS[circuit.template or "C1"]
    if wish.kind == "pumps":
        return _pumps_answer(wish, circuit)
    if wish.kind == "injectors":
        injectors = circuit.of_kind("injectors")
        if brief.carbureted:
            return False, "a carburetor feeds this engine: it has no injectors"
        if wish.figure is None:
            return sum(
                e.figures.count for e in injectors if isinstance(e.figures, Injectors)
            ) == wish.count, f"{brief.cylinders} cylinders have one each"
        if wish.count is not None and wish.count != brief.cylinders:
            return (
                False,
                f"{wish.count} of them for {brief.cylinders} cylinders: laid out with one each",
            )
        return any(
            e.title.startswith(f"Injectors, {wish.figure:.0f} cc/min") for e in injectors
        ), "fitted, at no cost"
    if wish.kind in LINES:
        lines = [e for e in circuit.of_kind("hose", "line") if e.role == wish.kind]
        if not lines:
            return False, f"{layout.title.lower()} has no {wish.kind} line"
        kept_lines = [e.id for e in lines if e.properties.dash == f"-{wish.figure:g}"]
        other = ", ".join(dict.fromkeys(e.properties.dash.replace("-", "−") for e in lines))
        return (
            bool(kept_lines),
            f"{', '.join(kept_lines)} in that size"
            if kept_lines
            else f"no −{wish.figure:g} of its kind of hose is on the shelf; laid out in {other}",
        )
    if wish.kind == "vent":
        return any(
            e.properties.dash == f"-{wish.figure:g}" for e in circuit.of_kind("vent")
        ), "vents are sized to the air they pass"
    if wish.kind == "tank":
        return any(
            e.title.endswith("on hand") for e in circuit.of_kind("tank")
        ), "in its place; its box is guessed from its volume"
    if wish.kind == "layout":
        if wish.value == "return":
            return any(
                e.role == "return" for e in circuit.elements
            ), f"laid out: {layout.title.lower()}"
        wanted = LAYOUTS[wish.value]
        mounts = {e.properties.mount for e in circuit.of_kind("pump")}
        if wish.value in PLACED and PLACED[wish.value] in mounts:
            return (
                True,
                "the pump hangs in the tank"
                if "in-tank" in mounts
                else "the pump stands outside the tank",
            )
        if (
            layout.key == wanted.key
            or (wanted.key == "C9" and layout.key in ("A2", "A8", "C13"))
            or (wanted.key == "C1" and layout.key != "C11")
        ):
            return True, f"laid out: {layout.title.lower()}"
        if wanted.feeding != brief.feeding:
            return (
                False,
                f"{wanted.title.lower()} is for {'a carburetor' if wanted.feeding == 'carburettor' else 'injection'}; laid out: {layout.title.lower()}",
            )
        return (
            False,
            f"beside what else is asked it is not laid out; station 2 shows what it would be. Laid out: {layout.title.lower()}",
        )
    if wish.kind == "carburetors":
        drawn = len(circuit.of_kind("carburettor"))
        return drawn == wish.count, (
            "each has a line of its own"
            if drawn == wish.count
            else "one is drawn, which takes the flow of all of them"
        )
    if wish.kind == "rails":
        return len(
            circuit.of_kind("rail")
        ) > 1 or wish.value == "dead-end", "as many rails as the engine has banks"
    if wish.kind == "mat":
        return False, "no mat is on the shelf: add your own at the shelf, and fit it at the pickup"
    return False, "say their size, and they are kept"


def _pumps_answer(wish: Wish, circuit: Circuit) -> tuple[bool, str]:
    pumps = [e for e in circuit.of_kind("pump") if isinstance(e.figures, PumpMap)]
    if wish.figure is not None:
        own = [e.id for e in pumps if e.title.startswith(f"Pump, {wish.figure:.0f} L/h")]
        return (
            bool(own),
            f"{', '.join(own)}, at no cost; the curve is guessed from its kind"
            if own
            else "no electric pump of such a kind stands in this layout",
        )
    return len(
        pumps
    ) == wish.count, f"{len(pumps)} electric pump{'s' if len(pumps) != 1 else ''} in this layout"
