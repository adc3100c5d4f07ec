"""Filters: where they stand, in what order of fineness, of what stuff."""

from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import FILTERS
from tall_heron.core.document.path import downstream, upstream
from tall_heron.core.rules.arrows import points_against
from tall_heron.core.rules.finding import Finding, FindingFigure
from tall_heron.core.rules.rule import Rule, elements, has, solves_with
from tall_heron.core.rules.words import named, pressure_limit
from tall_heron.core.study.cases.cases import fuels_met
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.study import Study

ORDER = "common practice: 100 µm before the pump, 10 µm after it"


def _around(study: Study) -> tuple[dict[str, Element], dict[str, Element]]:
    """The filters before the pumps and after them."""
    before: dict[str, Element] = {}
    after: dict[str, Element] = {}
    for pump in elements(study, "pump"):
        before |= {e.id: e for e in upstream(study.build.circuit, pump) if e.kind in FILTERS}
        after |= {e.id: e for e in downstream(study.build.circuit, pump) if e.kind in FILTERS}
    return before, after


def filter_order(study: Study) -> Iterator[Finding]:
    """Coarse before the pump, fine after it, never the other way round."""
    before, after = _around(study)
    for e in before.values():
        coarser = [
            f
            for f in after.values()
            if f.properties.micron
            and e.properties.micron
            and e.properties.micron < f.properties.micron
        ]
        if coarser and e.properties.micron and coarser[0].properties.micron:
            f = coarser[0]
            figures = {
                "micron": FindingFigure(e.properties.micron / 1e6, "fineness"),
                "after": FindingFigure(coarser[0].properties.micron / 1e6, "fineness"),
            }
            title = f"{e.id} is finer than {f.id}: {{micron}} before the pump, {{after}} after it"
            why = "The suction side catches what the pressure side was fitted for; it clogs first, and a starved pump boils its fuel."
            yield Finding(
                "Stop",
                e.id,
                title,
                why,
                f"Change {e.id} and {f.id} over, or fit 100 µm before and 10 µm after.",
                figures,
            )


def nothing_before(study: Study) -> Iterator[Finding]:
    """A crumb stops a pump."""
    bare = [
        p
        for p in elements(study, "pump")
        if not any(e.kind in FILTERS for e in upstream(study.build.circuit, p))
        and not points_against(study, p)
    ]
    if bare:
        names = named([p.id for p in bare])
        why = "A crumb from the tank stops or scores a pump."
        yield Finding(
            "Check",
            bare[0].id,
            f"No pre-filter before {names}",
            why,
            "Fit a pre-filter of 40 to 100 µm before the pump.",
        )


def nothing_after(study: Study) -> Iterator[Finding]:
    """Pumps and hoses shed."""
    pumps = [p for p in study.feed_path.pumps if not points_against(study, p)]
    bare = [
        p
        for p in pumps
        if not any(e.kind in FILTERS for e in downstream(study.build.circuit, p))
        and study.feed_path.burners
    ]
    if bare:
        names = named([p.id for p in bare])
        why = "Wear from the pump and the hoses reaches the injectors."
        yield Finding(
            "Check",
            bare[-1].id,
            f"No filter after {names}",
            why,
            "Fit a filter of about 10 µm between pump and rail.",
        )


def too_fine_before(study: Study) -> Iterator[Finding]:
    """A fine element on the suction side."""
    least = house_figure("strainer_finest")
    before, after = _around(study)
    for e in before.values():
        finer = any(
            f.properties.micron
            and e.properties.micron
            and e.properties.micron < f.properties.micron
            for f in after.values()
        )
        if e.properties.micron and e.properties.micron < least and not finer:
            figures = {
                "micron": FindingFigure(e.properties.micron / 1e6, "fineness"),
                "limit": FindingFigure(least / 1e6, "fineness"),
            }
            title = f"{e.id} is {{micron}}; before a pump {{limit}} is the finest"
            why = "A fine element loads up and pulls the pump's inlet toward boiling."
            yield Finding(
                "Check",
                e.id,
                title,
                why,
                "Fit 40 to 100 µm before the pump and leave the fine work to the filter after it.",
                figures,
            )


def takes_too_much(study: Study) -> Iterator[Finding]:
    """A clean filter that takes much takes three times that when it is due."""
    limit = allowance(study.brief, "filter_allowance")
    for e in elements(study, "filter"):
        takes = abs(study.friction(study.peak, e.id))
        if takes > limit:
            figures = {
                "takes": FindingFigure(takes, "pressure_difference"),
                "limit": FindingFigure(limit, "pressure_difference"),
            }
            title, why = (
                f"{e.id}: pressure drop {{takes}} clean; {{limit}} allowed",
                "Due for a change it drops about three times as much.",
            )
            yield Finding(
                "Check",
                e.id,
                title,
                why,
                "Fit a larger filter, or two side by side.",
                figures,
                "peak",
            )


def element_in_alcohol(study: Study) -> Iterator[Finding]:
    """A paper element does not last in alcohol."""
    worst = max(fuels_met(study.brief), key=lambda f: (f.methanol, f.ethanol))
    for e in elements(study, *FILTERS):
        most = e.properties.ethanol_max_percent
        if (
            e.properties.medium == "paper"
            and most is not None
            and (worst.ethanol * 100 > most or worst.methanol)
        ):
            figures = {"most": FindingFigure(most / 100, "fraction")}
            title = f"{e.id} paper will not last in {worst.name}"
            why = "Alcohol softens the resin that binds the paper, good for {most} ethanol at most; the element sheds into the injectors."
            yield Finding("Stop", e.id, title, why, "Fit glass fiber or steel mesh.", figures)


def _pumped_injection(study: Study) -> bool:
    """A bowl has a screen of its own."""
    return has("pump")(study) and not study.brief.carbureted


RULES = (
    Rule("F-01", "Coarse before the pump, fine after it.", ORDER, filter_order, has("pump")),
    Rule(
        "F-02",
        f"No filter before a pump is finer than {house_figure('strainer_finest'):g} µm.",
        "common practice",
        too_fine_before,
        has("pump"),
    ),
    Rule("F-03", "A pre-filter or sock protects the pumps.", ORDER, nothing_before, has("pump")),
    Rule("F-04", "A fine filter follows the pumps.", ORDER, nothing_after, _pumped_injection),
    Rule(
        "F-07",
        f"No clean filter drops more than {pressure_limit('filter_allowance')}, before a carburetor {pressure_limit('filter_allowance_carburettor')}.",
        "house allowance",
        takes_too_much,
        solves_with("filter"),
    ),
    Rule(
        "M-04",
        "No paper element in alcohol.",
        "paper up to 15 % ethanol, common practice",
        element_in_alcohol,
        has(*FILTERS),
    ),
)
