"""A hose has one cut length on every page and in every file."""

import csv
import io
import re

import pytest
from flask.testing import FlaskClient

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.sheets.cut_list import make_cut_rows
from tall_heron.web.show.text import bare


@pytest.mark.parametrize("slug", ["bittern", "egret", "curlew", "stonechat"])
def test_pages_and_files_of_a_demo_say_one_cut_length(client: FlaskClient, slug: str) -> None:
    build = demo_builds()[slug]
    cuts = {c.element.id: c.cut_mm for c in make_cut_rows(build.circuit) if c.cut_mm is not None}
    rows = {
        r["hose"]: float(r["cut_mm"])
        for r in csv.DictReader(io.StringIO(client.get(f"/builds/{slug}/cut-list.csv").text))
        if r["cut_mm"]
    }
    assert rows == {k: pytest.approx(v, abs=0.05) for k, v in cuts.items()}
    page = client.get(f"/builds/{slug}/hoses").text
    for name, mm in cuts.items():
        assert re.search(
            rf'<span class="tag">{name}</span> <span class="cut-mm [a-z]+">{re.escape(bare(mm / 1000, "length"))}<',
            page,
        ), name
    laid = lay_out(build)
    for name in [n for n, x in laid.lines.items() if not x.inside and n in cuts][:3]:
        assert (
            f"<dt>cut</dt><dd>{bare(cuts[name] / 1000, 'length')} "
            in client.get(f"/builds/{slug}/route?line={name}").text
        )
