"""Beside the run: every build and what it wants next, rules, backups."""

from tall_heron.web.station import Station
from tall_heron.web.stations.bench.routes import pages
from tall_heron.web.stations.prove import attached

MOST_BACKUP = 1_000_000_000
STATION = Station(
    key="bench",
    blueprints=(pages,),
    keys=(("/", "find a build on the bench"), ("↑ ↓", "builds on the bench")),
    room={"bench.start": attached.MOST_BYTES, "bench.restore": MOST_BACKUP},
)
