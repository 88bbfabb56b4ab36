"""Ageing of a sealed loop: coolant is lost through the tubes' walls, air takes its place, and one day it reaches barb or pump."""

from dataclasses import dataclass

from engine.loop.heights import LoopHeights
from engine.machine import SealedCooler

# Millilitres a year through one metre of one tube at 40 deg C: common practice, no source. Only their order is well known.
RATE_ML_YEAR_M = {"fluoropolymer": 0.25, "epdm": 1.2, "pvc": 3.0, "silicone": 15.0}
REFERENCE_C = 40.0  # from memory
DOUBLING_K = 12.0  # common practice, no source: permeation through a polymer doubles by about this much
TUBES = 2  # of a sealed loop
HORIZON_YEARS = 30.0  # beyond any use


@dataclass(frozen=True)
class Ageing:
    """Air in the loop: ``first_ml`` when new, growing by ``rate_ml_year``; years are None beyond the horizon or where nothing is lost."""

    first_ml: float
    rate_ml_year: float
    barb_year: float | None
    pump_year: float | None
    known_material: bool

    def air_ml(self, years: float) -> float:
        return self.first_ml + self.rate_ml_year * years


def rate_ml_year(material: str, tube_mm: float, coolant_c: float) -> float:
    """Loss in ml a year through both tubes at a coolant temperature; an unknown material counts as EPDM."""
    per_m = RATE_ML_YEAR_M.get(material.lower(), RATE_ML_YEAR_M["epdm"])
    return float(per_m * TUBES * tube_mm * 1e-3 * 2 ** ((coolant_c - REFERENCE_C) / DOUBLING_K))


def year_reaching(limit_ml: float, first_ml: float, rate: float) -> float | None:
    """When the air fills ``limit_ml``: 0 where it does when new, None where it never does within the horizon."""
    if first_ml >= limit_ml:
        return 0.0
    if rate <= 0:
        return None
    years = (limit_ml - first_ml) / rate
    return years if years <= HORIZON_YEARS else None


def ageing(cooler: SealedCooler, heights: LoopHeights, coolant_c: float) -> Ageing:
    """Ageing of one loop at a mean coolant temperature; an open loop with a reservoir is topped up and does not age so."""
    first = cooler.coolant_ml * (100 - cooler.fill_pct) / 100
    known = cooler.tube_material.lower() in RATE_ML_YEAR_M
    if cooler.reservoir:
        return Ageing(first, 0.0, None, None, known)
    rate = rate_ml_year(cooler.tube_material, cooler.tube_mm, coolant_c)
    if heights.pocket_in == "block":  # air in the block is above barbs and pump, and stays there
        return Ageing(first, rate, None, None, known)
    at_pump = heights.pocket_in == "pump"
    pump_ml = 0.0 if at_pump else heights.above_pump_ml
    barb_ml = 0.0 if at_pump else heights.above_barb_ml
    return Ageing(first, rate, year_reaching(barb_ml, first, rate), year_reaching(pump_ml, first, rate), known)
