"""The order for hoses that somebody else makes: all that a hose maker needs who has never seen this application, and nothing that only it understands."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.document.circuit import End
from tall_heron.core.document.record import GUESSES
from tall_heron.core.document.sources import clocked
from tall_heron.core.joining.joints import end_face
from tall_heron.core.routing.laid import legs_of
from tall_heron.core.sheets.csv_text import csv_text, plain
from tall_heron.core.sheets.cut_sheet import Bench

RULES = ("seat to seat", "overall")
RULE_WORDS = {
    "seat to seat": "along the centre line of hose and ends, from the middle of the seat of A to the middle of the seat of B, round the corners of bent ends",
    "overall": "hose laid straight, from the middle of the seat of A to the middle of the seat of B, measured along the hose only; of a 90 degree end to the middle line of its nut",
}
SENSE = "Hold the hose straight with end B toward you and end A pointing up: end B points up at 0, to the right at 90, down at 180, to the left at 270 degrees."


@dataclass(frozen=True)
class OrderEnd:
    """An end as it is ordered: its style, angle [deg], thread, from its seat to its corner and from there to where the hose leaves it [mm], how far the hose goes in [mm], what it takes up [mm]."""

    style: str
    angle_deg: float
    thread: str
    leg_a_mm: float
    leg_b_mm: float
    inserted_mm: float

    @property
    def cosine(self) -> float:
        """Of its angle: how much of its first leg lies along the hose."""
        return math.cos(math.radians(self.angle_deg))

    @property
    def along_mm(self) -> float:
        """How much it adds to a hose that lies straight, along the hose [mm]: b + a cos(angle)."""
        return self.leg_b_mm + self.leg_a_mm * self.cosine

    @property
    def drop_mm(self) -> float:
        """How far its seat lies from the line of the hose [mm]: a sin(angle)."""
        return self.leg_a_mm * math.sin(math.radians(self.angle_deg))


@dataclass(frozen=True)
class Order:
    """One hose to be made."""

    label: str
    quantity: int
    family: str
    size: str
    bore_mm: float
    seat_to_seat_mm: float
    cut_mm: float
    tolerance_mm: float
    end_a: OrderEnd
    end_b: OrderEnd
    clock_deg: float | None
    clock_tolerance_deg: float
    sleeve: str
    least_bend_mm: float | None
    guess: str

    @property
    def overall_mm(self) -> float:
        """Its length laid straight, along the hose [mm]: the centre line between the sockets and what each end adds along it."""
        return self.cut_mm - self.end_a.inserted_mm - self.end_b.inserted_mm + self.end_a.along_mm + self.end_b.along_mm

    def length_mm(self, rule: str) -> float:
        """Its length by one of the rules [mm]."""
        return self.overall_mm if rule == "overall" else self.seat_to_seat_mm


def make_orders(rows: Sequence[Bench]) -> list[Order]:
    """Every hose that a hose maker can make: those with ends that are fitted to hose. Bare hose and hard lines are made by the builder."""
    out = []
    for row in rows:
        e = row.element
        if row.style in ("clamped", "flared", "") or row.cut.cut_mm is None or e.end_a is None or e.end_b is None:
            continue
        unsure = []
        if e.length is not None and e.length.guessed:
            unsure.append("length guessed")
        if clocked(e) and (e.clock_deg is None or e.clock_source in GUESSES):
            unsure.append("clock guessed" if e.clock_deg is not None else "clock not known")
        sleeves = [f"{kind} from {start:.0f} to {end:.0f} mm from end A" for kind, start, end in row.guards if kind == "sleeve"]
        out.append(
            Order(
                row.label,
                1,
                e.title or e.properties.family,
                e.properties.dash,
                float(getattr(e.figures, "bore_mm", 0.0)),
                row.cut.face_mm,
                row.cut.cut_mm,
                row.tolerance_mm,
                _end(row, e.end_a),
                _end(row, e.end_b),
                e.clock_deg if clocked(e) else None,
                row.clock_tolerance_deg,
                "; ".join(sleeves),
                e.properties.bend_radius_mm,
                ", ".join(unsure),
            )
        )
    return out


def _end(row: Bench, end: End) -> OrderEnd:
    a, b, inserted = legs_of(end)
    found, _ = end_face(row.element, end)
    return OrderEnd(row.style_word, end.angle_deg, f"{found.words}, {found.thread} UN".removesuffix(",  UN") if found.thread else found.words, a, b, inserted)


COLUMNS = (
    "label",
    "quantity",
    "hose",
    "size",
    "bore_mm",
    "length_rule",
    "length_mm",
    "tolerance_mm",
    "seat_to_seat_mm",
    "overall_mm",
    *(f"end_{x}_{what}" for x in "ab" for what in ("style", "thread", "angle_deg", "seat_to_corner_mm", "corner_to_hose_mm", "hose_goes_in_mm")),
    "clock_deg",
    "clock_tolerance_deg",
    "clock_sense",
    "sleeve",
    "least_bend_radius_mm",
    "not_sure",
)


def order_csv(orders: Sequence[Order], rule: str) -> str:
    """The order as CSV (RFC 4180): each row says all there is to say of its hose."""
    rows = []
    for o in orders:
        ends = [v for end in (o.end_a, o.end_b) for v in (end.style, end.thread, f"{end.angle_deg:g}", _mm(end.leg_a_mm), _mm(end.leg_b_mm), _mm(end.inserted_mm))]
        clock = "any" if o.clock_deg is None and not (o.end_a.angle_deg and o.end_b.angle_deg) else "ask" if o.clock_deg is None else f"{o.clock_deg:g}"
        lengths = [_mm(x) for x in (o.length_mm(rule), o.tolerance_mm, o.seat_to_seat_mm, o.overall_mm)]
        what = [plain(o.label), o.quantity, plain(o.family), plain(o.size), f"{o.bore_mm:g}"]
        least = "" if o.least_bend_mm is None else f"{o.least_bend_mm:g}"
        rows.append([*what, f"{rule}: {RULE_WORDS[rule]}", *lengths, *ends, clock, f"{o.clock_tolerance_deg:g}", SENSE, plain(o.sleeve), least, o.guess])
    return csv_text(COLUMNS, rows)


def _mm(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")
