"""Heat exchangers: effectiveness, radiator, finned cooler, card."""

import math

from engine import constants as k

SECTION_FACE_CM2 = 144.0  # a 120 mm section, to which the reference conductance belongs


def effectiveness(ua_w_k: float, capacity_w_k: float) -> float:
    """Effectiveness against a stream of constant temperature: ``1 - exp(-UA/C)`` (source: incropera, eq. 11.35a)."""
    if capacity_w_k <= 0:
        return 1.0
    return -math.expm1(-ua_w_k / capacity_w_k)


def radiator_ua_w_k(face_cm2: float, thickness_mm: float, flow_m3h: float, factor: float) -> float:
    """Conductance of a piece of radiator at its own flow (source: trade; flow exponent of louvred fins)."""
    sections = face_cm2 / SECTION_FACE_CM2
    thickness = (thickness_mm / k.RADIATOR_REFERENCE_MM) ** k.RADIATOR_THICKNESS_EXPONENT
    reference_m3h = k.RADIATOR_REFERENCE_M3H * sections
    share = max(flow_m3h / reference_m3h, k.LEAST_FLOW_SHARE)
    return float(k.RADIATOR_UA_W_K * sections * thickness * share**k.RADIATOR_FLOW_EXPONENT * factor)


def finned_ua_w_k(ua_ref_w_k: float, flow_m3h: float, flow_ref_m3h: float) -> float:
    """Conductance of a tower's or downdraft's fins at its own flow (source: incropera, laminar plates, exponent 0.5)."""
    return float(ua_ref_w_k * max(flow_m3h / flow_ref_m3h, k.LEAST_FLOW_SHARE) ** k.TOWER_FLOW_EXPONENT)


def card_resistance_k_w(r_k_per_w: float, flow_m3h: float, flow_ref_m3h: float) -> float:
    """Core minus inlet air per watt at the card's own flow (source: trade)."""
    share = max(flow_m3h / flow_ref_m3h, k.LEAST_FLOW_SHARE)
    return float(r_k_per_w * (k.CARD_FIXED_SHARE + (1 - k.CARD_FIXED_SHARE) * share**-k.CARD_FLOW_EXPONENT))
