"""What the pages of the bench show."""

from collections.abc import Callable
from typing import Any

from flask import request

from tall_heron.core.base.catalogue import house_figure, table
from tall_heron.core.design import Design
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.faces import every_face
from tall_heron.core.document.shop import ALLOYS
from tall_heron.core.document.sources import clocked
from tall_heron.core.editing import shop as edit
from tall_heron.core.editing.fields import own_ends
from tall_heron.core.joining.losses import narrowed, taken
from tall_heron.core.sheets.buy_list import BULK, GROUPS
from tall_heron.core.sheets.fits import make_injector_sheets, make_rail_sheets
from tall_heron.core.sheets.labels import SHEETS, make_labels
from tall_heron.core.sheets.order_form import RULE_WORDS, RULES, SENSE, alike, order_head
from tall_heron.core.sheets.plate import can_carry, make_plate
from tall_heron.core.sheets.tank_sheet import CAUTIONS, tiles_of
from tall_heron.core.shelf.shelf import ends_for, swaps_for
from tall_heron.web import answers
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.hoses.bench import (
    bent_window,
    clock_letter,
    draw_rolls,
)
from tall_heron.web.drawing.hoses.cuts import draw_cuts
from tall_heron.web.drawing.hoses.plate_top import draw_plate
from tall_heron.web.drawing.hoses.tank_top import draw_tank_top
from tall_heron.web.frame import frame
from tall_heron.web.stations.hoses.hose_sheets import HoseSheets, sheets_of

VIEWS = {
    "cut": "Cut sheet",
    "joints": "Connections",
    "order": "Hose order form",
    "bends": "Hard lines",
    "buy": "Parts list",
    "job": "Build sequence",
    "labels": "Labels",
    "plate": "Plate",
    "fits": "Injector fit",
    "tank": "Tank",
}
SHORT_MM = 250.0
OWN_ANGLES = (0.0, 45.0, 90.0)
Words = Callable[[str], str]


def hoses_context(found: Stored, made: Design, hose: str) -> dict[str, Any]:
    """Everything the cut sheet shows."""
    hose_sheets = sheets_of(made)
    rows = hose_sheets.rows
    chosen = next((r for r in rows if r.element.id == hose), rows[0] if rows else None)
    scale, rolls = draw_rolls(hose_sheets.bought.bulk)
    return _page(found, made, "cut") | {
        "rows": {r.element.id: r for r in rows},
        "cuts": [r.cut for r in rows],
        "styles": {
            word: [r for r in rows if r.style_word == word]
            for word in dict.fromkeys(r.style_word for r in rows)
        },
        "bench": chosen,
        "chosen": chosen.cut if chosen else None,
        "cd": draw_cuts([r.cut for r in rows]),
        "bulk": hose_sheets.bought.bulk,
        "rolls": rolls,
        "roll_scale": scale,
        "angles": _angles(chosen.element) if chosen else [],
        "own_ends": own_ends(made.study.build, chosen.element) if chosen else [],
        "clocked": clocked,
        "cut_loss_mm": house_figure("cut_loss_mm"),
        "total": sum(
            i.price or 0.0 for i in hose_sheets.bought.items if i.group in ("hose", "ends")
        ),
        "mass": sum(
            i.mass_kg or 0.0 for i in hose_sheets.bought.items if i.group in ("hose", "ends")
        ),
        "swaps": None,  # asked for once the page stands
        "swapped": chosen.element if chosen else None,
        "solved": made.study.peak,
    }


def _angles(hose: Element) -> list[float]:
    """The angles that a hose's ends are made in: the shelf's, or of a hose of the builder's own the
    usual ones.
    """
    return (
        list(OWN_ANGLES)
        if hose.properties.ends is not None
        else [row["angle_deg"] for row in ends_for(hose.properties.family, hose.properties.dash)]
    )


def _page(found: Stored, made: Design, view: str) -> dict[str, Any]:
    shown = frame(found, made, "hoses")
    here = shown["here"] if view == "cut" or request.method == "GET" else f"{shown['here']}/{view}"
    return shown | {"here": here, "view": view, "views": VIEWS, "shop": found.build.shop}


def _joints(hose_sheets: HoseSheets, _: Words) -> dict[str, Any]:
    joints = hose_sheets.joints
    open_ = [j for j in joints.joints if j.how.state in ("refused", "none") or j.broken]
    price = sum(i.price or 0.0 for i in hose_sheets.bought.items if i.group == "adapters")
    here = {name for j in joints.joints for p in j.pieces for name in [p.name]}
    short = {i.key: i for i in hose_sheets.bought.short if i.key in here}
    peak = hose_sheets.study.peak.solution
    narrow = {j.key: found for j in joints.joints if (found := narrowed(j)) is not None}
    takes = (
        {
            j.key: pa
            for j in joints.joints
            if (pa := taken(hose_sheets.build, j, peak.flow, peak.density)) is not None
        }
        if peak.converged
        else {}
    )
    drawable = {j.key for j in edit.to_draw(hose_sheets.build, joints)}
    listed = sorted(
        joints.joints,
        key=lambda j: (
            j not in open_,
            j.key not in narrow,
            not any(p.name in short for p in j.pieces),
            -takes.get(j.key, -1.0),
        ),
    )
    sums = {"narrow": narrow, "takes": takes, "drawable": drawable}
    return sums | {
        "joints": joints,
        "listed": listed,
        "open": open_,
        "adapters_price": price,
        "short": short,
        "faces": [f.text for f in every_face()],
        "hub_titles": _hub_titles(joints.hubs),
    }


