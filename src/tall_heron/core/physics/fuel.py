"""Fuels and their blends: density, viscosity, stoichiometry, heat, vapor pressure."""

import itertools
import math
import re
from dataclasses import dataclass
from functools import lru_cache

from tall_heron.core.base.catalogue import Row, by_name, table
from tall_heron.core.base.constants import CELSIUS, PSI

AVGAS = "100LL"  # the family of aviation gasoline
AVIATION_SLOPE, MOTOR_SLOPE = 2.0, 3.0  # distillation slopes (epa-ap42-7.1)
REID_AT = (100 + 459.67) / 1.8  # K: a Reid vapor pressure is taken at 100 °F (ASTM D323)
Antoine = tuple[float, float, float]


@dataclass(frozen=True)
class Fuel:
    """A fuel: `density_15` [kg/m3] at 15 degC, `expansion` [1/K], `viscosity_20` and `viscosity_40`
    [Pa s], `stoichiometric_ratio` [-] kg air per kg fuel, `heating_value` [J/kg], `reid_vapor` [Pa]
    absolute at 37.8 degC, `ethanol` [-] volume fraction, `family` for seasons, `heat_capacity`
    [J/(kg K)] at 15 degC, whether it holds `methanol`, the constants of its own boiling law,
    `antoine` [bar, K], where it is no gasoline, and the `distillation_slope` of one that is [-].
    """

    name: str
    ethanol: float
    density_15: float
    expansion: float
    viscosity_20: float
    viscosity_40: float
    stoichiometric_ratio: float
    heating_value: float
    reid_vapor: float
    family: str
    heat_capacity: float = 2200.0
    methanol: bool = False
    antoine: Antoine | None = None
    distillation_slope: float = MOTOR_SLOPE

    def density(self, temperature: float) -> float:
        """Density, rho = rho15 (1 - beta (T - 15 degC)).

        Args: temperature [K]. Returns: [kg/m3]. Source: handbook-physics.
        Valid: -40 to 90 degC, in which the law is as good as straight; it goes on beyond.

        >>> round(fuel_named("E0").density(288.15))
        745
        """
        return self.density_15 * (1 - self.expansion * (temperature - CELSIUS - 15))

    def viscosity(self, temperature: float) -> float:
        """Dynamic viscosity through the values at 20 and 40 degC, mu = A exp(B/T).

        Args: temperature [K]. Returns: [Pa s]. Source: andrade-1930.
        Valid: -40 to 90 degC; the two points of the table hold exactly, Andrade's law goes on
        beyond.

        >>> round(1000 * fuel_named("E100").viscosity(293.15), 2)
        1.19
        """
        t1, t2 = CELSIUS + 20, CELSIUS + 40
        b = math.log(self.viscosity_20 / self.viscosity_40) / (1 / t1 - 1 / t2)
        return self.viscosity_20 * math.exp(b * (1 / temperature - 1 / t1))


def _pure(row: Row) -> Fuel:
    return Fuel(
        name=row["name"],
        ethanol=row["ethanol_fraction"],
        density_15=row["density_15_kg_m3"],
        expansion=row["expansion_1_k"],
        viscosity_20=row["viscosity_20_mpa_s"] / 1000,
        viscosity_40=row["viscosity_40_mpa_s"] / 1000,
        stoichiometric_ratio=row["stoichiometric_ratio"],
        heating_value=row["heating_value_mj_kg"] * 1e6,
        reid_vapor=row["reid_vapour_kpa"] * 1000,
        family="petrol" if row["name"] == "E0" else row["name"],
        heat_capacity=row["heat_capacity_j_kgk"],
        methanol=row["name"] == "methanol",
        antoine=(row["antoine_a_bar"], row["antoine_b_k"], row["antoine_c_k"])
        if row["antoine_a_bar"]
        else None,
        distillation_slope=AVIATION_SLOPE if row["name"] == AVGAS else MOTOR_SLOPE,
    )


