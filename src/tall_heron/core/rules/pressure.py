"""Pressure and flow: pumps, rail, regulator, return, injectors."""

from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import PumpMap, Regulator
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.path import downstream, upstream, ways
from tall_heron.core.hydraulics.results import BEYOND_TABLE, BEYOND_VOLTS
from tall_heron.core.rules import words
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, bypasses, elements, has, rail_word, solves, solves_with
from tall_heron.core.rules.words import pressure_limit
from tall_heron.core.shelf.suits import runs_on, wound_for
from tall_heron.core.study.cases.phases import phase_of, rail_level
from tall_heron.core.study.cases.requirements import sprung
from tall_heron.core.study.delivery import turns_back
from tall_heron.core.study.demand import allowance, margin
from tall_heron.core.study.study import Study


def return_too_small(study: Study) -> Iterator[Finding]:
    """At idle nearly the whole pump flow goes back: a bypass regulator that stands wide open there
    cannot hold base.
    """
    solved = study.solved["idle"]
    error = study.rail_error(solved)
    if error is None or not solved.solution.converged:
        return
    off, asked = error
    level = rail_level(study.brief, off / asked, "light")
    for regulator in bypasses(study):
        link = solved.solution.links.get(regulator.id)
        if link is None or link.state != "wide open" or not level:
            continue
        back = [
            e for e in downstream(study.build.circuit, regulator) if e.id in solved.solution.links
        ]
        losses = {e.id: solved.solution.links[e.id].loss or 0.0 for e in back} | {
            regulator.id: link.loss or 0.0
        }
        worst = max(losses, key=lambda x: losses[x])
        figures = {
            "high": FindingFigure(off, "pressure"),
            "flow": FindingFigure(link.flow, "volume_flow"),
            "takes": FindingFigure(losses[worst], "pressure"),
        }
        title = f"{regulator.id} cannot hold base at idle: the {rail_word(study)} reads {{high}} over target"
        why = f"The return carries {{flow}} at idle with the regulator wide open, and {worst} drops {{takes}} of it."
        do = (
            f"Fit a larger return, a larger regulator seat, or straighter ends; start with {worst}."
        )
        if off > house_figure("rail_over_stop") * asked:
            level, why = (
                "Stop",
                f"{why} Nothing holds the rail pressure: it settles where pump and return leave it, and the engine floods.",
            )
        yield Finding(level, worst, title, why, do, figures, solved.case.key)


def rail_off(study: Study) -> Iterator[Finding]:
    """A regulator that holds still misses what is asked: its slope, its setting, its reference."""
    for key in ("peak", "idle"):
        solved = study.solved[key]
        error = study.rail_error(solved)
        if error is None or not solved.solution.converged:
            continue
        off, asked = error
        level = rail_level(study.brief, off / asked, phase_of(key, solved.case.kind))
        for regulator in elements(study, "regulator"):
            link = solved.solution.links.get(regulator.id)
            if (
                link is None
                or link.state != "holding"
                or not level
                or (key == "peak" and _unreferenced(study, regulator))
            ):
                continue  # one that does not feel the boost is P-05's: no screw mends it
            figures = {
                "asked": FindingFigure(asked, "pressure"),
                "flow": FindingFigure(link.flow, "volume_flow"),
            }
            title = f"The {rail_word(study)} reads {words.off(off, figures)} at {solved.case.title.lower()}"
            why = f"{regulator.id} holds with {{flow}} through it; the target is {{asked}}. " + (
                "Low pressure leans the engine."
                if off < 0
                else "High pressure at idle is the regulator's slope or its return."
            )
            yield Finding(
                level,
                regulator.id,
                title,
                why,
                "Set the screw at this flow, or fit a regulator of less slope.",
                figures,
                key,
            )


def _unreferenced(study: Study, regulator: Element) -> bool:
    return (
        study.brief.boosted
        and isinstance(regulator.figures, Regulator)
        and regulator.figures.reference == "atmosphere"
    )


