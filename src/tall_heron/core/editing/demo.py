"""The demo builds: data/demo.json through their layouts."""

from tall_heron.core.base.catalogue import document
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.sources import with_source
from tall_heron.core.document.tank_inside import Inside
from tall_heron.core.editing.inside import with_inside, with_level_gauge
from tall_heron.core.editing.layouts import LAYOUTS


def demo_builds() -> dict[str, Build]:
    """Every demo build by its name in lower case."""
    out = {}
    for row in document("demo")["builds"]:
        layout, brief = LAYOUTS[row["layout"]], Brief.model_validate(row["brief"])
        circuit = layout.build(brief, layout.picks(**row["picks"]))
        for tank, inside in row.get("inside", {}).items():
            circuit = with_inside(circuit, tank, Inside.model_validate(inside))
        for tank in row.get("level_gauges", ()):
            circuit = with_level_gauge(circuit, tank, True)
        out[row["name"].lower()] = Build(name=row["name"], brief=brief, circuit=with_source(circuit, "typed"), typed=row["typed"])
    return out
