"""Six failures of Egret against EPANET (Rossman, EPANET 2.2, through wntr), the network changed by
hand in the document.
"""

from collections.abc import Callable
from typing import Any

import pytest
from epanet import run

from tall_heron.core.document.build import Build, validate
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.shop import fit_every_adapter
from tall_heron.core.study.failures.failure_walk import outcome
from tall_heron.core.study.failures.failures import failures
from tall_heron.core.study.study import Study, make_study

Document = dict[str, Any]


def egret() -> Document:
    """Egret with every adapter drawn, without regulator slope and cracking of checks, which EPANET
    lacks, its two selectors turned apart.
    """
    data = fit_every_adapter(demo_builds()["egret"]).model_dump(mode="json", exclude_none=True)
    for element in data["circuit"]["elements"]:
        element["figures"] |= {
            "check": {"cracking_kpa": 0.0},
            "regulator": {"slope_kpa_per_lph": 0.0},
        }.get(element["figures"]["law"], {})
    part(data, "V2")["title"] = "three-way valve"
    return data


def part(data: Document, name: str) -> Document:
    found: Document = next(e for e in data["circuit"]["elements"] if e["id"] == name)
    return found


def _alone(data: Document, node: str) -> bool:
    return sum(node in e["ports"].values() for e in data["circuit"]["elements"]) == 1


def without(*names: str) -> Callable[[Document], None]:
    def change(data: Document) -> None:
        data["circuit"]["elements"] = [
            e for e in data["circuit"]["elements"] if e["id"] not in names
        ]
        while idle := [
            e
            for e in data["circuit"]["elements"]
            if e["kind"] == "fitting"
            and e["ports"]
            and any(_alone(data, n) for n in e["ports"].values())
        ]:
            data["circuit"]["elements"] = [
                e for e in data["circuit"]["elements"] if e not in idle
            ]  # its adapters, which then lead nowhere
        used = {n for e in data["circuit"]["elements"] for n in e["ports"].values()}
        data["circuit"]["nodes"] = [n for n in data["circuit"]["nodes"] if n["id"] in used]

    return change


def turned(name: str) -> Callable[[Document], None]:
    """The lines of a selector changed over: what stood at left is what right leads to."""

    def change(data: Document) -> None:
        ports = part(data, name)["ports"]
        ports["left"], ports["right"] = ports["right"], ports["left"]

    return change


def plain(name: str, bore: str, loss: str) -> Callable[[Document], None]:
    """A part as nothing but its bore."""

    def change(data: Document) -> None:
        element = part(data, name)
        figures = element["figures"]
        element |= {
            "kind": "fitting",
            "figures": {"law": "loss", "bore_mm": figures[bore], "loss_coefficient": figures[loss]},
        }

    return change


SIX = [
    ("P1", "stops", without("P1", "K1", "T11")),
    ("P2", "stops", without("P2", "K2", "T12")),
    ("K1", "sticks open", plain("K1", "bore_mm", "loss_coefficient")),
    ("V1", "stands at right", turned("V1")),
    ("V2", "stands at right", turned("V2")),
    ("PR", "sticks open", plain("PR", "wide_open_bore_mm", "wide_open_loss_coefficient")),
]


@pytest.mark.parametrize(("name", "what", "by_hand"), SIX, ids=[f"{a} {b}" for a, b, _ in SIX])
def test_a_failure_is_the_network_without_it(
    name: str, what: str, by_hand: Callable[[Document], None]
) -> None:
    """The rail within 0.1 % of the largest pressure, and each flow within 0.1 % of the largest."""
    study: Study = make_study(validate(egret()))
    found = outcome(study, next(f for f in failures(study) if (f.part, f.what) == (name, what)))
    changed = egret()
    by_hand(changed)
    build: Build = validate(changed)
    point = study.peak.case.point.model_copy(update={"demand_lph": study.peak.case.demand * 3.6e6})
    pressures, flows = run(build, point)
    ours = study.what_if.changed(*found.failure.changes).at(
        study.peak.case.point, study.peak.case.demand
    )
    assert found.rail == pytest.approx(
        pressures["rail out"], abs=1e-3 * max(map(abs, pressures.values()))
    )
    largest = max(map(abs, flows.values()))
    assert {k for k in flows if k in ours.links} >= {"F2", "J1", "H4"}
    for key, flow in flows.items():
        if key in ours.links and build.circuit.element(key.partition(".")[0]).kind not in (
            "selector",
            "merge",
        ):  # type: ignore[union-attr]
            assert ours.links[key].flow == pytest.approx(flow, abs=1e-3 * largest), key
