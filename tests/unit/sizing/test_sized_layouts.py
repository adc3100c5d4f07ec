"""Each layout judged with parts sized for it, within the time there is."""

from collections.abc import Callable

import pytest

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.sizing.chooser import Candidate, choose, fitted_with, sizes_for, wanted

STONECHAT = demo_builds()["stonechat"]


def after(looks: int) -> Callable[[], bool]:
    """A clock that is over after it was looked at so often."""
    left = [looks]

    def late() -> bool:
        left[0] -= 1
        return left[0] < 0

    return late


def stops(candidate: Candidate) -> set[str]:
    return {f.rule for f in candidate.findings if f.level == "Stop"}


@pytest.mark.sweep
def test_the_present_layout_is_sized_first() -> None:
    layout, rails = wanted(STONECHAT)[0]
    assert layout.key == STONECHAT.circuit.template
    sizes = {(x.key, r): sizes_for(STONECHAT, x, r) for x, r in wanted(STONECHAT)[:2]}
    choice = choose(STONECHAT, {k: v for k, v in sizes.items() if v is not None})
    assert {(c.layout.key, c.rails) for c in choice.candidates if c.sized is not None} == set(sizes)
    present = next(c for c in choice.candidates if c.present)
    plain = next(c for c in choose(STONECHAT).candidates if c.present)
    assert present.rails == rails
    assert stops(present) == {"C-02"}  # 600 m and 38 °C in the brief; higher up no pump of the shelf draws fuel there
    assert present.totals.price < plain.totals.price
    assert present.changed.build == fitted_with(STONECHAT, present.sized or {})


@pytest.mark.parametrize(("late", "share", "found"), [(0, 10**9, False), (10**9, 40, True), (10**9, 10**9, True)])
def test_what_is_over_its_share_is_taken_and_what_is_too_late_is_not(late: int, share: int, found: bool) -> None:
    layout, rails = wanted(STONECHAT)[0]
    sizes = sizes_for(STONECHAT, layout, rails, late=after(late), share=after(share))
    assert (sizes is not None) == found
    if sizes is not None:
        held = next(c for c in choose(STONECHAT, {(layout.key, rails): sizes}).candidates if c.present)
        assert stops(held) == {"C-02"}
