"""All that is bought for a build: parts, hose and tube as they are sold, ends, adapters, clips and
clamps, sleeves and grommets, seals and spares.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.figures import Injectors
from tall_heron.core.document.kinds import LINES
from tall_heron.core.electrics.feeds import harness_of
from tall_heron.core.joining.joints import Joints, joints_of
from tall_heron.core.routing.laid import Laid, outside_of
from tall_heron.core.sheets.cut_sheet import Bulk, HoseJob, make_bulk, make_cut_sheet
from tall_heron.core.sheets.loom import make_loom
from tall_heron.core.sheets.plate import clamped_bodies
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.supplier import NOBODY, Market, Quote
from tall_heron.core.study.cases.noise import fitted

GROUPS = {
    "parts": "Parts",
    "hose": "Hose and tube, as sold",
    "ends": "Ends",
    "adapters": "Adapters, tees, plugs",
    "small": "Clips, clamps, sleeves, grommets",
    "wiring": "Wire, fuses, relays",
    "spares": "Seals and spares",
}
BULK = "bulk "  # what the key of hose by length begins with
FOOT = 304.8  # mm


@dataclass(frozen=True)
class Item:
    """A line of the buy list. `key` names it in the document and on the shelf. Quantity in pieces,
    or in mm of hose and sleeve; prices in the shelf's dollars, None where nobody knows; what is
    there already; the parts and lines it is `needed` for; what its supplier says.
    """

    key: str
    title: str
    group: str
    quantity: float
    unit: str
    price: float | None
    mass_kg: float | None
    needed: tuple[str, ...]
    quote: Quote
    have: float = 0.0
    note: str = ""

    @property
    def each(self) -> float | None:
        """What a piece or a meter costs."""
        if self.price is None or not self.quantity:
            return None
        return self.price / self.quantity * (1 if self.unit == "piece" else 1000)

    @property
    def to_buy(self) -> float:
        """How much is still to be bought."""
        return max(self.quantity - self.have, 0.0)

    @property
    def price_to_buy(self) -> float | None:
        """What that costs, at the price of a piece or a millimeter."""
        return (
            None
            if self.price is None
            else self.price * (self.to_buy / self.quantity if self.quantity else 0.0)
        )

    @property
    def short(self) -> bool:
        """Whether its supplier has too few."""
        return (
            self.unit == "piece" and self.quote.stock is not None and self.quote.stock < self.to_buy
        )


@dataclass(frozen=True)
class BuyList:
    """All of it, and the plans of the bulk hose."""

    items: tuple[Item, ...]
    bulk: tuple[Bulk, ...]
    joints: Joints

    @property
    def price(self) -> float:
        """Of all whose price is known, whether there already or not."""
        return sum(i.price or 0.0 for i in self.items)

    @property
    def to_pay(self) -> float:
        """Of what is still to be bought."""
        return sum(i.price_to_buy or 0.0 for i in self.items)

    @property
    def mass_kg(self) -> float:
        """Of all whose mass is known; of hose what is cut, not what is bought."""
        return sum(i.mass_kg or 0.0 for i in self.items if i.group != "spares")

    @property
    def unpriced(self) -> int:
        """How many lines have no price."""
        return sum(i.price is None for i in self.items)

    @property
    def short(self) -> tuple[Item, ...]:
        """What its supplier has too few of."""
        return tuple(i for i in self.items if i.short)


@dataclass
class _Count:
    """Pieces of one item as they are found."""

    title: str
    group: str
    unit: str
    price: float | None
    mass: float | None
    quantity: float = 0.0
    needed: list[str] = field(default_factory=list)
    note: str = ""
    part_of: str = ""  # what it is bought with, by its name on the shelf


def make_buy_list(
    build: Build,
    laid: Laid,
    rows: Sequence[HoseJob] | None = None,
    joints: Joints | None = None,
    market: Market = NOBODY,
) -> BuyList:
    """The whole buy list of a build as it is drawn and joined, and what the suppliers of a `market`
    say of each item.
    """
    rows = make_cut_sheet(build, laid) if rows is None else rows
    joints = joints_of(build) if joints is None else joints
    bulk = make_bulk(build, rows)
    counts: dict[str, _Count] = {}
    _parts(counts, build)
    _hose(counts, bulk)
    _ends(counts, rows)
    _joints(counts, joints)
    _clips(counts, rows, laid)
    _body_clamps(counts, build)
    _mountings(counts, build)
    _wiring(counts, build)
    _seals(counts, build, rows, joints)
    _spares(counts)
    items = [_item(build, market, key, c) for key, c in counts.items() if c.quantity > 0]
    order = list(GROUPS)
    return BuyList(tuple(sorted(items, key=lambda i: order.index(i.group))), tuple(bulk), joints)


def _item(build: Build, market: Market, key: str, c: _Count) -> Item:
    quoted = _quoted(build, market, key, c)
    known = (
        quoted.price / build.shop.money.rate
        if quoted.price is not None and quoted.currency == build.shop.money.currency
        else c.price
    )
    each = build.shop.prices.get(key, known) if not key.startswith(BULK) else c.price
    price, mass = (None if x is None else x * c.quantity for x in (each, c.mass))
    have = min(build.shop.have.get(key, 0.0), c.quantity)
    return Item(
        key,
        c.title,
        c.group,
        c.quantity,
        c.unit,
        price,
        mass,
        tuple(dict.fromkeys(c.needed)),
        quoted,
        have,
        c.note,
    )


def _quoted(build: Build, market: Market, key: str, c: _Count) -> Quote:
    """Who has an item, as the builder says in this build; else as the suppliers do."""
    chosen_supplier = build.shop.suppliers.get(key)
    return (
        Quote(chosen_supplier.supplier, None, chosen_supplier.days)
        if chosen_supplier is not None
        else market.quote(key.removeprefix(BULK), c.title, c.group, c.part_of)
    )


def _add(
    counts: dict[str, _Count],
    key: str,
    title: str,
    group: str,
    price: float | None,
    mass: float | None,
    times: float = 1.0,
    needed: Iterable[str] = (),
    unit: str = "piece",
    note: str = "",
) -> None:
    here = counts.setdefault(key, _Count(title, group, unit, price, mass, note=note))
    here.quantity += times
    here.needed += needed


def _parts(counts: dict[str, _Count], build: Build) -> None:
    for e in build.circuit.elements:
        if e.kind in LINES:
            continue
        times = e.figures.count if isinstance(e.figures, Injectors) and e.kind == "injectors" else 1
        name = e.shelf or f"own {e.id}"
        _add(
            counts,
            name,
            e.title or e.kind,
            "parts",
            e.properties.price,
            e.properties.mass_kg,
            times,
            [e.id],
            note="" if e.shelf else "your own: nothing on the shelf",
        )


def _hose(counts: dict[str, _Count], bulk: Sequence[Bulk]) -> None:
    for b in bulk:
        cut = sum(r.piece_mm or 0.0 for r in b.pieces)
        bought = b.plan.bought or sum(
            r.piece_mm or 0.0 for r in b.pieces if r.element.id in b.plan.without
        )
        if not bought:
            continue  # all of it comes from what is there already
        price = None if b.price_m is None or not b.plan.bought else b.plan.price / bought
        lengths = ", ".join(
            f"{x.bought / FOOT:.0f} ft" + (" of yours" if x.stock.offcut else "")
            for x in b.plan.lengths
        )
        note = [f"{lengths}; {b.plan.waste:.0f} mm left"] if b.plan.lengths else []
        note += [f"longer than any stock: {', '.join(b.plan.without)}"] if b.plan.without else []
        note += [b.plan.stopped] if b.plan.stopped else []
        mass = b.mass_kg_m * cut / 1000 / bought if b.mass_kg_m is not None else None
        counts[BULK + b.name] = _Count(
            b.title,
            "hose",
            "mm",
            price,
            mass,
            bought,
            [r.element.id for r in b.pieces],
            "; ".join(note),
        )


def _ends(counts: dict[str, _Count], rows: Sequence[HoseJob]) -> None:
    for row in rows:
        e = row.element
        for end in (e.end_a, e.end_b):
            if end is None or row.style == "clamped":
                continue
            known = by_name("ends").get(end.shelf or "")
            title = (
                str(known["title"])
                if known is not None
                else f"{end.dash} {end.family} end of your own, {end.angle_deg:g}°"
            )
            key = (
                end.shelf or f"own end {end.family}{end.dash} {end.angle_deg:g} {end.take_up_mm:g}"
            )
            _add(counts, key, title, "ends", end.price, end.mass_kg, 1, [e.id])
            counts[key].part_of = e.shelf or ""


def _joints(counts: dict[str, _Count], joints: Joints) -> None:
    for j in joints.joints:
        for p in j.pieces:
            _add(
                counts,
                p.name,
                p.title,
                "adapters",
                p.price,
                p.mass_kg,
                1,
                [s.element for s in (j.one, j.other)],
            )
    for place, name in joints.hubs:
        if name in by_name("closures"):
            row = by_name("closures")[name]
            _add(
                counts,
                name,
                str(row["title"]),
                "adapters",
                row["price"],
                row["mass_kg"],
                1,
                [place],
            )
        else:
            part = shelf.part_named(name)
            _add(
                counts,
                name,
                part.title,
                "adapters",
                part.properties.price,
                part.properties.mass_kg,
                1,
                [place],
            )
    for side, _ in joints.shut:
        closing = next(
            (
                r
                for r in table("closures")
                if str(r["fits"]) == side.face.text and r["sort"] in ("plug", "cap")
            ),
            None,
        )
        if closing is not None:
            _add(
                counts,
                str(closing["name"]),
                str(closing["title"]),
                "adapters",
                closing["price"],
                closing["mass_kg"],
                1,
                [side.element],
            )


def _small(sort: str, width: float) -> tuple[str, str, float, float] | None:
    """A small part of a sort for a width [mm]: its name, title, price and mass."""
    row = next(
        (
            r
            for r in table("small_parts")
            if r["sort"] == sort and r["to_mm"] is not None and width <= r["to_mm"] + 1e-9
        ),
        None,
    )
    return (
        None if row is None else (str(row["name"]), str(row["title"]), row["price"], row["mass_kg"])
    )


def _clips(counts: dict[str, _Count], rows: Sequence[HoseJob], laid: Laid) -> None:
    for row in rows:
        e, line = row.element, laid.lines.get(row.element.id)
        if row.style == "clamped":
            clamp = _small("hose clamp", outside_of(e))
            if clamp is not None:
                _add(counts, clamp[0], clamp[1], "small", clamp[2], clamp[3], 2, [e.id])
        if line is None or line.inside:
            continue
        clip = _small("clip", 2 * line.outside)
        if line.clamps and clip is not None:
            _add(
                counts,
                clip[0],
                clip[1],
                "small",
                clip[2],
                clip[3],
                len(line.clamps),
                [e.id],
                note="" if line.drawn else "as the lines are assumed to run",
            )
        grommet = _small("grommet", 2 * line.outside)
        if line.route.grommets and grommet is not None:
            _add(
                counts,
                grommet[0],
                grommet[1],
                "small",
                grommet[2],
                grommet[3],
                len(line.route.grommets),
                [e.id],
            )
        for guard in line.route.guards:
            metre = by_name("small_parts")[guard.kind]
            _add(
                counts,
                guard.kind,
                str(metre["title"]),
                "small",
                metre["price"] / 1000,
                metre["mass_kg"] / 1000,
                guard.to_mm - guard.from_mm,
                [e.id],
                "mm",
            )


def _body_clamps(counts: dict[str, _Count], build: Build) -> None:
    """Clamps of what is screwed down: those of the plate, and of each part beside it as on one."""
    for x in clamped_bodies(build):
        clamp = _small("body clamp", x.wide)
        if clamp is not None and x.clamps:
            _add(
                counts,
                clamp[0],
                clamp[1],
                "small",
                clamp[2],
                clamp[3],
                x.clamps,
                [x.element.id],
                note="" if x.on.across_mm is not None else "for a body as usual of its kind",
            )


def _mountings(counts: dict[str, _Count], build: Build) -> None:
    """What pumps stand on so that they are not heard."""
    for e in build.circuit.of_kind("pump"):
        row = fitted(e)
        if row is not None:
            title = str(row["title"]).removeprefix("on four ").removeprefix("in a ")
            _add(
                counts,
                f"mounting {row['name']}",
                title.removesuffix("s") if row["pieces"] > 1 else title,
                "small",
                row["price"],
                row["mass_kg"],
                row["pieces"],
                [e.id],
            )


def _wiring(counts: dict[str, _Count], build: Build) -> None:
    """What the loom sheet asks for."""
    harness = harness_of(build)
    for p in make_loom(harness).parts if harness is not None else ():
        per = 1000 if p.unit == "mm" else 1
        _add(
            counts,
            p.key,
            p.title,
            "wiring",
            None if p.price is None else p.price / per,
            p.mass_kg / p.quantity if p.mass_kg and p.quantity else None,
            p.quantity,
            p.needed,
            p.unit,
        )


def _seals(
    counts: dict[str, _Count], build: Build, rows: Sequence[HoseJob], joints: Joints
) -> None:
    """Seals that go with what is joined: adapters bring none. An O-ring for every boss, a washer
    for every metric screw, a pair for every injector, sealant where there is a taper thread.
    """
    taper = False
    for j in joints.joints:
        faces = [j.one.face, *(f for p in j.pieces for f in (p.first, p.second)), j.other.face]
        ids = [j.one.element, j.other.element]
        for f in faces:
            if f.sort == "boss":
                _seal(counts, f"oring-{f.size.lstrip('-')}", 1, ids)
            elif f.sort == "screw":
                _seal(
                    counts,
                    f"washer-{f.size.split('x')[0].lower()}",
                    2 if any("banjo" in p.name for p in j.pieces) else 1,
                    ids,
                )
            taper = taper or f.sort == "taper"
    for side, _ in joints.shut:
        if side.face.sort == "port":
            _seal(counts, f"oring-{side.face.size.lstrip('-')}", 1, [side.element])
    for e in build.circuit.of_kind("injectors"):
        if isinstance(e.figures, Injectors):
            _seal(counts, "injector-o-ring", e.figures.count, [e.id])
    if taper:
        _seal(counts, "sealant", 1, ())
    if any(r.style in ("olive", "screwed", "push-on") for r in rows):
        _seal(counts, "assembly oil", 1, ())


def _seal(counts: dict[str, _Count], name: str, times: float, needed: Iterable[str]) -> None:
    row = by_name("small_parts").get(name)
    if row is not None:
        _add(counts, name, str(row["title"]), "spares", row["price"], row["mass_kg"], times, needed)


def _spares(counts: dict[str, _Count]) -> None:
    """Spares by rule: of what is used once, or lost under the car; olives beside those that come
    with the ends.
    """
    for name, here in list(counts.items()):
        row = by_name("small_parts").get(name)
        rule = by_name("spares", "sort").get(str(row["sort"])) if row is not None else None
        if rule is not None:
            more = max(math.ceil(here.quantity / rule["each"]), int(rule["least"]))
            here.note = "; ".join(x for x in (here.note, f"{more:g} of them spare") if x)
            here.quantity += more
    ends: dict[str, int] = {}
    for name, here in counts.items():
        known = by_name("ends").get(name)
        style = (
            by_name("end_styles", "family").get(str(known["family"])) if known is not None else None
        )
        if known is not None and style is not None and style["olives"]:
            ends[str(known["dash"])] = ends.get(str(known["dash"]), 0) + int(here.quantity)
    for dash, count in ends.items():
        name = f"olive{dash}"
        row, rule = by_name("small_parts").get(name), by_name("spares", "sort")["olive"]
        if row is not None:
            more = max(math.ceil(count / rule["each"]), int(rule["least"]))
            _add(
                counts,
                name,
                str(row["title"]),
                "spares",
                row["price"],
                row["mass_kg"],
                more,
                (),
                note="spare: an olive is used once",
            )
