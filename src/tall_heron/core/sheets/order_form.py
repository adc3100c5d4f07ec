"""The order for hoses that somebody else makes: all that a hose maker needs who has never seen this
application, and nothing that only it understands.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import by_name, house_figure
from tall_heron.core.base.csv_text import csv_text
from tall_heron.core.document.circuit import End
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.record import GUESSES
from tall_heron.core.document.shop import Shop
from tall_heron.core.document.sources import clocked
from tall_heron.core.joining.joints import end_face
from tall_heron.core.routing.laid import legs_of
from tall_heron.core.sheets.cut_sheet import HoseJob
from tall_heron.core.study.failures.shut_off import shut_off_pressures
from tall_heron.core.study.study import Study

ASIDE = 0.2  # of a bend that must lie across the picture to be said
RULES = ("seat to seat", "overall")
RULE_WORDS = {
    "seat to seat": "along the center line of hose and ends, from the middle of the seat of A to the middle of the seat of B, round the corners of bent ends",
    "overall": "hose laid straight, from the middle of the seat of A to the middle of the seat of B, measured along the hose only; of a 90 degree end to the middle line of its nut",
}
SENSE = "Hold the hose straight with end B toward you and end A pointing up: end B points up at 0, to the right at 90, down at 180, to the left at 270 degrees."


@dataclass(frozen=True)
class OrderEnd:
    """An end as it is ordered: its style, angle [deg], thread, from its seat to its corner and from
    there to where the hose leaves it [mm], how far the hose goes in [mm], what it takes up [mm].
    """

    style: str
    angle_deg: float
    thread: str
    leg_a_mm: float
    leg_b_mm: float
    inserted_mm: float
    material: str
    swivel: str

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
    """Hoses to be made, as many as there are alike: of what hose, from where to where, with which
    ends, and at which pressure each is tested [kPa] for how long [min].
    """

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
    standard: str
    liner: str
    braid: str
    cover: str
    working_kpa: float | None
    test_kpa: float
    test_minutes: float

    @property
    def overall_mm(self) -> float:
        """Its length laid straight, along the hose [mm]: the centre line between the sockets and
        what each end adds along it.
        """
        return (
            self.cut_mm
            - self.end_a.inserted_mm
            - self.end_b.inserted_mm
            + self.end_a.along_mm
            + self.end_b.along_mm
        )

    @property
    def clock_seen(self) -> tuple[float, int]:
        """End B seen from the side, end A up: how much of its bend lies in the picture, up or
        (below 0) down; and whether it points away from who looks (1), toward him (-1) or neither
        (0).
        """
        if self.clock_deg is None or not self.end_b.angle_deg:
            return 1.0, 0
        a = math.radians(self.clock_deg)
        across = math.sin(a)
        return math.cos(a), (0 if abs(across) < ASIDE else 1 if across > 0 else -1)

    def length_mm(self, rule: str) -> float:
        """Its length by one of the rules [mm]."""
        return self.overall_mm if rule == "overall" else self.seat_to_seat_mm


def order_head(shop: Shop, name: str) -> str:
    """What an order is called by whoever speaks of it: its number, and whose it is."""
    return f"order {shop.order.number or 'without a number'}, for {name}"


def highest_met(study: Study) -> dict[str, float]:
    """The highest pressure that each line meets in any case, or with its return blocked [kPa], by
    its id.
    """
    blocked, out = shut_off_pressures(study), dict[str, float]()
    for e in study.build.circuit.elements:
        met = study.highest_met(e)
        boost = study.brief.boost_kpa if e.role == "reference" else 0.0
        out[e.id] = max(
            max([met or 0.0, *(blocked.get(n, 0.0) for n in e.ports.values())]) / 1000, boost
        )
    return out


def proof_pressure(met_kpa: float, working_kpa: float | None) -> float:
    """At what a made hose is tested [kPa]: twice what it meets, in full tens, no less than the
    house's least and no more than twice what its hose is made for.
    """
    asked = max(house_figure("hose_test_times") * met_kpa, house_figure("hose_test_least"))
    full = math.ceil(asked / 10) * 10.0
    return full if working_kpa is None else min(full, 2 * working_kpa)


def alike(orders: Sequence[Order]) -> list[Order]:
    """Orders with those that are the same but for their label as one, their labels side by side."""
    out: dict[Order, list[Order]] = {}
    for o in orders:
        out.setdefault(replace(o, label=""), []).append(o)
    return [
        replace(o, label=", ".join(x.label for x in same), quantity=len(same))
        for o, same in out.items()
    ]


def make_orders(rows: Sequence[HoseJob], met: Mapping[str, float] | None = None) -> list[Order]:
    """Every hose that a hose maker can make: those with ends that are fitted to hose; `met` is the
    highest pressure of each [kPa]. Bare hose and hard lines are made by the builder.
    """
    out = []
    for row in rows:
        e = row.element
        if (
            row.style in ("clamped", "flared", "")
            or row.cut.cut_mm is None
            or e.end_a is None
            or e.end_b is None
        ):
            continue
        unsure = []
        if e.length is not None and e.length.guessed:
            unsure.append("length guessed")
        if clocked(e) and (e.clock_deg is None or e.clock_source in GUESSES):
            unsure.append(
                "clocking angle guessed" if e.clock_deg is not None else "clocking angle not known"
            )
        sleeves = [
            f"{kind} from {start:.0f} to {end:.0f} mm from the seat of end A"
            for kind, start, end in row.guards
            if kind == "sleeve"
        ]
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
                *_construction(e.properties),
                e.properties.working_kpa,
                proof_pressure((met or {}).get(e.id, 0.0), e.properties.working_kpa),
                house_figure("hose_test_minutes"),
            )
        )
    return out


def _construction(about: Properties) -> tuple[str, str, str, str]:
    row = by_name("hose_builds", "family").get(about.family, {})
    return tuple(
        str(getattr(about, x) or row.get(x) or "ask")
        for x in ("standard", "liner", "braid", "cover")
    )  # type: ignore[return-value]


def _end(row: HoseJob, end: End) -> OrderEnd:
    a, b, inserted = legs_of(end)
    end_of, _ = end_face(row.element, end)
    style = by_name("end_styles", "family").get(row.element.properties.family, {})
    columns = [
        str(style.get(x) or "ask") if end.shelf else "your own" for x in ("material", "swivel")
    ]
    return OrderEnd(
        row.style_word,
        end.angle_deg,
        f"{end_of.words}, {end_of.thread} UN".removesuffix(",  UN")
        if end_of.thread
        else end_of.words,
        a,
        b,
        inserted,
        *columns,
    )


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
    "cut_mm",
    *(
        f"end_{x}_{what}"
        for x in "ab"
        for what in (
            "style",
            "thread",
            "angle_deg",
            "seat_to_corner_mm",
            "corner_to_hose_mm",
            "hose_goes_in_mm",
            "material",
            "swivel",
        )
    ),
    "clocking_deg",
    "clocking_tolerance_deg",
    "clocking_sense",
    "sleeve",
    "least_bend_radius_mm",
    "not_sure",
    "to_be_made",
    "standard",
    "liner",
    "braid",
    "cover",
    "working_kpa",
    "test_kpa",
    "test_minutes",
    "fuel",
    "build",
    "order",
    "issue",
    "ordered_by",
    "reach",
)


def order_csv(
    orders: Sequence[Order], rule: str, head: Sequence[str] = ("", "", "", "", "", "")
) -> str:
    """The order as CSV (RFC 4180): each row says all there is to say of its hose, sizes in plain
    ASCII; `head` is the fuel, the build, the order's number, its issue, who orders and how to
    reach him.
    """
    rows = []
    for o in orders:
        ends = [v for end in (o.end_a, o.end_b) for v in _end_cells(end)]
        clock = (
            "any"
            if o.clock_deg is None and not (o.end_a.angle_deg and o.end_b.angle_deg)
            else "ask"
            if o.clock_deg is None
            else f"{o.clock_deg:g}"
        )
        lengths = [
            _mm(x)
            for x in (o.length_mm(rule), o.tolerance_mm, o.seat_to_seat_mm, o.overall_mm, o.cut_mm)
        ]
        what = [
            o.label,
            o.quantity,
            _ascii(o.family),
            o.size,
            f"{o.bore_mm:g}",
        ]
        least = "" if o.least_bend_mm is None else f"{o.least_bend_mm:g}"
        columns = [
            o.standard,
            o.liner,
            o.braid,
            o.cover,
            "" if o.working_kpa is None else f"{o.working_kpa:g}",
            f"{o.test_kpa:g}",
            f"{o.test_minutes:g}",
            *head,
        ]
        sure = "not before it is measured" if o.guess else "yes"
        rows.append(
            [
                *what,
                f"{rule}: {RULE_WORDS[rule]}",
                *lengths,
                *ends,
                clock,
                f"{o.clock_tolerance_deg:g}",
                SENSE,
                o.sleeve,
                least,
                o.guess,
                sure,
                *columns,
            ]
        )
    return csv_text(COLUMNS, rows)


def _end_cells(end: OrderEnd) -> list[str]:
    lengths = (_mm(x) for x in (end.leg_a_mm, end.leg_b_mm, end.inserted_mm))
    return [
        _ascii(end.style),
        _ascii(end.thread),
        f"{end.angle_deg:g}",
        *lengths,
        end.material,
        end.swivel,
    ]


def _ascii(text: str) -> str:
    """Signs of ours as any spreadsheet reads them."""
    return text.replace("−", "-").replace("°", " deg").replace("µ", "u").replace("×", "x")


def _mm(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")