def _hub_titles(hubs: tuple[tuple[str, str], ...]) -> list[tuple[str, str]]:
    named = {
        str(r["name"]): str(r["title"])
        for name in ("closures", "plain_parts", "adapters")
        for r in table(name)
    }
    return [(place, named.get(name, name)) for place, name in hubs]


def _order(hose_sheets: HoseSheets, word: Words) -> dict[str, Any]:
    rule = word("rule") if word("rule") in RULES else RULES[0]
    orders = alike(hose_sheets.orders)
    parts = [
        ("", [o for o in orders if not o.guess]),
        ("Not to be made before it is measured", [o for o in orders if o.guess]),
    ]
    made = {o.label.split(" ")[0] for o in hose_sheets.orders}
    left = [r for r in hose_sheets.rows if r.element.id not in made]
    name = order_head(hose_sheets.build.shop, hose_sheets.build.name)
    return {
        "orders": orders,
        "order_parts": [x for x in parts if x[1]],
        "order_name": name,
        "rule": rule,
        "rules": RULE_WORDS,
        "sense": SENSE,
        "left": left,
        "clock_letter": clock_letter,
    }


def _bends(hose_sheets: HoseSheets, word: Words) -> dict[str, Any]:
    paper = _paper(word)
    return {
        "bends": hose_sheets.bends,
        "flat": {s.element.id: bent_window(s, paper) for s in hose_sheets.bends},
        "paper": paper,
        "papers": list(SHEETS),
        "short_mm": SHORT_MM,
    }


def _buy(hose_sheets: HoseSheets, _: Words) -> dict[str, Any]:
    circuit = hose_sheets.build.circuit
    swappable = {
        e.id: swaps_for(e, answers.own_shelf())
        for e in circuit.elements
        if e.kind not in ("tank", "injectors") or e.id in hose_sheets.build.shop.later
    }
    rolls = draw_rolls(hose_sheets.bought.bulk)[1]
    return {
        "bought": hose_sheets.bought,
        "asked": sum(not i.quote.supplier for i in hose_sheets.bought.items),
        "groups": GROUPS,
        "stages": hose_sheets.stages,
        "swappable": {k: v for k, v in swappable.items() if len(v) > 1},
        "elements": {e.id: e for e in circuit.elements},
        "rolls": rolls,
        "bulk_key": BULK,
        "spares": table("spares"),
    }


def _job(hose_sheets: HoseSheets, _: Words) -> dict[str, Any]:
    return {"steps": hose_sheets.steps, "short": hose_sheets.bought.short}


def _labels(hose_sheets: HoseSheets, word: Words) -> dict[str, Any]:
    paper = _paper(word)
    across, down = SHEETS[paper][2:]
    labels = make_labels(hose_sheets.rows)
    return {
        "sheets": [labels[i : i + across * down] for i in range(0, len(labels), across * down)],
        "paper": paper,
        "papers": list(SHEETS),
    }


def _plate(hose_sheets: HoseSheets, word: Words) -> dict[str, Any]:
    paper = _paper(word)
    sheet = make_plate(hose_sheets.build)
    on = {x.element.id for x in sheet.lying} if sheet is not None else set()
    off = [e for e in can_carry(hose_sheets.build) if e.id not in on]
    return {
        "sheet": sheet,
        "off": off,
        "alloys": ALLOYS,
        "paper": paper,
        "papers": list(SHEETS),
        "top": draw_plate(sheet, paper) if sheet is not None else None,
    }


def _fits(hose_sheets: HoseSheets, _: Words) -> dict[str, Any]:
    ports = [f for f in every_face() if f.sort in ("port", "pipe")]
    return {
        "injector_sheets": make_injector_sheets(hose_sheets.build),
        "rail_sheets": make_rail_sheets(hose_sheets.build),
        "ports": ports,
    }


def _tank(hose_sheets: HoseSheets, _: Words) -> dict[str, Any]:
    return {
        "tanks": [(t, draw_tank_top(t), tiles_of(t)) for t in hose_sheets.tanks],
        "tank_cautions": CAUTIONS,
    }


def _paper(word: Words) -> str:
    return word("paper") if word("paper") in SHEETS else "A4"


CONTEXTS: dict[str, Callable[[HoseSheets, Words], dict[str, Any]]] = {
    "joints": _joints,
    "order": _order,
    "bends": _bends,
    "buy": _buy,
    "job": _job,
    "labels": _labels,
    "plate": _plate,
    "fits": _fits,
    "tank": _tank,
}


def view_context(found: Stored, made: Design, view: str, word: Words) -> dict[str, Any]:
    """Everything one of the other pages of the bench shows."""
    return _page(found, made, view) | CONTEXTS[view](sheets_of(made), word)