def regulator_at_its_end(study: Study) -> Iterator[Finding]:
    """Shut or wide open a regulator regulates nothing."""
    for solved in study.solved.values():
        for regulator in elements(study, "regulator"):
            link = solved.solution.links.get(regulator.id)
            if link is None or link.state not in ("shut", "wide open") or solved.case.demand <= 0:
                continue
            title = f"{regulator.id} is {link.state} at {solved.case.title.lower()}"
            why = "Then pressure follows flow, filter and voltage instead of the setting."
            starved = link.state == "shut" if turns_back(regulator) else link.state == "wide open"
            do = (
                "Give the pumps more in hand."
                if starved
                else "Fit a larger seat or return, or smaller pumps."
            )
            if starved and not turns_back(regulator):
                do = "Give the pumps more in hand, or fit a larger regulator seat."
            if not turns_back(regulator) and not starved:
                do = "Look at its setting: its outlet pressure is over it already."
            yield Finding("Check", regulator.id, title, why, do, {}, solved.case.key)


def boost_not_referenced(study: Study) -> Iterator[Finding]:
    """With boost, a regulator that does not feel the manifold lets injector pressure fall as boost
    rises.
    """
    for regulator in elements(study, "regulator"):
        if _unreferenced(study, regulator):
            figures = {"boost": FindingFigure(study.brief.boost, "pressure")}
            title = f"{regulator.id} is not referenced to the manifold"
            why = "At {boost} of boost the injectors see that much less, and the engine leans out under boost."
            yield Finding(
                "Stop",
                regulator.id,
                title,
                why,
                "Join its port to the plenum, or fit a regulator that has one.",
                figures,
            )


def rails_differ(study: Study) -> Iterator[Finding]:
    """Cylinders at different pressures burn different mixtures."""
    share, stop, base = (
        house_figure("rail_difference_share"),
        house_figure("rail_difference_stop"),
        study.brief.base,
    )
    differ = study.rails_differ(study.peak)
    if differ > share * base:
        figures = {
            "differ": FindingFigure(differ, "pressure_difference"),
            "limit": FindingFigure(share * base, "pressure_difference"),
        }
        part = elements(study, "rail")[-1].id
        why = f"More than {{limit}} between the ends of the rails is more than {100 * share:g} % of base: the cylinders at the low end get {50 * share:g} % less."
        yield Finding(
            "Stop" if differ > stop * base else "Check",
            part,
            "The rails differ by {differ}",
            why,
            "Feed them by equal hoses, or fit a larger rail or crossover.",
            figures,
            "peak",
        )


def feed_loss(study: Study) -> Iterator[Finding]:
    """The hoses between pumps and rail take pressure that the pumps must make."""
    base, share = study.brief.base, allowance(study.brief, "feed_loss_share")
    pumped = {e.id for p in study.feed_path.pumps for e in downstream(study.build.circuit, p)}
    hoses = [
        e.id
        for e in elements(study, *PIPES)
        if e.id in pumped and all(n in study.feed_path.nodes for n in e.ports.values())
    ]
    for e in (name for name in hoses if name in study.peak.solution.links):
        loss = abs(study.friction(study.peak, e))
        if loss > share * base:
            figures = {
                "takes": FindingFigure(loss, "pressure_difference"),
                "limit": FindingFigure(share * base, "pressure_difference"),
            }
            title, why = (
                f"{e}: pressure drop {{takes}} of the feed",
                "More than {limit} of base pressure is more than a feed line should drop; the pumps pay for it in flow.",
            )
            yield Finding(
                "Check", e, title, why, "Fit the next size or fewer bends.", figures, "peak"
            )


NARROW = (
    "check",
    "merge",
    "split",
    "tee",
    "junction",
    "sensor",
    "damper",
    "fitting",
    "valve",
    "selector",
)  # what is on the way for other reasons than to take pressure


def narrow_part(study: Study) -> Iterator[Finding]:
    """A valve, a sensor or a fitting that is too small for the feed it stands in."""
    limit = house_figure("check_allowance")
    before = {e.id for b in study.feed_path.burners for e in upstream(study.build.circuit, b)}
    pumped = {e.id for p in study.feed_path.pumps for e in downstream(study.build.circuit, p)}
    for e in elements(study, *NARROW):
        if e.id not in before or e.id not in pumped:
            continue
        keys = [
            k for k, x in study.peak.solution.links.items() if x.element == e.id and abs(x.flow) > 0
        ]
        takes = max((abs(study.friction(study.peak, k)) for k in keys), default=0.0)
        if takes > limit:
            figures = {
                "takes": FindingFigure(takes, "pressure_difference"),
                "limit": FindingFigure(limit, "pressure_difference"),
            }
            why = "More than {limit} is more than a pass-through part should drop; the pumps pay for it in flow."
            yield Finding(
                "Check",
                e.id,
                f"{e.id}: pressure drop {{takes}} of the feed",
                why,
                "Fit one of the feed's size.",
                figures,
                "peak",
            )


