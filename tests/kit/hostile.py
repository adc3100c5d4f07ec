"""A visitor who sends what no page would: seeded requests over every route and every field, some of
them sound, and what may never come back.
"""

import html
import io
import json
import re
from dataclasses import dataclass, field
from random import Random
from typing import Any
from urllib.parse import urlsplit

from flask import Flask
from werkzeug.test import TestResponse

from tall_heron.core.document.build import dump
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.shelf.shelf import parts
from tall_heron.web.forms.brief import FIELDS
from tall_heron.web.stations.hoses.acts import ACTS as BENCH_ACTS
from tall_heron.web.stations.hoses.context import CONTEXTS
from tall_heron.web.stations.prove.acts import ACTS as PROVE_ACTS
from tall_heron.web.stations.prove.context import CONTEXTS as PROVE_VIEWS
from tall_heron.web.stations.route.acts import ACTS
from tall_heron.web.stations.shelf.own_form import COMMON
from tall_heron.web.stations.shelf.own_kinds import KINDS_OF_OWN
from tall_heron.web.stations.shelf.own_more import more_of
from tall_heron.web.stations.wiring.acts import ACTS as WIRING_ACTS
from tall_heron.web.stations.wiring.context import CONTEXTS as WIRING_VIEWS

PLACES = {
    "unground": "ground",
    "scale": "ground",
    "turn_ground": "ground",
    "zone_drawn": "zone",
}  # where acts of clicks are refused
WORDS = [
    "", " ", "-", "{x}", "{0}", "%s %d %(a)s", "<b>bold</b>", "<script>alert(1)</script>", "{{ 7*7 }}", "{% raw %}", "}{", "'; DROP TABLE build; --", "[END]\n[PUMPS]", "a\r\nSet-Cookie: x=1",
    "\ud800", "\x00", "\u202e", "ﬀ", "١٢٣", "９", "NaN", "-NaN",
    "Infinity", "1e999", "-1e999", "9" * 61, "9" * 500, "x" * 500, "-0", "0", "-1", "1/0", "1,5", "1,500", "1 2/3", "0x10", "1_000", "1e-400",
    "3 bar",
    "58 psi", "255 lph", "4.2 L", "1 ft 6 in", "5'", "5' 3\"", "-8", "1/2 in", "100 F",
    "-500 C", "12 V", "40 %", "1000 %", "6200 rpm", "gal", "20 gal", "b", "µ", "°", "..", "/", "\\", "//evil",
]  # fmt: skip
ODD: list[Any] = [
    None,
    True,
    False,
    0,
    1,
    -1,
    1.5,
    2**31,
    2**53,
    -(2**63),
    [],
    [1],
    ["x"],
    {},
    {"a": {}},
    {"__class__": 1},
    [[[[]]]],
]
OFTEN = {
    "brief": 8,
    "fit": 5,
    "rework": 9,
    "hose": 8,
    "layout": 2,
    "accept": 3,
    "price": 2,
    "own-fuel": 2,
    "undo": 4,
    "size/fit": 2,
}
OFTEN |= {
    "prove/act": 10,
    "prove/use": 2,
    "prove/rig": 2,
    "prove/columns": 1,
    "prove/replay": 1,
    "prove/keep-run": 1,
}
OFTEN |= {
    "cases": 4,
    "cases/inside": 4,
    "route": 9,
    "hoses/act": 11,
    "wiring/act": 8,
    "route/try": 4,
    "size": 0.15,
    "layout/sized": 0.1,
}
NEVER = re.compile(
    r"\bnan\b|\bNone\b|\bTrue\b|\bFalse\b|Traceback|object at 0x|\binf\b|went wrong on our side"
)
TAGS = re.compile(r"<(script|style)\b.*?</\1>|<[^>]*>", re.DOTALL)
PLAIN = {
    "kind",
    "by",
    "keep",
    "chosen",
    "head",
    "parts",
    "tank",
}  # fields whose name is not beside an entry of a page


