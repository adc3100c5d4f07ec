"""Beside the run: the record of a build, variants, two builds side by side."""

from tall_heron.web.station import Station
from tall_heron.web.stations.history.routes import pages

STATION = Station(key="history", blueprints=(pages,))
