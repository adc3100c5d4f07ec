"""What is sized together, and what the shelf has for it."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit, Element, Pipe
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.path import upstream
from tall_heron.core.editing.fields import fit
from tall_heron.core.physics.fuel import Fuel
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.shelf.totals import mass_of, price_of
from tall_heron.core.study.study import Study

By = Literal["cost", "mass", "current"]


@dataclass(frozen=True)
class Group:
    """Parts that are sized together, and what may be fitted in their place, the cheapest first, with its weight."""

    ids: tuple[str, ...]
    kind: str
    options: tuple[tuple[float, ShelfPart], ...]


def make_groups(study: Study, by: By, keep: Sequence[str], own: Sequence[ShelfPart]) -> list[Group]:
    """What is to be sized of a solved build: parts side by side together, each with what suits its place and the fuel."""
    build, fuel = study.build, study.burn.fuel
    out: list[Group] = []
    done: set[str] = set(keep)
    lines = _together(study) + [c.elements for c in study.path.columns] + [(e,) for b in study.path.branches for e in b.elements]
    for elements in lines:
        for group in _alike(elements):
            ids = tuple(e.id for e in group)
            if any(i in done for i in ids) or group[0].kind not in KINDS_SIZED:
                continue
            done |= set(ids)
            out += _group(group, build, by, fuel, own)
    burners = [e for e in build.circuit.of_kind("injectors") if e.id not in done]
    if burners:
        out += _group(burners, build, by, fuel, own)
    return out


def _together(study: Study) -> list[tuple[Element, ...]]:
    """What a builder buys alike wherever it stands: the pumps that feed the engine, their checks, and the hoses of the feed in one line."""
    circuit = study.build.circuit
    fed = {p.id for p in study.fed.pumps}
    checks = [e for e in circuit.of_kind("check") if any(p.id in fed for p in upstream(circuit, e) if p.kind == "pump")]
    line = [e for c in study.path.columns if len(c.elements) == 1 for e in c.elements if e.kind in PIPES and e.role == "feed"]
    return [tuple(study.fed.pumps), tuple(checks), tuple(line), *_in_one_line(circuit)]


def _in_one_line(circuit: Circuit) -> list[tuple[Element, ...]]:
    """Hoses and lines that only a union parts, at a panel: one line to a builder."""
    at: dict[str, list[Element]] = {}
    for e in circuit.of_kind(*PIPES):
        for node in e.ports.values():
            at.setdefault(node, []).append(e)
    return [tuple(both) for f in circuit.of_kind("fitting") if len(both := [e for node in f.ports.values() for e in at.get(node, ())]) == 2]


KINDS_SIZED = ("pump", "jet", "filter", "strainer", "check", *PIPES, "regulator")


def _alike(elements: Sequence[Element]) -> list[list[Element]]:
    """Elements of one column, those with the same part together."""
    found: dict[str | None, list[Element]] = {}
    for e in elements:
        found.setdefault(e.shelf, []).append(e)
    return list(found.values())


def _group(elements: list[Element], build: Build, by: By, fuel: Fuel, own: Sequence[ShelfPart]) -> list[Group]:
    first = elements[0]
    options = []
    lies = {e.id for hung in hung_pumps(build.circuit) for e in hung.immersed}
    for part in swaps_for(first, own):
        if not made_for(part.properties, fuel) or not _same_use(part, first, fuel, bool(lies & {e.id for e in elements})):
            continue
        changed = fit(build, first.id, part.name, own).circuit.element(first.id)
        assert changed is not None
        price, mass = price_of(changed), mass_of(changed)
        if price is None or (by == "mass" and mass is None):
            continue
        weight = mass if by == "mass" else price
        if by == "current" and first.kind == "pump":
            weight = 1000 * (part.figures.curves[-1].rows[-1][2] if len(part.figures.curves[-1].rows[-1]) > 2 else 99.0) + price  # type: ignore[union-attr]
        options.append(((weight or 0.0) * len(elements), part))
    options.sort(key=lambda x: (x[0], x[1].name))
    return [Group(tuple(e.id for e in elements), first.kind, tuple(options))] if options else []


def _same_use(part: ShelfPart, element: Element, fuel: Fuel, immersed: bool) -> bool:
    """As fine a filter, a pump of the same mount, a line of the same family where that bears the fuel round it and in it: sizing changes how large a part is, not what it is."""
    if element.kind in PIPES:
        own, other = element.properties, part.properties
        if immersed and other.immersion is not True:
            return False
        bears = made_for(own, fuel) and (own.immersion is True or not immersed)
        return other.family == own.family or (not bears and part.kind == element.kind and (immersed or other.immersion == own.immersion))
    if element.kind == "pump":
        return part.properties.mount == element.properties.mount
    if element.kind in ("filter", "strainer"):
        if (
            part.kind != element.kind
            or part.properties.mount != element.properties.mount
            or part.properties.micron is None
            or element.properties.micron is None
        ):
            return False
        return (
            part.properties.micron <= element.properties.micron
            if element.kind == "filter"
            else element.properties.micron * 0.7 <= part.properties.micron <= 150
        )
    return True


def most_generous(group: Group) -> int:
    """The option that takes least: the widest hose, filter and check, the largest seat and injectors; of pumps the last."""

    def width(k: int) -> float:
        part = group.options[k][1].figures
        if isinstance(part, Pipe):
            return part.bore_mm
        if group.kind in ("filter", "strainer"):
            return -(part.a_kpa_per_lph * 300 + part.b_kpa_per_lph2 * 300**2)  # type: ignore[union-attr]
        if group.kind == "regulator":
            return part.wide_open_bore_mm - 100 * part.slope_kpa_per_lph  # type: ignore[union-attr]
        if group.kind == "injectors":
            return part.rated_lph or 0.0  # type: ignore[union-attr]
        if group.kind == "check":
            return part.bore_mm  # type: ignore[union-attr]
        return float(k)

    return max(range(len(group.options)), key=width)