def blend(ethanol: float) -> Fuel:
    """Gasoline with ethanol: density adds by volume, ratio and heat by mass, viscosity by log
    mixing over volume, Reid vapor pressure from the table at a 62 kPa base (it is not linear).

    Args: ethanol [-] volume fraction 0 to 1. Returns: Fuel. Raises: ValueError outside 0 to 1.
    Source: handbook-physics.
    Valid: ethanol from 0 to 1; outside it is refused.

    >>> e85, e0 = blend(0.85), blend(0.0)
    >>> round(e0.density_15 * e0.stoichiometric_ratio / (e85.density_15 * e85.stoichiometric_ratio), 2)  # volume of E85 over E0 at equal lambda
    1.42
    """
    if not 0 <= ethanol <= 1:
        raise ValueError(f"ethanol: a volume fraction lies between 0 and 1, not {ethanol}")
    rows = by_name("fuels")
    if ethanol == 1:
        return _pure(rows["E100"])
    gasoline, alcohol = _pure(rows["E0"]), _pure(rows["E100"])
    x = ethanol
    rho = (1 - x) * gasoline.density_15 + x * alcohol.density_15
    w = x * alcohol.density_15 / rho

    def by_volume(a: float, b: float) -> float:
        return (1 - x) * a + x * b

    def by_mass(a: float, b: float) -> float:
        return (1 - w) * a + w * b

    def by_log(a: float, b: float) -> float:
        return math.exp((1 - x) * math.log(a) + x * math.log(b))

    return Fuel(
        name=f"E{100 * x:g}",
        ethanol=x,
        density_15=rho,
        expansion=by_volume(gasoline.expansion, alcohol.expansion),
        viscosity_20=by_log(gasoline.viscosity_20, alcohol.viscosity_20),
        viscosity_40=by_log(gasoline.viscosity_40, alcohol.viscosity_40),
        stoichiometric_ratio=by_mass(gasoline.stoichiometric_ratio, alcohol.stoichiometric_ratio),
        heating_value=by_mass(gasoline.heating_value, alcohol.heating_value),
        reid_vapor=_blend_reid_vapor(100 * x),
        family="high ethanol" if x > 0.5 else "petrol",
        heat_capacity=by_mass(gasoline.heat_capacity, alcohol.heat_capacity),
    )


def _blend_reid_vapor(percent: float) -> float:
    rows = table("blend_vapour")
    for low, high in itertools.pairwise(rows):
        if percent <= high["ethanol_percent"]:
            t = (percent - low["ethanol_percent"]) / (
                high["ethanol_percent"] - low["ethanol_percent"]
            )
            return 1000 * (
                low["reid_vapour_kpa"] + t * (high["reid_vapour_kpa"] - low["reid_vapour_kpa"])
            )
    return 1000 * float(rows[-1]["reid_vapour_kpa"])


@lru_cache(maxsize=256)
def fuel_named(name: str) -> Fuel:
    """The fuel of a name: E0 to E100, methanol, 100LL.

    Args: name [text]. Returns: Fuel. Raises: ValueError for an unknown name. Source:
    handbook-physics.
    Valid: the names of data/fuels/fuels.csv and E0 to E100; others are refused.

    >>> fuel_named("e85").name
    'E85'
    """
    match = re.fullmatch(r"[eE](\d{1,3}(?:\.\d+)?)", name.strip())
    if match and float(match.group(1)) <= 100:
        return blend(float(match.group(1)) / 100)
    row = {key.lower(): row for key, row in by_name("fuels").items()}.get(name.strip().lower())
    if row is None:
        raise ValueError(
            f"“{name}” is not a fuel known here. Write E0 to E100 (such as E70), methanol or 100LL."
        )
    return _pure(row)


def season_reid_vapor(fuel: Fuel, season: str) -> float:
    """The highest Reid vapor pressure sold in a season for the fuel's family; a fuel without
    seasons keeps its own.

    Gasoline with up to half ethanol stands over the class of the gasoline it was made from by what the
    table of blends adds (E9 to E10 may be sold 1 psi over it in
    summer: 40 CFR 1090.215, from memory).
    Args: fuel [Fuel], season [text]. Returns: [Pa] absolute. Source: astm-d4814, astm-d5798.
    Valid: seasons of data/fuels/seasons.csv; an unknown season leaves the fuel its own.

    >>> season_reid_vapor(fuel_named("E0"), "summer") > 5e4
    True
    """
    for row in table("seasons"):
        if row["season"] == season and row["fuel_family"] == fuel.family:
            return float(row["reid_vapour_kpa"]) * 1000 + (
                max(fuel.reid_vapor - blend(0.0).reid_vapor, 0.0)
                if fuel.family == "petrol" and season == "summer"
                else 0.0
            )
    return fuel.reid_vapor