def return_back_pressure(study: Study) -> Iterator[Finding]:
    """Pressure behind a bypass regulator adds to what it holds once it is open."""
    limit = house_figure("return_back_pressure")
    for regulator in bypasses(study):
        if any(e.kind == "jet" for e in downstream(study.build.circuit, regulator)):
            continue  # that is what drives it
        met = [
            (p, s)
            for s in study.solved.values()
            if (p := s.solution.nodes.get(ways(regulator)[0][1])) is not None
        ]
        outlet, solved = max(met, key=lambda x: x[0], default=(0.0, study.peak))
        if outlet > limit:
            figures = {
                "back": FindingFigure(outlet, "pressure"),
                "limit": FindingFigure(limit, "pressure"),
            }
            title, why = (
                f"{{back}} of return back-pressure behind {regulator.id} at {solved.case.title.lower()}",
                "Over {limit} the regulator loses authority, and pumps and fuel run hotter.",
            )
            yield Finding(
                "Check",
                regulator.id,
                title,
                why,
                "Fit a larger return or straighter ends.",
                figures,
                solved.case.key,
            )


def pump_over_pressure(study: Study) -> Iterator[Finding]:
    """A pump beyond the pressure it is rated for runs hot; at its relief it pumps in a circle."""
    for pump in elements(study, "pump"):
        rated = pump.properties.rated_kpa
        met = [
            (-link.loss, link.state, s)
            for s in study.solved.values()
            if (link := s.solution.links.get(pump.id)) is not None and link.loss is not None
        ]
        if not met:
            continue
        works, state, solved = max(met, key=lambda x: (x[1] == "relief open", x[0]))
        at = solved.case.title.lower()
        if pump.properties.dead_heads:
            continue  # made to work against a shut line, at its own relief
        if state == "relief open":
            why = (
                "The relief valve inside the pump bypasses the rest; nothing more reaches the rail."
            )
            level: Level = "Stop" if solved.case.kind != "idle" else "Check"
            do = "Lower the pressure or fit another pump."
            yield Finding(
                level,
                pump.id,
                f"{pump.id} runs at its relief valve at {at}",
                why,
                do,
                {},
                solved.case.key,
            )
        elif rated is not None and works > rated * 1000:
            figures = {
                "works": FindingFigure(works, "pressure"),
                "rated": FindingFigure(rated * 1000, "pressure"),
            }
            title = f"{pump.id} works against {{works}} at {at}; it is rated for {{rated}}"
            why = "Beyond its rating it draws more, runs hot and does not last."
            yield Finding(
                "Check",
                pump.id,
                title,
                why,
                "Fit a pump rated for the pressure.",
                figures,
                solved.case.key,
            )


def base_out_of_range(study: Study) -> Iterator[Finding]:
    """The screw of a regulator reaches only so far."""
    base = study.brief.base_kpa
    for e in elements(study, "regulator"):
        low, high = e.properties.set_min_kpa, e.properties.set_max_kpa
        if (low is not None and base < low - 0.5) or (high is not None and base > high + 0.5):
            figures = {
                "low": FindingFigure((low or 0.0) * 1000, "pressure"),
                "high": FindingFigure((high or 0.0) * 1000, "pressure"),
            }
            title, why = (
                f"{e.id} cannot be set to the base pressure",
                "It can be set from {low} to {high}.",
            )
            yield Finding(
                "Stop",
                e.id,
                title,
                why,
                "Fit a regulator whose range covers the base pressure, or choose another base pressure.",
                figures,
            )


def pump_beyond_its_map(study: Study) -> Iterator[Finding]:
    """Where a map ends the figures are a guess."""
    for pump in elements(study, "pump"):
        for solved in study.solved.values():
            link = solved.solution.links.get(pump.id)
            if link is not None and link.state in (BEYOND_TABLE, BEYOND_VOLTS):
                title = f"{pump.id} works beyond its {'table' if link.state == BEYOND_TABLE else 'voltages'} at {solved.case.title.lower()}"
                why = "What it gives there is scaled from the nearest figures of its sheet."
                yield Finding(
                    "Note",
                    pump.id,
                    title,
                    why,
                    "Ask the maker for the missing figures, or measure.",
                    {},
                    solved.case.key,
                )
                break