@dataclass
class Visitor:
    """One visitor of an application with the demo builds."""

    app: Flask
    rnd: Random
    wrong: list[str] = field(default_factory=list)
    counts: dict[int, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.client = self.app.test_client()
        self.slugs = [*demo_builds()]
        self.tags = [
            "P1",
            "P2",
            "H1",
            "H2",
            "H3",
            "F2",
            "S1",
            "PR",
            "RL",
            "J1",
            "K1",
            "Y1",
            "V1",
            "X9",
            "N1",
            "E1",
        ]
        found = re.search(
            r'name="csrf_?t?o?k?e?n?"[^>]*content="([^"]+)"', self.client.get("/").text
        )
        assert found
        self.token = found[1]

    def text(self, usual: list[str]) -> str:
        """A text that a page would send, or one that none would."""
        return (
            self.rnd.choice(usual) if usual and self.rnd.random() < 0.6 else self.rnd.choice(WORDS)
        )

    def value(self, usual: list[str]) -> Any:
        """A text, rarely something else."""
        return self.rnd.choice(ODD) if self.rnd.random() < 0.06 else self.text(usual)

    def head(self, slug: str) -> Any:
        """The revision that a page of a build shows, mostly."""
        found = re.search(
            r'data-head="(\d+)"',
            self.client.get(f"/builds/{slug}/history", headers={"Accept": "application/json"}).text,
        )
        return (
            int(found[1])
            if found and self.rnd.random() < 0.93
            else self.rnd.choice([0, -1, 10**9, 2**53, "1", None, 1.5])
        )

    def body(self, route: str, slug: str) -> dict[str, Any]:
        """What is sent to a route that changes something."""
        rnd, v, tags = self.rnd, self.value, self.tags
        figures = [
            "450 hp",
            "3 bar",
            "58",
            "13.5 V",
            "E85",
            "E10",
            "8",
            "2.0 L",
            "100 F",
            "street",
            "flight",
            "injection",
            "flex",
            "20 %",
            "",
        ]
        names = rnd.sample([*parts()], 12)
        bodies: dict[str, Any] = {
            "brief": lambda: {
                "field": v([*FIELDS]),
                "text": v(figures),
                "page": v(["brief", "circuit"]),
                "fuels": v(["yes"]),
            },
            "fit": lambda: {"part": v(tags), "name": v(names)},
            "rework": lambda: {
                "at": v(tags),
                "act": v(
                    [
                        "behind",
                        "before",
                        "tap",
                        "out",
                        "split",
                        "second",
                        "turn",
                        "height",
                        "ahead",
                        "right",
                        "level",
                        "holds",
                        "stage",
                        "rejoin",
                    ]
                ),
                "value": v(
                    [
                        *ADDITIONS,
                        *names[:4],
                        "start 300 mm",
                        "end 1 ft",
                        "200",
                        "20 l",
                        "8 psi",
                        "always",
                        "50 % duty",
                        "start pot",
                        "gauge-10bar",
                    ]
                ),
            },
            "hose": lambda: {
                "hose": v(tags),
                "field": v(["length", "size", "end_a", "end_b", "clock", "own_a", "own_b"]),
                "text": v(["450 mm", "18 in", "-8", "-10", "45", "90", "0", "135°"]),
                "angle": v(["90", "45°"]),
                "take": v(["30 mm", "1 in"]),
                "bore": v(["9 mm", "3/8 in"]),
                "page": "hoses",
            },
            "layout": lambda: {
                "layout": v([*LAYOUTS]),
                "rails": v(["single", "series", "parallel", "dead-end"]),
                "parts": rnd.choice([{}, {}, {"P1": names[0]}, [], "x"]),
            },
            "layout/sized": dict,
            "size": lambda: {
                "by": v(["cost", "mass", "current"]),
                "keep": rnd.choice([[], tags[:2], "x", [1], None]),
            },
            "size/fit": lambda: {
                "chosen": rnd.choice(
                    [
                        {
                            "parts": {rnd.choice(tags): names[0]},
                            "pumps": rnd.choice([1, 2, 3, 99, "2"]),
                        },
                        {},
                        [],
                        {"parts": [], "pumps": 1},
                    ]
                )
            },
            "accept": lambda: {
                "rule": v(["P-01", "S-01", "H-08"]),
                "part_found": v(tags),
                "text": v(["raced in winter only", "no"]),
                "way": v(["", "back"]),
            },
            "price": lambda: {"fuel": v(["E10", "E85"]), "text": v(["1.85", "$ 2.10", ""])},
            "own-fuel": lambda: {
                f"fuel_{k}": v([x])
                for k, x in {
                    "name": "mix",
                    "density": "0.745",
                    "ratio": "14.1",
                    "heat": "42",
                    "viscosity_20": "0.55",
                    "viscosity_40": "0.43",
                    "reid": "62",
                    "ethanol": "10",
                    "methanol": "no",
                }.items()
            },
            "cases": lambda: {
                "act": v(["add", "add", "remove", "hide", "show"]),
                "key": v(["peak", "cruise", "F2 clogged", "uphill"]),
                "name": v(["uphill", "tow"]),
                "power": v(["80 %", "1.2"]),
                "fuel": v(["E10", "E85", ""]),
                "temperature": v(["50 C", ""]),
                "altitude": v(["2000 ft", ""]),
                "manifold": v(["10 psi", ""]),
                "voltage": v(["12", ""]),
                "off": v(["P2", "P1 K1", ""]),
                "clogging": v(["F2 3", ""]),
                "ahead": v(["1.5", "-1 g", ""]),
                "left": v(["0.9", ""]),
                "pitch": v(["15°", ""]),
                "bank": v(["10", ""]),
            },
            "cases/inside": lambda: {
                "tank": v([x for x in tags if x.startswith("S")] or tags),
                "ahead": v(["100 mm", "1 in", ""]),
                "right": v(["200 mm", ""]),
                "lies": v(["", "along", "across"]),
                "walls": v(
                    [
                        "across 200 mm, 9 cm2, back",
                        "along 100 mm, 4 cm2\nacross 150 mm, 300 mm2",
                        "",
                    ]
                ),
                "side": v(["0 0; 600 40; 600 220; 0 220", "0 0; 1 1", ""]),
                "hump_high": v(["90 mm", ""]),
                "hump_wide": v(["120 mm", ""]),
                "gauge": v(["yes", "no", ""]),
            },
            "hoses/act": lambda: self._bench_act(),
            "wiring/act": lambda: self._wiring_act(),
            "prove/act": self._prove_act,
            "prove/use": lambda: {
                "act": "use",
                "what": v(["spread", "sender"]),
                "tank": v(["S1", "S2"]),
                "page": "prove",
            },
            "prove/rig": lambda: {
                "pump": v(tags),
                "text": v(["time,pressure,flow\n1,2,3", "", "x" * 50]),
                "way": v(["", "use"]),
            },
            "prove/columns": lambda: {
                "log": "",
                "sha256": v(["0" * 64]),
                "columns": rnd.choice(
                    [[], None, [1], [{"header": "a", "key": "rail", "unit": "psi"}]]
                ),
            },
            "prove/replay": lambda: {"log": "", "sha256": v(["0" * 64])},
            "prove/keep-run": lambda: {"log": "", "sha256": v(["0" * 64]), "name": v(["lap"])},
            "undo": lambda: {"way": v(["", "redo"])},
            "route": self.routed,
            "route/try": self.routed,
        }
        return {"head": self.head(slug)} | bodies[route]()

    def routed(self) -> dict[str, Any]:
        """An act of the page of the route, with what it may send and what it never would."""
        rnd, v = self.rnd, self.value
        lengths = ["900 mm", "-2 m", "0", "35 in", "5 m", ""]

        def place() -> Any:
            return [
                rnd.choice([0, 430, -600.5, 3200, 60000, 1e9, "x", None])
                if rnd.random() < 0.1
                else rnd.uniform(-500, 5000)
                for _ in range(3)
            ]

        corners = [place() for _ in range(rnd.choice([0, 1, 3, 5, 5, 70]))]
        return {
            "act": v([*ACTS]),
            "page": "route",
            "line": v(self.tags),
            "part": v(self.tags),
            "name": v([*self.tags, "cabin", "wheelbase", "chord", "extra", "firewall"]),
            "other": v(self.tags),
            "panel": v(["firewall", "floor", "left root rib"]),
            "kind": v(["sleeve", "stone guard", "hot", "moving", "cabin"]),
            "shape": v(["box", "cylinder"]),
            "corners": rnd.choice([corners, corners, corners, "x", None, [1, 2]]),
            "to": rnd.choice([place(), place(), [1], None]),
            "by": rnd.choice([place(), [0, 0, 50], None]),
            "at": rnd.choice([0, 1, 2, 99, -1, "1"]),
            "way": rnd.choice([0, 1, 5, None]),
            "on": rnd.choice([True, False, None]),
            "clamps": rnd.choice([None, [100, 900], [1e9], ["x"], "x"]),
            "lines": v(["H3 H4", "H3", "H1, H99"]),
            "radius": v(lengths),
            "temperature": v(["300", "", "hot"]),
            "shielded": rnd.choice([True, False, "yes"]),
            "yaw": v(["90", "-45°", ""]),
            "pitch": v(["0", "400"]),
            "text": v(
                ["wagon", "biplane", "2.9 m", "0, 0, 300\n1000, 50, 300", "x;y;z\n1;2;3", ""]
            ),
            "view": v(["both", "rear", "turn"]),
            "zoom": v(["1", "3"]),
            **{
                k: v(lengths)
                for k in (
                    "x",
                    "y",
                    "z",
                    "from",
                    "low_x",
                    "low_y",
                    "low_z",
                    "high_x",
                    "high_y",
                    "high_z",
                )
            },
        }

    def own_part(self) -> dict[str, Any]:
        """A part of one's own as the shelf's form sends it."""
        kind = self.rnd.choice([*KINDS_OF_OWN.values()])
        usual = {
            "title": "my part",
            "points": "flow (L/h); pressure (kPa)\n0; 640\n163; 300\n268; 0",
            "dash": "-8",
            "needles": "2",
        }
        fields = [*kind.fields, *COMMON, *more_of(kind)]
        out = {
            f.name: self.value([key for key, _ in f.choices] or [usual.get(f.name, "12")])
            for f in fields
        }
        return {"kind": self.value([kind.kind])} | out

    def once(self) -> None:
        """One request, and what must hold of its answer."""
        rnd, slug = self.rnd, self.rnd.choice(self.slugs) if self.rnd.random() < 0.95 else "nowhere"
        turn = rnd.random()
        if turn < 0.3:
            self.look(slug)
        elif turn < 0.82:
            route = rnd.choices([*OFTEN], weights=[*OFTEN.values()])[0]
            self.post(f"/builds/{slug}/{route}", self.body(route, slug))
        elif turn < 0.92:
            path = rnd.choice(["/shelf", "/shelf", "/shelf/preview", "/shelf/off"])
            self.post(
                path,
                {"name": self.value(["own-my-part"])} if path.endswith("off") else self.own_part(),
            )
        elif turn < 0.94:
            path = rnd.choice(["/runs", "/runs", "/runs/off"])
            tables = [
                "time (s);ax (g)\n0;0,5\n4;-1,2",
                "t (ms),ay (m/s2),az (g)\n0,5,0\n900,-5,0",
                "time (s);ax\n0;1",
            ]
            self.post(
                path,
                {"key": self.value(["own-1", "own-2"])}
                if path.endswith("off")
                else {"name": self.value(["lap"]), "text": self.value(tables)},
            )
        else:
            self.form()

    def _prove_act(self) -> dict[str, Any]:
        """Something for the log, with all the fields that any entry reads."""
        v = self.value
        keys = [
            "flow P1",
            "flow_all",
            "gravity",
            "base",
            "follow",
            "return PR",
            "volts P1",
            "amps P1",
            "suction P1",
            "drop F2",
        ]
        keys += [
            "leak",
            "drips",
            "flush",
            "prime",
            "hold",
            "soak",
            "noise P1",
            "match",
            "sender S1",
            "run",
        ]
        values = [
            "2 gal in 72 s",
            "1.09 kg in 60 s",
            "58 psi",
            "13.5 V",
            "10 A",
            "0",
            "3 s",
            "1 L",
            "-2 kPa",
            "70 dB",
            "1e300",
            "",
        ]
        return {
            "page": "prove",
            "view": v(["", "", *PROVE_VIEWS]),
            "act": v(["read", "read", "read", *PROVE_ACTS, "sign"]),
            "proof": v(keys),
            "part": v(keys),
            "value": v(values),
            "against": v(["58 psi", "4 bar", ""]),
            "volts": v(["13.5 V", "12", ""]),
            "source": v(["14 V", ""]),
            "celsius": v(["20 C", "70 F", ""]),
            "applied": v(["50 kPa", ""]),
            "instrument": v(["can", "gauge", ""]),
            "doubt": v(["1 %", "2 L/h", ""]),
            "by": v(["me"]),
            "note": v(["a note"]),
            "files": v(["[]", "", '[{"sha256": "0"}]', "{"]),
            "corrects": v(["1", "2", "99"]),
            "because": v(["misread it"]),
            "steps": v(["2 L; 238\n10 L; 222\n20 L; 183", "1; 2", "x"]),
            "unit": v(["ohm", "volt"]),
            "unusable": v(["2 L", ""]),
            "flows": v(["150 151 149", "1", ""]),
            "item": v(["ties", "hot"]),
            "day": v(["2026-05-01", ""]),
            "hours": v(["12", ""]),
            "name": v(["A. Nobody"]),
            "role": v(["built by", "checked by"]),
            "although": v(["because", ""]),
        }

    def _wiring_act(self) -> dict[str, Any]:
        """An act of the wiring, with all the fields that any of them reads."""
        v, yes = (
            self.value,
            (
                "lamp",
                "suppressed",
                "automatic",
                "control_unit",
                "oil_switch",
                "start_bypass",
                "crank",
                "inertia",
                "roll_over",
                "level",
                "aged",
                "voltmeter",
                "ammeter",
                "kept",
            ),
        )
        figures = ("fuse", "connector", "switch", "contact", "alternator_a", "ampere")
        return {
            "page": "wiring",
            "view": v(["circuit", *WIRING_VIEWS]),
            "act": v(["wire", "wire", *WIRING_ACTS]),
            "pump": v(["P1", "P2"]),
            "part": v(self.tags),
            "relay": v(["R1", "R2", ""]),
            "bus": v(["1", "2"]),
            "terminal_87a": v(["capped", "open", "used"]),
            "sizes": v(["metric", "AWG"]),
            "breaks": v(["coil", "supply"]),
            "kill": v(["none", "battery"]),
            "name": v(["fans", "heater"]),
            **{name: v(["yes", "no"]) for name in yes},
            **{name: v(["15", "7,5 A", "0.1", ""]) for name in figures},
            **{
                name: v(["2.5 mm²", "AWG 14", ""])
                for name in ("feed_size", "earth_size", "supply_size")
            },
            **{
                name: v(["3 m", "12 ft", ""])
                for name in ("feed_length", "earth_length", "supply_length")
            },
            **{name: v(["red", ""]) for name in ("feed_colour", "earth_colour")},
            **{name: v(["4", "12"]) for name in ("crimps", "together", "bits")},
            **{name: v(["50", "90 °C"]) for name in ("ambient", "insulation")},
            **{name: v(["2 s", "0"]) for name in ("prime_s", "oil_falls_s", "control_unit_s")},
            **{
                name: v(["60", "5 %", ""])
                for name in ("battery_ah", "hot_share", "idle_share", "reserve", "landing_min")
            },
            **{
                name: v(["240", "33 ohm", "0"])
                for name in ("empty_ohm", "full_ohm", "pull_up_ohm", "supply_v", "range_v")
            },
        }

    def _bench_act(self) -> dict[str, Any]:
        """An act of the bench, with all the fields that any of them reads."""
        rnd, v, tags = self.rnd, self.value, self.tags
        key = f"{rnd.choice(tags)}.{rnd.choice(['a', 'b', 'end', 'start'])}"
        lengths = ["12 mm", "0.5 in", "300", ""]
        return {
            "page": "hoses",
            "view": v([*CONTEXTS]),
            "act": v([*BENCH_ACTS]),
            **{name: v(tags) for name in ("part", "line", "tank")},
            "port": v(["start", "end", "a", "gauge", "port -8"]),
            "face": v(["port -8", "flare45 1/2", "tube -8", "metric M14x1.5", ""]),
            "joint": v([key]),
            "names": v(["port-8", "port-8 bush-10-8", "step-8-10", ""]),
            "where": v(["bench", "car", ""]),
            "key": v(["step-8-10", "bulk ptfe-10", "marrow-340"]),
            "title": v(["nipple"]),
            "unit": v(["piece", "mm"]),
            **{name: v(["2", "0", "12,5", ""]) for name in ("there", "price", "rate")},
            "currency": v(["EUR", "USD"]),
            "stock": v(["both", "coils", "by the foot"]),
            "name": v(["ptfe-10", "rubber-8"]),
            "lengths": v(["1.2 m; 800 mm", ""]),
            "later": v(["ptfe-12", "marrow-450", ""]),
            "turned": v(["90", "-45°", ""]),
            "off": v(["yes", "no"]),
            "side": v(["left", "top"]),
            **{
                name: v(lengths)
                for name in (
                    "x",
                    "y",
                    "measured",
                    "fold",
                    "gap",
                    "wide",
                    "high",
                    "thick",
                    "screw",
                    "slot",
                    "inset",
                    "gap_mm",
                    "rail_bore_mm",
                    "manifold_bore_mm",
                    "plug_room_mm",
                    "across_mm",
                    "bore_mm",
                    "deep_mm",
                )
            },
        }

    def look(self, slug: str) -> None:
        """A page, with odd questions."""
        rnd, t = self.rnd, self.text
        pages = {
            "brief": {}, "layout": {}, "hoses": {"hose": t(self.tags)}, "size": {}, "sheet": {"case": t(["peak", "idle"])}, "history": {}, "build.json": {}, "cut-list.csv": {},
            "cases": {"part": t(self.tags), "try": t([*parts()])}, "cases/failures": {"f": t(["fails P1 stops", "fails H3 comes off at RL"])},
            "prove": {"part": t(["flow P1", "base", "match", "sender S1"])}, **{f"prove/{view}": {"file": t(["0" * 64])} for view in PROVE_VIEWS},
            "prove/record": {}, "prove/record.json": {}, "prove/sender.csv": {"tank": t(["S1"])}, "prove/upkeep.ics": {}, "prove/rig.csv": {"pump": t(["P1"]), "seed": t(["1"])},
            "prove/jobs/0": {}, "prove/replay.json": {"file": t(["0" * 64]), "from": t(["1"]), "to": t(["x"])}, f"prove/files/{'0' * 64}": {},
            "wiring": {"pump": t(self.tags)}, "loom.csv": {}, **{f"wiring/{view}": {} for view in WIRING_VIEWS},
            **{f"hoses/{view}": {"paper": t(["A4", "Letter"]), "rule": t(["overall", "seat to seat"])} for view in CONTEXTS},
            "buy-list.csv": {}, "buy-list.xlsx": {}, "hose-order.csv": {"rule": t(["overall"])}, "plate.dxf": {},
            "route": {"line": t(self.tags), "part": t(self.tags), "view": t(["both", "rear", "turn"]), "zoom": t(["1", "2", "4"]), "try": t(["", "", "", "", "0", "1"])},
            "route/paper": {"paper": t(["A4", "Letter", "A3"])}, "route.dxf": {}, "route.svg": {"view": t(["side", "plan", "rear"])}, "route-points.csv": {},
            "route/measure": {"a": t(self.tags), "b": t(["engine", "cabin", *self.tags])},
            "cases/run": {"tank": t(["S1", "S2"]), "run": t(["lap", "launch", "own-1"]), "fill": t(["10 L", "40 %", "3 gal"])},
            "cases/heat": {"pick": t(["300 W", "0.2 hp"])}, "cases/curves": {},
            "circuit": {"part": t(self.tags), "case": t(["peak", "idle", "launch", "cruise", "F2 clogged", "own uphill", "fails P1 stops"]), "try": t([*parts()]), "walk": t(["S1.J1"])},
            "circuit.inp": {"case": t(["peak", "idle"])}, "swaps": {"part": t(self.tags), "case": t(["peak"]), "page": t(["circuit", "hoses"]), "try": t([])},
        }  # fmt: skip
        bare = {
            "/": {"page": t(["1", "2"])},
            "/shelf": {},
            "/rules": {},
            "/units": {"back": t(["/"])},
            "/compare": {"a": t(["1", "2"]), "b": t(["1", "3"])},
        }
        bare |= {
            "/convert": {
                k: t(u)
                for k, u in {
                    "text": ["3 bar"],
                    "quantity": ["pressure"],
                    "unit": ["psi"],
                    "shown": ["psi"],
                }.items()
            },
            "/read-line": {"text": t(["V8 450 hp"])},
            "/enter": {},
        }
        name = rnd.choice([*pages, *bare])
        path, query = (
            (name, bare[name]) if name in bare else (f"/builds/{slug}/{name}", pages[name])
        )
        accept = rnd.choice(["text/html", "application/json"])
        try:
            self.judge(
                f"GET {path} {query}",
                self.client.get(
                    path,
                    query_string={
                        k: x.encode("utf-8", "replace").decode() for k, x in query.items()
                    },
                    headers={"Accept": accept},
                ),
                {},
            )
        except Exception as error:
            self.wrong.append(f"GET {path} {query}: {error!r}")

    def post(self, path: str, data: dict[str, Any]) -> None:
        """A change as JSON."""
        headers = (
            {"X-CSRFToken": self.token, "Accept": "application/json"}
            if self.rnd.random() < 0.98
            else {}
        )
        body = json.dumps(data)
        try:
            answer = self.client.post(
                path, data=body, headers=headers | {"Content-Type": "application/json"}
            )
            self.judge(f"POST {path} {body[:300]}", answer, data)
        except Exception as error:
            self.wrong.append(f"POST {path} {body[:300]}: {error!r}")

    def form(self) -> None:
        """A new build from a line or a file, a variant, a step back, a choice of units."""
        rnd = self.rnd
        slug = rnd.choice(self.slugs)
        document = dump(rnd.choice([*demo_builds().values()]))
        at = rnd.randrange(len(document))
        damaged = rnd.choice(
            [
                document,
                document[:at],
                document[:at]
                + rnd.choice(WORDS).encode("utf-8", "replace").decode()
                + document[at + 5 :],
                "[" * 3000,
                "null",
                "{}",
            ]
        )
        lines = [
            "V8 450 hp",
            "carb V8 350 hp 6 psi",
            "aircraft flat four 150 hp",
            "Knot: turbo six 620 hp E70 58 psi + 22",
        ]
        forms: list[tuple[str, dict[str, Any]]] = [
            ("/builds", {"name": self.text(lines) if rnd.random() < 0.3 else rnd.choice(WORDS)}),
            ("/builds", {"file": (io.BytesIO(damaged.encode("utf-8", "replace")), "x.json")}),
            (f"/builds/{slug}/variant", {"name": self.text(["twin"])}),
            (
                f"/builds/{slug}/back",
                {
                    "to": self.text(["1", "2"]),
                    "revision": self.text(["1", "2"]),
                    "head": self.text(["1"]),
                },
            ),
            (
                "/units",
                {
                    "system": self.text(["us", "metric"]),
                    "back": self.text(["/", "/\t/evil", "//evil"]),
                },
            ),
        ]
        path, data = rnd.choice(forms)
        clean = {
            k: x.encode("utf-8", "replace").decode() if isinstance(x, str) else x
            for k, x in data.items()
        }
        try:
            answer = self.client.post(
                path, data={"csrf_token": self.token} | clean, content_type="multipart/form-data"
            )
            self.judge(f"POST {path} {clean}", answer, {})
        except Exception as error:
            self.wrong.append(f"POST {path} {clean}: {error!r}")
            return
        if urlsplit(answer.headers.get("Location", "")).netloc:
            self.wrong.append(f"POST {path} leads to {answer.headers['Location']}")

    def judge(self, what: str, answer: TestResponse, sent: dict[str, Any]) -> None:
        """No fault of ours, nothing of the language on a page, and every refusal names its field."""
        self.counts[answer.status_code] = self.counts.get(answer.status_code, 0) + 1
        if answer.status_code >= 500:
            self.wrong.append(f"{what}: {answer.status_code}")
            return
        kind = answer.content_type or ""
        if "html" in kind and not 300 <= answer.status_code < 400:
            self.read(what, answer.text, sent)
        elif (
            "json" in kind
            and "ndjson" not in kind
            and "/build.json" not in what
            and "/record.json" not in what
        ):
            data = answer.json
            for piece in (data.get("pieces") or {}).values() if isinstance(data, dict) else ():
                self.read(what, piece, sent)
            if answer.status_code == 422 and isinstance(data, dict):
                if not data.get("message"):
                    self.wrong.append(f"{what}: refused without a word")
                elif not data.get("field") or (
                    data["field"] not in sent
                    and not self.beside(str(data["field"]), sent)
                    and data["message"] != "This field is missing."  # it is named for that
                    and data["field"]
                    not in (
                        "sure",  # what a second press sends
                        sent.get("act"),
                        f"dim-{sent.get('name')}",
                        PLACES.get(str(sent.get("act"))),
                    )
                ):
                    self.wrong.append(
                        f"{what}: refuses the field {data.get('field')!r}, which was not sent: {data['message']}"
                    )

    @staticmethod
    def beside(name: str, sent: dict[str, Any]) -> bool:
        """Whether a field of a form stands for what was sent: a field named by its value, or one of
        the form's own names.
        """
        return name in (
            sent.get("field"),
            name if f"fuel_{name}" in sent else None,
            name if name.startswith("own-") and name[4:] in sent else None,
            name if name in PLAIN else None,
            name if name.startswith("reason ") else None,
        )

    def read(self, what: str, page: str, sent: dict[str, Any]) -> None:
        """What of a page a reader sees."""
        seen = html.unescape(TAGS.sub(" ", page))
        for found in NEVER.finditer(seen):
            around = seen[max(0, found.start() - 60) : found.end() + 30].replace("\n", " ")
            self.wrong.append(f"{what}: shows “{around}”")
            return
        if "<b>bold</b>" in page or "<script>alert" in page:
            self.wrong.append(f"{what}: what was typed is a tag on the page")
