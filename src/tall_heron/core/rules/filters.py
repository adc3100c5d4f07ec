"""Filters: where they stand, in what order of fineness, of what stuff."""

from collections.abc import Iterator

from tall_heron.core.catalogue import house_figure
from tall_heron.core.circuit import Element
from tall_heron.core.finding import Figure, Finding
from tall_heron.core.path import downstream, upstream
from tall_heron.core.study import Study

FILTERS = ("strainer", "filter")


def filter_order(study: Study) -> Iterator[Finding]:
    """Coarse before the pump, fine after it, never the other way round."""
    circuit = study.build.circuit
    pumps = circuit.of_kind("pump")
    if not pumps:
        return
    before: dict[str, Element] = {}
    after: dict[str, Element] = {}
    for pump in pumps:
        before |= {e.id: e for e in upstream(circuit, pump) if e.kind in FILTERS}
        after |= {e.id: e for e in downstream(circuit, pump) if e.kind in FILTERS}
    names = " ".join(p.id for p in pumps)
    source = "House rule F-01, common practice: 100 µm before the pump, 10 µm after it"
    if not before:
        yield Finding(
            "F-01",
            "Check",
            pumps[0].id,
            f"No strainer before {names}",
            "A crumb from the tank stops or scores a pump.",
            "Fit a strainer of 40 to 100 µm before the pump.",
            source,
        )
    if not after:
        yield Finding(
            "F-01",
            "Check",
            pumps[-1].id,
            f"No filter after {names}",
            "Wear from the pump and the hoses reaches the injectors.",
            "Fit a filter of about 10 µm between pump and rail.",
            source,
        )
    least = house_figure("strainer_finest")
    for e in before.values():
        finer = [f for f in after.values() if f.about.micron and e.about.micron and e.about.micron < f.about.micron]
        figures = {}
        if e.about.micron:
            figures["micron"] = Figure(e.about.micron / 1e6, "fineness")
        if finer and finer[0].about.micron:
            figures["after"] = Figure(finer[0].about.micron / 1e6, "fineness")
            yield Finding(
                "F-01",
                "Stop",
                e.id,
                f"{e.id} is finer than {finer[0].id}: {{micron}} before the pump, {{after}} after it",
                "The suction side catches what the pressure side was fitted for; it clogs first, and a starved pump boils its fuel.",
                f"Change {e.id} and {finer[0].id} over, or fit 100 µm before and 10 µm after.",
                source,
                figures,
            )
        elif e.about.micron and e.about.micron < least:
            figures["limit"] = Figure(least / 1e6, "fineness")
            yield Finding(
                "F-01",
                "Check",
                e.id,
                f"{e.id} is {{micron}}; before a pump {{limit}} is the finest",
                "A fine element loads up and pulls the pump's inlet toward boiling.",
                "Fit 40 to 100 µm before the pump and leave the fine work to the filter after it.",
                source,
                figures,
            )


def element_in_alcohol(study: Study) -> Iterator[Finding]:
    """A paper element does not last in alcohol."""
    percent = study.burn.fuel.ethanol * 100
    for e in study.build.circuit.of_kind(*FILTERS):
        most = e.about.ethanol_max_percent
        if most is None or percent <= most or e.about.medium != "paper":
            continue
        yield Finding(
            "M-04",
            "Stop",
            e.id,
            f"{e.id} paper will not last in {study.burn.fuel.name}",
            "Alcohol softens the resin that binds the paper; the element sheds into the injectors.",
            "Fit glass fibre or steel mesh.",
            "House rule M-04: paper up to {most} ethanol",
            {"most": Figure(most / 100, "fraction")},
        )


RULES = (filter_order, element_in_alcohol)