def pump_on_the_wrong_voltage(study: Study) -> Iterator[Finding]:
    """A motor wound for 12 V hardly turns on a 6 V system and burns out on a 24 V one."""
    volts = study.brief.voltage_v
    for pump in elements(study, "pump"):
        if not isinstance(pump.figures, PumpMap) or runs_on(pump.figures, volts):
            continue
        low, high = wound_for(pump.figures)
        burns = volts > house_figure("pump_volts_burn") * high
        title = (
            f"{pump.id}: on {{system}}, its sheet ends at {{{'most' if volts > high else 'least'}}}"
        )
        hot = (
            "Its motor draws far more than it is wound for and burns out."
            if burns
            else "Its motor runs hot and wears fast."
        )
        why = hot if volts > high else "Its motor hardly turns: flow and pressure are a guess."
        figures = {
            "system": FindingFigure(volts, "voltage"),
            "least": FindingFigure(low, "voltage"),
            "most": FindingFigure(high, "voltage"),
        }
        yield Finding(
            "Stop" if burns else "Check",
            pump.id,
            title,
            why,
            "Fit a pump wound for this voltage, or feed this one through a converter.",
            figures,
        )


def pumps_without_a_way_back(study: Study) -> Iterator[Finding]:
    """A pump that works against a shut line warms the same fuel."""
    for pump in elements(study, "pump"):
        onward = downstream(study.build.circuit, pump)
        pots = {e.ports["outlet"] for e in elements(study, "tank")}
        fills = any(end in pots for e in (pump, *onward) for _, end in ways(e))
        if (
            fills
            or any(e in onward for e in bypasses(study))
            or any(e.kind == "controller" for e in onward)
        ):
            continue
        if pump.properties.dead_heads or pump.properties.passes_stopped:
            continue  # made for it: its own relief or its spring
        turbine = isinstance(pump.figures, PumpMap) and pump.figures.kind == "turbine"
        title = f"{pump.id} has no way back when the engine draws little"
        why = "A turbine bears that for a while and heats the fuel; a roller or gerotor pump leans on its relief valve."
        yield Finding(
            "Note" if turbine else "Check",
            pump.id,
            title,
            why,
            "Fit a bypass regulator, or a pump made for dead-heading.",
            {},
        )


def needles_forced(study: Study) -> Iterator[Finding]:
    """A float that is pressed down floods the engine, and the fuel runs over hot parts; pumps in a
    row add up, but for one whose diaphragm a spring presses against the air.
    """
    most = house_figure("needle_most")
    for solved in study.solved.values():
        rail = study.rail_pressure(solved.solution) if solved.solution.converged else None
        asked = study.asked(solved)
        if rail is not None:
            rail -= sprung(study, solved)
        if rail is None or rail <= most or rail <= FORCED * asked:
            continue
        figures = {
            "stands": FindingFigure(rail, "pressure"),
            "asked": FindingFigure(asked, "pressure"),
            "most": FindingFigure(most, "pressure"),
        }
        burner = study.feed_path.burners[0].id
        title = f"{burner} sees {{stands}} at {solved.case.title.lower()}; the target is {{asked}}"
        why = "Above {most} a float needle is forced from its seat: the bowl overflows, onto the engine. Pumps in a row add their pressures."
        yield Finding(
            "Stop",
            burner,
            title,
            why,
            "Fit a regulator before it, or pumps of less pressure.",
            figures,
            solved.case.key,
        )
        return


def no_gauge(study: Study) -> Iterator[Finding]:
    """What is not read is not known."""
    if not elements(study, "gauge", "sensor"):
        part = (elements(study, "rail") or elements(study, "regulator") or elements(study, "pump"))[
            0
        ].id
        why = "Without a gauge or sensor nobody sees a sagging rail or a failing pump before the engine does."
        yield Finding(
            "Check",
            part,
            "No gauge or sensor reads the fuel pressure",
            why,
            "Tap the rail or the regulator for a gauge or a sensor.",
        )


