"""The circuit's drawing for every layout, without a browser."""

import pytest

from tall_heron.core.design import design
from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.route import set_outline
from tall_heron.core.rules import check_route
from tall_heron.core.rules.route import laid_of
from tall_heron.core.study.study import make_study
from tall_heron.web.drawing.circuit.circuit import draw_circuit
from tall_heron.web.drawing.route.scene import draw_views

LIKE = {"C": "bittern", "A": "egret"}


@pytest.mark.parametrize("key", LAYOUTS)
def test_every_part_of_every_layout_is_drawn_once(key: str) -> None:
    name = {"C5": "dunlin", "C6": "dunlin", "A1": "plover"}.get(key, LIKE[key[0]])
    brief, layout = demo_builds()[name].brief, LAYOUTS[key]
    assert brief is not None
    made = design(Build(name=key, brief=brief, circuit=layout.build(brief, layout.picks())))
    drawing = draw_circuit(made.study, made.study.peak, made.findings, "")
    drawn = [s.element.id for s in drawing.symbols]
    assert sorted(drawn) == sorted(e.id for e in made.study.build.circuit.elements if e.ports)
    assert drawing.dead == set()


@pytest.mark.parametrize("line", ["", "H3", "H4"])
def test_a_view_of_the_route_has_three_marks_at_most_and_no_leader_crosses_another(
    line: str,
) -> None:
    """Seven findings in a vehicle the lines were not drawn for; those of the chosen line come
    first.
    """
    study = make_study(set_outline(demo_builds()["bittern"], "buggy"))
    found = check_route(study)[0]
    about = [f.element_id for f in found if f.spot is not None and f.level != "Note"]
    assert len(about) > 5
    for scene in draw_views(laid_of(study), ("side", "plan"), found, line, "", 1.0, {}):
        assert 1 <= len(scene.spots) <= 3
        assert not line or found[scene.spots[0].number - 1].element_id == line
        ends = [((s.x, s.y), s.to) for s in scene.spots]
        for i, (a, b) in enumerate(ends):
            for c, d in ends[i + 1 :]:
                turns = [
                    (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])
                    for p, q, r in ((a, b, c), (a, b, d), (c, d, a), (c, d, b))
                ]
                assert not (turns[0] * turns[1] < 0 and turns[2] * turns[3] < 0)
