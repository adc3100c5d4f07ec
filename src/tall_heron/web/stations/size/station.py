"""Beside the run: what the shelf would do at least cost."""

from tall_heron.web.station import Station
from tall_heron.web.stations.size.routes import pages

STATION = Station(key="size", blueprints=(pages,))
