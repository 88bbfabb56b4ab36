"""Heat exchangers: effectiveness, radiator, finned cooler, card. Compiled, one figure at a time."""

import math

from engine import constants as k
from engine.compiled import compiled

_SECTION_CM2, _REF_M3H, _REF_MM = k.RADIATOR_SECTION_CM2, k.RADIATOR_REFERENCE_M3H, k.RADIATOR_REFERENCE_MM
_LEAST = k.LEAST_FLOW_SHARE
_RADIATOR_FLOW, _RADIATOR_THICKNESS = k.RADIATOR_FLOW_EXPONENT, k.RADIATOR_THICKNESS_EXPONENT
_TOWER_FLOW, _CARD_FLOW = k.TOWER_FLOW_EXPONENT, k.CARD_FLOW_EXPONENT


@compiled
def effectiveness(ua_w_k: float, capacity_w_k: float) -> float:
    """Effectiveness against a stream of constant temperature: ``1 - exp(-UA/C)`` (source: incropera, eq. 11.35a)."""
    if capacity_w_k <= 0:
        return 1.0
    return -math.expm1(-ua_w_k / capacity_w_k)


@compiled
def radiator_ua_w_k(ua_section_w_k: float, face_cm2: float, thickness_mm: float, flow_m3h: float) -> float:
    """Conductance of a piece of radiator at its own flow (source: trade; flow exponent of louvred fins).

    ``ua_section_w_k`` belongs to a 120 mm section, 27 mm thick, at 50 m3/h.
    """
    sections = face_cm2 / _SECTION_CM2
    share = max(flow_m3h / (_REF_M3H * sections), _LEAST)
    return float(ua_section_w_k * sections * (thickness_mm / _REF_MM) ** _RADIATOR_THICKNESS * share**_RADIATOR_FLOW)


@compiled
def finned_ua_w_k(ua_ref_w_k: float, flow_m3h: float, flow_ref_m3h: float) -> float:
    """Conductance of a tower's or downdraft's fins at its own flow (source: incropera, laminar plates, exponent 0.5)."""
    return float(ua_ref_w_k * max(flow_m3h / flow_ref_m3h, _LEAST) ** _TOWER_FLOW)


@compiled
def card_resistance_k_w(r_k_per_w: float, flow_m3h: float, flow_ref_m3h: float, fixed_share: float) -> float:
    """Core minus inlet air per watt at the card's own flow (source: trade)."""
    share = max(flow_m3h / flow_ref_m3h, _LEAST)
    return float(r_k_per_w * (fixed_share + (1 - fixed_share) * share**-_CARD_FLOW))