def gravity_margin(study: Study) -> Iterator[Finding]:
    """Fuel that only falls has no pump to make up for a half-blocked screen or a climb."""
    wanted, source = margin(study.brief, gravity=True)
    headroom = study.headroom(study.peak)
    if headroom is not None and headroom < wanted:
        figures = {
            "limit": FindingFigure(wanted, "fraction"),
            "falls": FindingFigure(study.capacity(study.peak), "volume_flow"),
            "needed": FindingFigure((1 + wanted) * study.peak.case.demand, "volume_flow"),
        }
        part = next(e.id for c in study.path.columns[1:] for e in c.elements)
        why = "{falls} fall before the bowl lacks pressure, level and with the fuel of this case; a climb or a loaded screen takes from it."
        do = "Raise the tanks, widen the lines, or fit a pump."
        yield Finding(
            "Stop" if headroom < 0 else "Check",
            part,
            f"{words.headroom(['Gravity'], headroom, 'the demand', figures)}; {{limit}} headroom is required",
            why,
            do,
            figures,
            "peak",
            source=f"Rule P-15; margin: {source}",
        )


def _falls(study: Study) -> bool:
    return solves(study) and not study.feed_path.pumps and bool(study.feed_path.tanks)


def _boosted(study: Study) -> bool:
    return study.brief.boosted and bool(elements(study, "regulator"))


COMMON = "common practice"
FORCED = 1.5  # times what is asked: a needle that is asked to hold much is made for it
RULES = (
    Rule(
        "P-19",
        "No bowl sees more pressure than its needle holds.",
        "9 psi, common practice",
        needles_forced,
        lambda s: s.brief.carbureted and solves(s) and bool(s.feed_path.pumps),
    ),
    Rule(
        "P-02",
        "The return is large enough for the regulator to hold base at idle.",
        "5 % over, common practice",
        return_too_small,
        solves_with("regulator"),
    ),
    Rule(
        "P-03",
        "The rail is no more than 2 % under its target at peak and 5 % over it at idle, where the regulator holds.",
        "2 and 5 % under for a Check and a Stop, common practice",
        rail_off,
        solves_with("regulator"),
    ),
    Rule(
        "P-04",
        "No regulator is shut or wide open in any case.",
        COMMON,
        regulator_at_its_end,
        solves_with("regulator"),
    ),
    Rule(
        "P-05",
        "With boost, the regulator feels the manifold.",
        "injectors see rail less manifold",
        boost_not_referenced,
        _boosted,
    ),
    Rule(
        "P-07",
        f"The ends of the rails differ by no more than {100 * house_figure('rail_difference_share'):g} % of base.",
        "flow goes as the root of pressure: half as much",
        rails_differ,
        solves_with("rail"),
    ),
    Rule(
        "P-08",
        f"No feed hose drops more than {100 * house_figure('feed_loss_share'):g} % of base pressure.",
        COMMON,
        feed_loss,
        lambda s: solves_with(*PIPES)(s) and bool(s.feed_path.pumps),
    ),
    Rule(
        "P-21",
        "No check valve, sensor or fitting is a narrow place of the feed.",
        f"{pressure_limit('check_allowance')}, house allowance",
        narrow_part,
        solves_with("pump"),
    ),
    Rule(
        "P-09",
        f"Return back-pressure is no more than {pressure_limit('return_back_pressure')}, level.",
        COMMON,
        return_back_pressure,
        solves_with("regulator"),
    ),
    Rule(
        "P-10",
        "No pump works beyond its rated pressure or at its relief.",
        "maker's rating",
        pump_over_pressure,
        solves_with("pump"),
    ),
    Rule(
        "P-11",
        "The base pressure lies within the regulator's range.",
        "maker's range",
        base_out_of_range,
        has("regulator"),
    ),
    Rule(
        "P-12",
        "No pump works beyond its map.",
        "maker's sheet",
        pump_beyond_its_map,
        solves_with("pump"),
    ),
    Rule(
        "P-23",
        "A pump's motor is wound for the system's voltage.",
        "maker's sheet",
        pump_on_the_wrong_voltage,
        has("pump"),
    ),
    Rule(
        "P-13",
        "Pumps have a way back when the engine draws little.",
        COMMON,
        pumps_without_a_way_back,
        has("pump"),
    ),
    Rule(
        "P-15",
        "Gravity flow is at least one and a half times the demand.",
        "margin of the brief",
        gravity_margin,
        _falls,
    ),
    Rule("P-14", "Something reads the fuel pressure.", COMMON, no_gauge, has("pump")),
)
