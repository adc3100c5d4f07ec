"""The circuit's drawing for every layout, without a browser."""

import pytest

from tall_heron.core.design import design
from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.web.drawing.circuit.circuit import draw_circuit

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
