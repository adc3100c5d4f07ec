"""What may be done on the pages of the bench: each act is read from the request, made on the build
and named.
"""

from typing import Any

from pydantic import ValidationError

from tall_heron.core.document.build import Build, readable
from tall_heron.core.document.faces import face as known_face
from tall_heron.core.document.shop import Plate
from tall_heron.core.editing import shop as edit
from tall_heron.core.editing.route import measured
from tall_heron.core.sheets.buy_list import BULK
from tall_heron.core.sheets.plate import usual_plate
from tall_heron.core.shelf import shelf
from tall_heron.web import answers
from tall_heron.web.answers import Act, Made
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field
from tall_heron.web.show.money import CURRENCIES

MONEY, MOST = ("price", "rate"), 1e9
LABELS = {"price": "Price", "rate": "Rate", "days": "Days", "there": "Quantity"}


def _word(data: dict[str, Any], name: str, most: int = 80) -> str:
    return reading.text_of(data, name).strip()[:most]


def _mm(data: dict[str, Any], name: str) -> float | None:
    """A length as it is typed [mm]; None for an empty field. Refused beside its field."""
    return Field(name, "Length", "length", 1000.0, optional=True).of(data)


def _number(data: dict[str, Any], name: str, none: bool = True) -> float | None:
    """An amount of money or a number as it is typed, not below zero; None for an empty field where
    there may be `none`. Refused beside its field.
    """
    sort, like = ("money", "12.50") if name in MONEY else ("number", "2 or 12.5")
    return Field(
        name, LABELS.get(name, "It"), sort=sort, note=like, bounds=(0.0, MOST), optional=none
    ).of(data)


def _degrees(data: dict[str, Any], name: str) -> float | None:
    """An angle as it is typed [deg]; None for an empty field. Refused beside its field."""
    return Field(name, "Angle", sort="angle", optional=True).of(data)


def face(build: Build, data: dict[str, Any]) -> Made:
    """Say what a port is."""
    part, port, text = _word(data, "part", 40), _word(data, "port", 20), _word(data, "face", 30)
    return edit.set_face(build, part, port, text), f"{part} {port}: {text or 'automatic'}"


def adapters(build: Build, data: dict[str, Any]) -> Made:
    """Choose what stands in a joint."""
    key, names = _word(data, "joint", 60), [n for n in _word(data, "names", 300).split() if n]
    return edit.choose_adapters(
        build, key, names
    ), f"{key}: {' and '.join(names) or 'adapters automatic'}"


def into_circuit(build: Build, data: dict[str, Any]) -> Made:
    """Draw a joint's adapters in the circuit, or those of every joint."""
    key = _word(data, "joint", 60)
    new = edit.fit_adapters(build, key) if key else edit.fit_every_adapter(build)
    if new is build:
        raise reading.Refused(
            "joint",
            f"There is nothing between the two sides of “{key}” that is not drawn."
            if key
            else "Every adapter that fuel runs through is drawn already.",
        )
    return (
        new,
        f"{key}: adapters drawn in the circuit" if key else "every adapter drawn in the circuit",
    )


def made(build: Build, data: dict[str, Any]) -> Made:
    """Say where a hose is made."""
    line, where = _word(data, "line", 40), _word(data, "where", 10)
    words = {"bench": "made on the bench", "car": "made in the car", "": "made where the rule says"}
    if where not in words:
        raise reading.Refused("where", "A hose is made on the bench or in the car.")
    return edit.set_made(build, line, where), f"{line}: {words[where]}"


def tape(build: Build, data: dict[str, Any]) -> Made:
    """Say what a hose measures on the car."""
    line, text = _word(data, "line", 40), _word(data, "measured", 40)
    mm = _mm(data, "measured")
    return measured(
        build, line, mm, text or None
    ), f"{line}: measured {text}" if mm is not None else f"{line}: as drawn"


