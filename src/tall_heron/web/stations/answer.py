"""An answer with the pieces of the page that a change came from; a piece that the page has already is not sent again."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Response, jsonify, render_template, request

from tall_heron.core.design import Design
from tall_heron.web.answers import Stored, designed, marks
from tall_heron.web.show.fields import FIELDS, field_text
from tall_heron.web.stations.brief.context import brief_context
from tall_heron.web.stations.cases.context import cases_context
from tall_heron.web.stations.circuit.context import circuit_context
from tall_heron.web.stations.hoses.context import CONTEXTS, bench_context, hoses_context
from tall_heron.web.stations.layout.context import layout_context
from tall_heron.web.stations.prove.context import CONTEXTS as PROVE_VIEWS
from tall_heron.web.stations.prove.context import tests_context
from tall_heron.web.stations.prove.context import view_context as prove_view
from tall_heron.web.stations.route.context import route_context
from tall_heron.web.stations.wiring.context import CONTEXTS as WIRING_VIEWS
from tall_heron.web.stations.wiring.context import view_context, wiring_context

Words = Callable[[str], str]  # a text that the page sent with its change, by its name


@dataclass(frozen=True)
class Page:
    """One page: what it shows, and the pieces that may change, by the element they fill."""

    context: Callable[[Stored, Design, Words], dict[str, Any]]
    pieces: dict[str, str]


HEAD, FIGURES, DRAWING, FINDINGS = ({x: f"pieces/{x}.jinja"} for x in ("head", "figures", "drawing", "findings"))
PAGES = {
    "brief": Page(
        lambda found, made, word: brief_context(found, made, bool(word("fuels"))),
        HEAD | FIGURES | DRAWING | FINDINGS | {"said": "stations/brief/said.jinja", "burn": "stations/brief/burn.jinja", "fuels": "stations/brief/fuels.jinja"},
    ),
    "layout": Page(lambda found, made, word: layout_context(found, made), HEAD | {"choices": "stations/layout/choices.jinja"} | FINDINGS),
    "circuit": Page(
        lambda found, made, word: circuit_context(found, made, word("part"), word("case"), word("try"), word("walk")),
        HEAD
        | FIGURES
        | {"case": "stations/circuit/case.jinja"}
        | DRAWING
        | FINDINGS
        | {"card": "stations/circuit/card.jinja"},
    ),
    "cases": Page(lambda found, made, word: cases_context(found, made), HEAD | {"cases-now": "stations/cases/now.jinja"} | FINDINGS),
    "route": Page(
        lambda found, made, word: route_context(found, made, word("line"), word("part"), word("view"), word("zoom"), word("try")),
        HEAD
        | FIGURES
        | {"route-tools": "stations/route/tools.jinja", "views": "stations/route/views.jinja"}
        | {"route-card": "stations/route/card.jinja"}
        | FINDINGS
        | {"space": "stations/route/space.jinja"},
    ),
    "wiring": Page(
        lambda found, made, word: wiring_context(found, made, word("part")),
        HEAD | FIGURES | {"drawing": "stations/wiring/schematic.jinja", "wiring-card": "stations/wiring/card.jinja"} | FINDINGS,
    ),
    "prove": Page(
        lambda found, made, word: tests_context(found, made, word("part")),
        HEAD | {"prove-figures": "stations/prove/figures.jinja", "prove-tests": "stations/prove/tests.jinja", "prove-card": "stations/prove/card.jinja"},
    ),
    "hoses": Page(
        lambda found, made, word: hoses_context(found, made, word("hose")),
        HEAD
        | {
            "cut-figures": "stations/hoses/cut_figures.jinja",
            "cuts": "stations/hoses/cuts.jinja",
            "rolls": "stations/hoses/rolls.jinja",
            "hose-card": "stations/hoses/hose_card.jinja",
        },
    ),
}


def _wiring(view: str) -> Page:
    return Page(lambda found, made, word: view_context(found, made, view), HEAD | {"wiring-view": "stations/wiring/piece.jinja"})


def _prove(view: str) -> Page:
    return Page(lambda found, made, word: prove_view(found, made, view), HEAD | {"prove-view": f"stations/prove/{view}.jinja"})


def _bench(view: str) -> Page:
    return Page(lambda found, made, word: bench_context(found, made, view, word), HEAD | {"bench-view": f"stations/hoses/{view}.jinja"})


PAGES |= {f"hoses {view}": _bench(view) for view in CONTEXTS}
PAGES |= {f"prove {view}": _prove(view) for view in PROVE_VIEWS}
PAGES |= {f"wiring {view}": _wiring(view) for view in WIRING_VIEWS}


def answer(found: Stored, data: dict[str, Any], **more: Any) -> Response:
    """The changed pieces of the page that asked, by the id of the element they fill, with a mark for each; the fields' texts; the revision they show; and `more` as
    it is. What the page says it `have`s by its mark is left out."""
    page, context = _asked(found, data)
    names = {name: template for name, template in page.pieces.items() if name != "fuels" or data.get("fuels")}
    return pieces_answer(names, context, data, head=found.row["head"], fields={f.name: field_text(found.build, f) for f in FIELDS.values()}, assumed=found.build.assumed, **more)


def page_answer(found: Stored, template: str, asked: dict[str, Any]) -> str | Response:
    """A page whole, from its template; its pieces where JSON is asked for. `asked` is what a change made on it would send: its name, its view, what is chosen."""
    if request.accept_mimetypes.best == "application/json":
        return answer(found, {**asked, "have": marks()})
    return render_template(template, **_asked(found, asked)[1])


def _asked(found: Stored, data: dict[str, Any]) -> tuple[Page, dict[str, Any]]:
    """The page that is asked for, and what it shows."""
    named = str(data.get("page"))
    page = PAGES.get(f"{named} {data.get('view')}", PAGES.get(named, PAGES["circuit"]))
    return page, page.context(found, designed(found), lambda name: str(data.get(name) or ""))


def pieces_answer(names: dict[str, str], context: dict[str, Any], data: dict[str, Any], **more: Any) -> Response:
    """Pieces rendered from their templates, those left out that the page has already."""
    have = data.get("have")
    known = have if isinstance(have, dict) else {}
    filled = {name: render_template(template, **context) for name, template in names.items()}
    made = {name: hashlib.blake2s(html.encode(), digest_size=6).hexdigest() for name, html in filled.items()}
    changed = {name: html for name, html in filled.items() if known.get(name) != made[name]}
    return jsonify(pieces=changed, marks=made, **more)
