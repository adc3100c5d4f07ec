"""Is a part made for a fuel, and has anybody said so; is a pump wound for a voltage."""

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.figures import AnyLaw, PumpMap
from tall_heron.core.document.properties import Properties
from tall_heron.core.physics.fuel import AVGAS, Fuel

SPOKEN_OF = 0.15  # of ethanol, up to which every part for gasoline is made: E15


def made_for(about: Properties, fuel: Fuel) -> bool:
    """Whether its maker's statement allows the fuel; a part without any statement is taken to. One
    that speaks of ethanol and not of methanol is not made for methanol.
    """
    if fuel.methanol:
        return about.methanol is True or (
            about.methanol is None and about.ethanol_max_percent is None
        )
    if fuel.family == AVGAS:
        return about.avgas is not False
    if fuel.ethanol <= SPOKEN_OF and about.gasoline is False:
        return False
    return about.ethanol_max_percent is None or fuel.ethanol * 100 <= about.ethanol_max_percent


def spoken_of(about: Properties, fuel: Fuel) -> bool:
    """Whether somebody has said anything of a part that answers for the fuel: of methanol, avgas, a
    share of ethanol; of gasoline a share of ethanol says enough.
    """
    if fuel.methanol:
        return about.methanol is not None or about.ethanol_max_percent is not None
    if fuel.family == AVGAS:
        return about.avgas is not None
    if fuel.ethanol > SPOKEN_OF:
        return about.ethanol_max_percent is not None
    return about.gasoline is not None or about.ethanol_max_percent is not None


def wound_for(pump: PumpMap) -> tuple[float, float]:
    """The least and the most voltage [V] of a pump's sheet."""
    volts = [c.voltage_v for c in pump.curves]
    return min(volts), max(volts)


def runs_on(law: AnyLaw | None, voltage_v: float) -> bool:
    """Whether a pump's motor is wound for a system's voltage [V]: not so far beside its sheet that
    it hardly turns or runs hot. True of what has no motor.
    """
    if not isinstance(law, PumpMap):
        return True
    low, high = wound_for(law)
    return (
        house_figure("pump_volts_least") * low
        <= voltage_v
        <= house_figure("pump_volts_most") * high
    )
