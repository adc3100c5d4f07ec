"""Is a part made for a fuel."""

from tall_heron.core.document.properties import Properties
from tall_heron.core.physics.fuel import Fuel


def made_for(about: Properties, fuel: Fuel) -> bool:
    """Whether its maker's statement allows the fuel; a part without any statement is taken to. One that speaks of ethanol and not of methanol is not made for methanol."""
    if fuel.methanol:
        return about.methanol is True or (about.methanol is None and about.ethanol_max_percent is None)
    return about.ethanol_max_percent is None or fuel.ethanol * 100 <= about.ethanol_max_percent