def boils_at(fuel: Fuel, season: str, temperature: float) -> float:
    """Vapor pressure of a fuel as it is sold in a season: neat alcohols by Antoine's law, log10
    P[bar] = A - B/(T - C); aviation gasoline by its own limit all year; gasoline and its blends by
    the season's class.

    Args: fuel [Fuel], season [text], temperature [K]. Returns: [Pa] absolute. Source: epa-ap42-7.1,
    astm-d4814, astm-d910, antoine-1888.
    Valid: 0 to 60 degC; beyond it both laws go on. For blends the gasoline's law is a stand-in.

    >>> round(boils_at(fuel_named("methanol"), "winter", 333.15) / 1000)
    84
    """
    if fuel.antoine is not None:
        a, b, c = fuel.antoine
        return 1e5 * 10.0 ** (a - b / (temperature - c))
    reid_vapor = season_reid_vapor(fuel, season)
    return true_vapor_pressure(reid_vapor, temperature, fuel.distillation_slope)


def antoine_with(law: Antoine, reid_vapor: float) -> Antoine:
    """A neat liquid's law moved to a Reid vapor pressure, its slope over temperature kept.

    Args: law [bar, K], reid_vapor [Pa]. Returns: [bar, K]. Source: antoine-1888.
    Valid: a fuel that is nearly that liquid, 20 to 70 degC.

    >>> methanol = fuel_named("methanol").antoine
    >>> round(10 ** (antoine_with(methanol, 32e3)[0] - methanol[1] / (REID_AT - methanol[2])), 3)
    0.32
    """
    _, b, c = law
    return math.log10(reid_vapor / 1e5) + b / (REID_AT - c), b, c


def antoine_through(reid_vapor: float, temperature: float, pressure: float) -> Antoine:
    """The law through a Reid vapor pressure and one more point: ln P straight over 1/T (Clausius and
    Clapeyron), which is Antoine's with C = 0.

    Args: reid_vapor [Pa], temperature [K], pressure [Pa]. Returns: [bar, K]. Source: antoine-1888.
    Valid: 20 to 70 degC, within 3 %.

    >>> a, b, c = antoine_through(50e3, 333.15, 110e3)
    >>> round(10 ** (a - b / 333.15), 3)
    1.1
    """
    b = math.log10(pressure / reid_vapor) / (1 / REID_AT - 1 / temperature)
    return math.log10(reid_vapor / 1e5) + b / REID_AT, b, 0.0


def true_vapor_pressure(
    reid_vapor: float, temperature: float, distillation_slope: float = 3.0
) -> float:
    """True vapor pressure of gasoline from its Reid vapor pressure, P = exp(A - B/T) in psia and
    degR, with A and B from ln RVP and slope S.

    Made for gasoline without alcohol; for ethanol blends it is used with the season's class as a
    stand-in, and the finding says so.
    Args: reid_vapor [Pa], temperature [K], distillation_slope [-] (3 motor, 2 aviation gasoline).
    Returns: [Pa] absolute. Source: epa-ap42-7.1.
    Valid: RVP 14 to 100 kPa and 0 to 60 degC, gasoline without alcohol; alcohols alone boil by other
    laws.

    >>> round(true_vapor_pressure(10 * 6894.757, (60 + 459.67) / 1.8) / 6894.757, 1)
    5.2
    """
    log_rvp = math.log(reid_vapor / PSI)
    root = math.sqrt(distillation_slope)
    a = 15.64 - 1.854 * root - (0.8742 - 0.3280 * root) * log_rvp
    b = 8742 - 1042 * root - (1049 - 179.4 * root) * log_rvp
    return PSI * math.exp(a - b / (1.8 * temperature))
