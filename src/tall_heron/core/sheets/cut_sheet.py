"""The cut sheet of a build: every hose and line with what the bench must know of it. The geometry
is Route's; nothing is measured here.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import by_name, house_figure, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import DRY
from tall_heron.core.document.record import GUESSES
from tall_heron.core.document.sources import SOURCE_WORDS, clocked
from tall_heron.core.routing.laid import Laid
from tall_heron.core.sheets.cut_list import HoseCut, make_cut_rows
from tall_heron.core.sheets.cut_plan import CutPlan, plan_cuts, stocks_of
from tall_heron.core.shelf import shelf

BREATHES = (
    "vent",
    "overflow",
    "filler",
)  # what carries air or what runs over, never fuel to the engine
AIR = ("vent", "reference")  # roles of what carries no fuel at all
LABEL_WORDS = {
    "feed": "FUEL FEED",
    "return": "FUEL RETURN",
    "suction": "FUEL SUCTION",
    "reference": "BOOST SIGNAL",
    "vent": "BREATHER",
}


@dataclass(frozen=True)
class HoseJob:
    """A hose or line at the bench: `cut`; whether it is `made` on the bench or in the car and why;
    how much longer the piece is cut for that [mm]; how far length [mm] and clock [deg] may be off;
    its label; sleeves along it; how its ends are fitted, with the steps; the group of equal lines
    it belongs to.
    """

    cut: HoseCut
    made_at: str
    chosen: bool
    why_made: str
    leave_mm: float
    tolerance_mm: float
    clock_tolerance_deg: float
    label: str
    breather: bool
    guards: tuple[tuple[str, float, float], ...]
    style: str
    style_word: str
    steps: tuple[tuple[str, str], ...]
    group: str
    drawn_mm: float | None

    @property
    def element(self) -> Element:
        """The hose."""
        return self.cut.element

    @property
    def ends(self) -> tuple[str, str]:
        """Its ends A and B in words."""
        return end_words(self.element, "a"), end_words(self.element, "b")

    @property
    def piece_mm(self) -> float | None:
        """What comes off the roll [mm]: the cut and what is left on it."""
        return self.cut.cut_mm + self.leave_mm if self.cut.cut_mm is not None else None


@dataclass(frozen=True)
class Bulk:
    """One hose of one size: its shelf name and title, the plan of its cuts, its price by the meter,
    the pieces.
    """

    name: str
    title: str
    plan: CutPlan
    price_m: float | None
    mass_kg_m: float | None
    pieces: tuple[HoseJob, ...]


def tolerance_of(mm: float) -> float:
    """How far the length of a made hose may be off [mm]."""
    row = next(r for r in table("hose_tolerances") if mm <= r["up_to_mm"])
    return float(row["tolerance_mm"] or row["share"] * mm)


FITTED = {
    "olive": "reusable end with an olive",
    "screwed": "reusable end, screwed on",
    "push-on": "push-on end",
    "crimped": "end crimped on with its maker's die",
}


def style_of(element: Element) -> tuple[str, str]:
    """How the ends of a hose's family are fitted, and in words; for hose of its own sort as its
    maker says.
    """
    row = by_name("end_styles", "family").get(element.properties.family)
    if row is None and element.properties.ends is not None:
        return element.properties.ends.fitted, FITTED[element.properties.ends.fitted]
    if row is None:
        return "", "per its maker"
    if (
        element.end_a is None
        and element.end_b is None
        and element.kind != "line"
        and row["style"] not in ("flared",)
    ):
        return "clamped", "bare hose, clamped"
    return str(row["style"]), str(row["word"])


def end_words(element: Element, side: str) -> str:
    """An end of a hose as it is asked for over a counter: its size, how it joins, how it is bent."""
    end = element.end_a if side == "a" else element.end_b
    row = by_name("end_styles", "family").get(element.properties.family)
    dash = element.properties.dash.replace("-", "−")
    if row is None:
        ends = element.properties.ends
        return (
            f"{dash} per its maker"
            if end is None
            else f"{dash} {f'female AN swivel, {ends.fitted}' if ends is not None else 'of your own'}, {_bent(end.angle_deg)}"
        )
    if end is None:
        return f"{dash} {row['end'] if element.kind == 'line' or row['face'] != 'nut' else 'bare, clamped'}"
    return f"{dash} {row['end'] if end.shelf else 'end of your own'}, {_bent(end.angle_deg)}"


def _bent(deg: float) -> str:
    return "straight" if deg == 0 else f"{deg:g}°"


def steps_of(style: str) -> tuple[tuple[str, str], ...]:
    """What is done, one after another."""
    return tuple((str(r["step"]), str(r["what"])) for r in table("steps") if r["style"] == style)


def made_where(build: Build, cut: HoseCut) -> tuple[str, bool, str]:
    """Whether a hose is made on the bench or in the car, whether somebody said so, and why."""
    e = cut.element
    chosen = build.shop.made.get(e.id)
    if chosen is not None:
        return chosen, True, "as you said"
    if e.length is not None and e.length.guessed:
        return "car", False, SOURCE_WORDS[e.length.source]
    if clocked(e) and (e.clock_deg is None or e.clock_source in GUESSES):
        return "car", False, "clocking angle unknown"
    both = all(end is not None and end.angle_deg > 0 for end in (e.end_a, e.end_b))
    if both and cut.cut_mm is not None and cut.cut_mm < house_figure("short_hose_mm"):
        return "car", False, "short with both ends bent"
    if not style_of(e)[0]:
        return "car", False, "its ends are not known: type them with its hose on the shelf"
    return "bench", False, "its length and ends are known"


def _left_on(e: Element, made_at: str, chosen: bool, mm: float) -> float:
    """How much longer than its cut a piece is taken off the roll [mm]: to be cut again in the car,
    and a tenth where its length is guessed and nobody says that it is made on the bench.
    """
    again = house_figure("recut_mm") if made_at == "car" else 0.0
    return (
        max(again, house_figure("guess_slack") * mm)
        if e.length is not None and e.length.guessed and not (chosen and made_at == "bench")
        else again
    )


def label_of(element: Element) -> str:
    """What stands on its label."""
    word = {"filler": "FILLER", "drain": "DRAIN", "overflow": "OVERFLOW"}.get(
        element.kind, LABEL_WORDS[element.role]
    )
    return f"{element.id} {word}"


def make_cut_sheet(build: Build, laid: Laid | None = None) -> list[HoseJob]:
    """Every hose and line of a build, in document order."""
    out = []
    groups = {line: name for name, lines in build.space.groups.items() for line in lines}
    for cut in make_cut_rows(build.circuit):
        e = cut.element
        made_at, chosen, why = made_where(build, cut)
        style, word = style_of(e)
        mm = cut.cut_mm or 0.0
        route = build.space.routes.get(e.id)
        clock = house_figure(
            "clock_tolerance_short_deg"
            if mm <= house_figure("clock_tolerance_to_mm")
            else "clock_tolerance_long_deg"
        )
        line = laid.lines.get(e.id) if laid is not None else None
        out.append(
            HoseJob(
                cut,
                made_at,
                chosen,
                why,
                _left_on(e, made_at, chosen, mm),
                tolerance_of(cut.face_mm),
                clock,
                label_of(e),
                e.kind in BREATHES or e.role in AIR,
                tuple((g.kind, g.from_mm, g.to_mm) for g in route.guards)
                if route is not None
                else (),
                style,
                word,
                steps_of(style),
                groups.get(e.id, ""),
                line.length if line is not None and not line.inside else None,
            )
        )
    return out


def make_bulk(build: Build, rows: Sequence[HoseJob]) -> list[Bulk]:
    """What is bought of every hose and tube, and where it is cut; dearest first. Those made on the
    bench are cut first from each length, those made in the car last with what is left.
    """
    bundles: dict[str, list[HoseJob]] = {}
    for row in rows:
        if row.piece_mm is not None:
            bundles.setdefault(_bulk_name(row.element), []).append(row)
    out = []
    for name, of in bundles.items():
        e = of[0].element
        known = shelf.parts().get(name)
        price = build.shop.prices.get(
            f"bulk {name}", e.properties.price if known is None else known.properties.price
        )
        mass = e.properties.mass_kg if known is None else known.properties.mass_kg
        stocks = stocks_of(
            e.properties.family, price, build.shop.stock, build.shop.offcuts.get(name, ())
        )
        plan = plan_cuts([(r.element.id, r.piece_mm or 0.0) for r in of], stocks)
        out.append(
            Bulk(
                name,
                known.title if known is not None else e.title,
                _bench_first(plan, of),
                price,
                mass,
                tuple(of),
            )
        )
    return sorted(out, key=lambda b: -b.plan.price)


def _bulk_name(element: Element) -> str:
    """The shelf name of a hose; a dry line's own hose by its family and size."""
    p = element.properties
    name = f"{p.family}{p.dash}"
    return (
        name
        if element.kind in DRY or name in shelf.parts()
        else element.shelf or element.title or element.id
    )


def _bench_first(plan: CutPlan, of: list[HoseJob]) -> CutPlan:
    order = {r.element.id: (r.made_at == "car", -(r.piece_mm or 0.0)) for r in of}
    kerf = house_figure("cut_loss_mm")
    lengths = []
    for x in plan.lengths:
        at, pieces = 0.0, []
        for name, start, end in sorted(x.pieces, key=lambda p: order[p[0]]):
            pieces.append((name, at, at + end - start))
            at += end - start + kerf
        lengths.append(replace(x, pieces=tuple(pieces)))
    return replace(plan, lengths=tuple(lengths))