def have(build: Build, data: dict[str, Any]) -> Made:
    """Say how much of an item is there: in pieces, of hose in the unit of lengths."""
    key, title = _word(data, "key"), _word(data, "title")
    long = _word(data, "unit", 10) == "mm"
    quantity = _mm(data, "there") if long else _number(data, "there")
    return edit.set_have(
        build, key, quantity or 0.0
    ), f"{title}: {'none there' if not quantity else 'there'}"


def price(build: Build, data: dict[str, Any]) -> Made:
    """Say what an item costs: a piece, of hose a meter."""
    key, title, value = _word(data, "key"), _word(data, "title"), _number(data, "price")
    own = None if value is None else value / build.shop.money.rate
    if own is not None and _word(data, "unit", 10) == "mm" and not key.startswith(BULK):
        own /= 1000
    return edit.set_item_price(
        build, key, own
    ), f"{title}: {'price as on the shelf' if value is None else 'price typed'}"


def order(build: Build, data: dict[str, Any]) -> Made:
    """Say what stands over the order for made hoses."""
    return edit.with_shop(
        build, order={x: _word(data, x, 120) for x in ("number", "by", "reach")}
    ), "Order: its head"


def supplier(build: Build, data: dict[str, Any]) -> Made:
    """Say who has an item, and in how many days."""
    key, name, days = _word(data, "key"), _word(data, "supplier", 60), _number(data, "days")
    if not key:
        raise reading.Refused("key", "Choose an item of the list.")
    if days is not None and not (0 <= days <= 730 and days == int(days)):
        raise reading.Refused("days", "Days are a whole number, 0 to 730; empty if unknown.")
    return edit.set_supplier(
        build, key, name, int(days) if days is not None else None
    ), f"{key}: {f'from {name}' if name else 'supplier as made up'}"


def money(build: Build, data: dict[str, Any]) -> Made:
    """Choose the currency and its rate."""
    currency, rate = _word(data, "currency", 3), _number(data, "rate", none=False)
    if currency not in CURRENCIES:
        raise reading.Refused("currency", "Choose a currency from the list.")
    if not rate or rate > 100_000:
        raise reading.Refused("rate", "Write how much of it one dollar is, such as 0.92.")
    return edit.with_shop(
        build, money={"currency": currency, "rate": rate}
    ), f"Prices in {currency}"


def stock(build: Build, data: dict[str, Any]) -> Made:
    """Say how hose is bought."""
    sold = _word(data, "stock", 20)
    if sold not in ("both", "coils", "by the foot"):
        raise reading.Refused("stock", "Hose is bought in coils, by the foot, or as is cheaper.")
    return (
        edit.with_shop(build, stock=sold),
        f"Hose bought {'as is cheaper' if sold == 'both' else sold if sold != 'coils' else 'in coils'}",
    )


def offcuts(build: Build, data: dict[str, Any]) -> Made:
    """Say which lengths of a hose lie there, apart by semicolons."""
    name = _word(data, "name", 60)
    if name not in shelf.parts():
        raise reading.Refused("name", "Choose a hose of this build.")
    lengths = []
    for text in reading.text_of(data, "lengths").replace("\n", ";").split(";"):
        if text.strip():
            lengths.append(_mm({"lengths": text}, "lengths") or 0.0)
    if len(lengths) > 20 or any(not 10 <= x <= 100_000 for x in lengths):
        raise reading.Refused(
            "lengths",
            "Up to 20 lengths between 10 mm and 100 m, apart by semicolons, such as 1.2 m; 800 mm.",
        )
    return edit.set_offcuts(build, name, lengths), f"{name}: {len(lengths)} lengths of yours"


def later(build: Build, data: dict[str, Any]) -> Made:
    """Plan a swap for spring."""
    part, name = _word(data, "part", 40), _word(data, "later", 80)
    return edit.plan_later(
        build, part, name, answers.own_shelf()
    ), f"{part}: {name + ' in spring' if name else 'stays in spring'}"


def _plate(build: Build) -> Plate:
    plate = build.shop.plate or usual_plate(build)
    if plate is None:
        raise reading.Refused("part", "Nothing in this circuit can lie on a plate.")
    return plate


