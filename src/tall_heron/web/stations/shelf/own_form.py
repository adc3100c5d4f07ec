"""The form for a part of one's own: what is asked of any part, and the part that a filled form
describes.
"""

from typing import Any

from pydantic import ValidationError

from tall_heron.core.document.properties import Properties
from tall_heron.core.shelf.own_part import OwnPart
from tall_heron.web.forms.field import FLAG, Field
from tall_heron.web.forms.reading import Refused
from tall_heron.web.show.text import CURRENCY
from tall_heron.web.stations.shelf.own_field import OwnKind, curves_of, read_one
from tall_heron.web.stations.shelf.own_more import more_of, said_more

COMMON = (
    Field("title", "What it is called", note="in your own words"),
    Field(
        "provenance",
        "Its figures are",
        choices=(("sheet", "from a sheet"), ("measured", "measured"), ("guessed", "guessed")),
    ),
    Field("gasoline", "Made for gasoline", choices=FLAG, sort="flag"),
    Field("ethanol", "Made for ethanol up to", "fraction", optional=True, note="empty: not stated"),
    Field("methanol", "Made for methanol", choices=FLAG, sort="flag"),
    Field("avgas", "Made for avgas", choices=FLAG, sort="flag"),
    Field("price", f"Price, {CURRENCY}", optional=True, sort="money", note="0 where you have it"),
    Field("mass", "Mass", "mass", on_sheet=("kg", "kg"), optional=True),
    Field("supplier", "Bought from", optional=True, note="empty: to be asked for"),
)


def read_own(kind: OwnKind, data: dict[str, Any]) -> OwnPart:
    """The part that a filled form describes. Refused at the first field that is not right, with
    what would be.
    """
    values = {f.name: read_one(f, data) for f in (*kind.fields, *COMMON, *more_of(kind))}
    if "points" in values:
        values["points"] = curves_of(data)
        if values["points"].wrong:
            first = values["points"].wrong[0]
            raise Refused(
                "points",
                f"Line {first.line}: {first.message}."
                if first.line
                else f"{first.message.capitalize()}.",
            )
    try:
        part, about = kind.make(values)
        facts = Properties(
            ethanol_max_percent=values["ethanol"] * 100 if values["ethanol"] is not None else None,
            **{x: values[x] for x in ("gasoline", "methanol", "avgas")},
            provenance=values["provenance"],
            price=values["price"],
            mass_kg=values["mass"],
            **(said_more(kind, values) | {k: v for k, v in about.items() if v is not None}),
        )
        return OwnPart(
            title=values["title"],
            kind=kind.element or kind.kind,
            figures=part,
            properties=facts,
            supplier=values["supplier"] or "",
        )
    except ValidationError as error:
        first = error.errors()[0]
        name = str(first["loc"][-1]) if first["loc"] else ""
        mine = next((f for f in (*kind.fields, *COMMON, *more_of(kind)) if f.name == name), None)
        if mine is not None:
            raise Refused(
                mine.name, f"{mine.label}: “{data.get(mine.name)}” cannot be; look at its unit."
            ) from None
        raise Refused(
            "title", f"{'.'.join(str(p) for p in first['loc'])}: {first['msg']}"
        ) from None
