"""Properties of moist air."""

import math

from engine.errors import ImpossibleInputError
from engine.units import KELVIN_OFFSET

GAS_CONSTANT_J_MOLK = 8.314462618  # exact, SI 2019
MOLAR_MASS_DRY_AIR_KG = 0.0289655  # per mol; CIPM-2007, from memory
MOLAR_MASS_WATER_KG = 0.0180153  # per mol; handbook, from memory


def saturation_pressure_pa(temperature_c: float) -> float:
    """Saturation pressure of water vapour over water, -40 to 60 deg C, within 0.4 % (source: cipm)."""
    return 611.2 * math.exp(17.62 * temperature_c / (243.12 + temperature_c))


def density_kg_m3(temperature_c: float, pressure_hpa: float = 1013.25, humidity_pct: float = 50.0) -> float:
    """Density of moist air as a mixture of ideal gases, -40 to 100 deg C (source: cipm).

    Raises ImpossibleInputError for a pressure that is not positive.
    """
    if pressure_hpa <= 0:
        raise ImpossibleInputError("the air pressure must be positive", "room.pressure_hpa", "Give it in hPa.")
    vapour_pa = min(humidity_pct / 100 * saturation_pressure_pa(temperature_c), pressure_hpa * 100)
    dry_pa = pressure_hpa * 100 - vapour_pa
    per_kelvin = dry_pa * MOLAR_MASS_DRY_AIR_KG + vapour_pa * MOLAR_MASS_WATER_KG
    return per_kelvin / (GAS_CONSTANT_J_MOLK * (temperature_c + KELVIN_OFFSET))