def plate_part(build: Build, data: dict[str, Any]) -> Made:
    """Move, turn, add or take off a part of the plate."""
    part, off = _word(data, "part", 40), _word(data, "off", 5) == "yes"
    x, y, turned = _mm(data, "x"), _mm(data, "y"), _degrees(data, "turned")
    return edit.move_on_plate(
        build,
        _plate(build),
        part,
        x,
        y,
        turned,
        off,
        _mm(data, "across") if "across" in data else None,
    ), f"Plate: {part} {'off' if off else 'moved'}"


def plate_size(build: Build, data: dict[str, Any]) -> Made:
    """The plate's own measures."""
    plate = _plate(build)
    changes: dict[str, Any] = {}
    for name in ("wide", "high", "thick", "screw", "slot", "inset"):
        value = _mm(data, name)
        if value is not None:
            changes[f"{name}_mm"] = value
    if "alloy" in data:
        changes |= {"alloy": _word(data, "alloy", 20), "radius_mm": _mm(data, "radius")}
    return edit.set_plate(build, _checked(plate.model_dump() | changes)), "Plate: its measures"


def _checked(fields: dict[str, Any]) -> Plate:
    try:
        return Plate.model_validate(fields)
    except ValidationError as error:
        first = readable(error.errors()[0])
        raise reading.Refused(
            first.field.strip("/").removesuffix("_mm") or "wide", reading.sentence(first.message)
        ) from None


def plate_fold(build: Build, data: dict[str, Any]) -> Made:
    """Fold a side of the plate."""
    side = _word(data, "side", 10)
    if side not in ("left", "right", "top", "bottom"):
        raise reading.Refused("side", "Choose a side.")
    mm = _mm(data, "fold") or 0.0
    return edit.fold_plate(
        build, _plate(build), side, mm
    ), f"Plate: {side} {'folded' if mm else 'flat'}"


def plate_anew(build: Build, data: dict[str, Any]) -> Made:
    """Lay the plate out by rule again."""
    return edit.set_plate(build, None), "Plate: laid out automatically"


def injectors(build: Build, data: dict[str, Any]) -> Made:
    """Say what was measured round the injectors."""
    fields = {
        name: _mm(data, name)
        for name in ("gap_mm", "rail_bore_mm", "manifold_bore_mm", "plug_room_mm")
    }
    return edit.with_shop(
        build, injectors={k: v for k, v in fields.items() if v is not None}
    ), "Injectors: as measured"


def rail(build: Build, data: dict[str, Any]) -> Made:
    """Say what was measured at the rail, and which port it shall have."""
    fields: dict[str, Any] = {name: _mm(data, name) for name in ("across_mm", "bore_mm", "deep_mm")}
    port = _word(data, "port", 30)
    if port:
        try:
            fields["port"] = known_face(port).text
        except ValueError as error:
            raise reading.Refused("port", reading.sentence(str(error))) from None
    return edit.with_shop(
        build, rail={k: v for k, v in fields.items() if v is not None}
    ), "Rail: as measured"


def tank_gap(build: Build, data: dict[str, Any]) -> Made:
    """Say how far a pickup stands over its tank's floor."""
    tank = _word(data, "tank", 40)
    mm = _mm(data, "gap")
    gaps = {k: v for k, v in build.shop.tank_gap_mm.items() if k != tank} | (
        {tank: mm} if mm is not None else {}
    )
    return edit.with_shop(build, tank_gap_mm=gaps), f"{tank}: gap under its pickup"


ACTS: dict[str, Act] = {
    "face": face,
    "adapters": adapters,
    "into circuit": into_circuit,
    "made": made,
    "tape": tape,
    "have": have,
    "price": price,
    "money": money,
    "stock": stock,
    "offcuts": offcuts,
    "later": later,
    "order": order,
    "supplier": supplier,
    "plate part": plate_part,
    "plate size": plate_size,
    "plate fold": plate_fold,
    "plate anew": plate_anew,
    "injectors": injectors,
    "rail": rail,
    "tank gap": tank_gap,
}


def make(build: Build, data: dict[str, Any]) -> Made:
    """Make the act that a request names."""
    return answers.made_by(ACTS, build, data)
