"""What is done first: the work of a build in an order that never has to be taken apart again, and
what each step still waits for. The steps stand in data/sheets/job_steps.csv.
"""

from dataclasses import dataclass
from graphlib import TopologicalSorter

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.build import Build
from tall_heron.core.routing.laid import Laid
from tall_heron.core.sheets.bend_sheet import HARD
from tall_heron.core.sheets.buy_list import BuyList, Item
from tall_heron.core.sheets.cut_sheet import HoseJob

STANDS = ("pump", "filter", "strainer", "regulator", "rail", "selector", "valve")
ALWAYS = ("mock", "see", "order", "fix", "joints", "leak")


@dataclass(frozen=True)
class Step:
    """A step of the work: what is done, why then, with which parts and lines; what it waits for
    that is not there yet.
    """

    key: str
    title: str
    why: str
    caution: str
    things: tuple[str, ...]
    waits: tuple[Item, ...]

    @property
    def days(self) -> int:
        """How long what it waits for takes at least [days], as far as anybody says; 0 where nothing
        is missing.
        """
        return max((i.quote.days or 0 for i in self.waits), default=0)

    @property
    def unknown(self) -> int:
        """Of how many things it waits for nobody says how long they take."""
        return sum(i.quote.days is None for i in self.waits)


def make_job_order(build: Build, laid: Laid, rows: list[HoseJob], bought: BuyList) -> list[Step]:
    """The work in order, without steps that have nothing to do. Joints before clamps: a line is
    done up at both ends before a clip holds it, so that no clip strains a joint.
    """
    things = _things(build, laid, rows)
    steps = {
        str(r["key"]): r
        for r in table("job_steps")
        if r["key"] in ALWAYS or things.get(str(r["key"]))
    }
    out = []
    for key in in_order({k: str(r["after"] or "").split() for k, r in steps.items()}):
        row, mine = steps[key], things.get(key, ())
        groups = str(row["groups"] or "").split()
        waits = tuple(
            i
            for i in bought.items
            if i.to_buy > 0 and i.group in groups and set(mine) & set(i.needed)
        )
        out.append(
            Step(
                key,
                str(row["title"]),
                str(row["why"]),
                str(row["caution"] or ""),
                mine,
                bought.short if key == "order" else waits,
            )
        )
    return out


def in_order(after: dict[str, list[str]]) -> list[str]:
    """Keys so that none comes before what it follows; of those that may come at once the one
    written first.
    """
    sorter = TopologicalSorter(
        {k: [x for x in before if x in after] for k, before in after.items()}
    )
    sorter.prepare()
    order, out, ready = list(after), list[str](), list[str]()
    while sorter.is_active():
        ready += sorter.get_ready()
        key = min(ready, key=order.index)
        ready.remove(key)
        sorter.done(key)
        out.append(key)
    return out


def _things(build: Build, laid: Laid, rows: list[HoseJob]) -> dict[str, tuple[str, ...]]:
    """The parts and lines of each step."""
    parts = tuple(e.id for e in build.circuit.of_kind(*STANDS))
    hard = [r for r in rows if r.element.properties.family in HARD]
    soft = [r for r in rows if r.element.properties.family not in HARD]
    unions = [
        e.id for e in build.circuit.of_kind("fitting") if (e.shelf or "").startswith("bulkhead")
    ]
    by_step = {
        "mock": parts,
        "measure": [
            r.element.id for r in rows if r.element.length is not None and r.element.length.guessed
        ],
        "tank": [e.id for e in build.circuit.of_kind("tank")],
        "fix": parts,
        "panels": [*(x.element.id for x in laid.lines.values() if x.route.grommets), *unions],
        "hard": [r.element.id for r in hard],
        "bench": [r.element.id for r in soft if r.made_at == "bench"],
        "car": [r.element.id for r in soft if r.made_at == "car"],
        "joints": [r.element.id for r in rows],
        "clips": [x.element.id for x in laid.lines.values() if x.clamps and not x.inside],
    }
    return {key: tuple(dict.fromkeys(names)) for key, names in by_step.items()}
