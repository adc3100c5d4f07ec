"""Beside the run: every part, one's own among them, suppliers, packs."""

from tall_heron.web.station import Station
from tall_heron.web.stations.shelf import routes, suppliers

MOST_PACK = 8_000_000
STATION = Station(
    key="shelf",
    blueprints=(routes.pages, suppliers.pages),
    room={"shelf.pack_in": MOST_PACK},
    scripts=("shelf",),
)
