"""Resistances of air-flow elements in the form ``dp = A Q + B Q|Q|`` (Pa, m3/s)."""

from dataclasses import dataclass

from engine import constants as k


@dataclass(frozen=True)
class Resistance:
    """``dp = a Q + b Q|Q|`` with a in Pa s/m3 and b in Pa s2/m6. Elements in series add."""

    a: float = 0.0
    b: float = 0.0

    def __add__(self, other: "Resistance") -> "Resistance":
        return Resistance(self.a + other.a, self.b + other.b)

    def shared(self, share: float) -> "Resistance":
        """The resistance seen by a part of the flow that takes ``share`` of the same face."""
        return Resistance(self.a / share, self.b / share**2)


def orifice(area_m2: float, density_kg_m3: float, extra_k: float = 0.0) -> Resistance:
    """Sharp-edged opening: dp = rho/2 (1/Cd^2 + K) (Q/a)^2 (source: idelchik)."""
    return Resistance(b=density_kg_m3 / 2 * (1 / k.DISCHARGE_COEFFICIENT**2 + extra_k) / area_m2**2)


def plate_loss_k(free_share: float) -> float:
    """Loss of a thin perforated plate on the approach velocity, free share 0 < f <= 1 (source: idelchik, diag. 8-1)."""
    return float((0.707 * (1 - free_share) ** 0.5 + 1 - free_share) ** 2 / free_share**2)


def plate(area_m2: float, free_share: float, density_kg_m3: float) -> Resistance:
    """Mesh, grille or partly closed opening: a thin plate of the given free share across ``area_m2``."""
    return velocity_head_loss(plate_loss_k(max(free_share, 0.01)), area_m2, density_kg_m3)


def velocity_head_loss(loss_k: float, area_m2: float, density_kg_m3: float) -> Resistance:
    """dp = K rho/2 (Q/a)^2."""
    return Resistance(b=density_kg_m3 / 2 * loss_k / area_m2**2)


def porous(area_m2: float, linear_pa: float, square_pa: float, scale: float = 1.0) -> Resistance:
    """Filter or fin stack with dp = (a v + b v^2) * scale, v the face velocity in m/s."""
    return Resistance(linear_pa * scale / area_m2, square_pa * scale / area_m2**2)


def fin_stack(flow_ref_m3s: float, drop_pa: float) -> Resistance:
    """Fins by one point: half of the drop laminar, half turbulent at the reference flow (M)."""
    return Resistance(drop_pa / 2 / flow_ref_m3s, drop_pa / 2 / flow_ref_m3s**2)


def regularised(resistance: Resistance) -> Resistance:
    """Adds the laminar part of thin gaps, which keeps the slope finite at zero flow."""
    return Resistance(resistance.a + (resistance.b * k.LAMINAR_PRESSURE_PA) ** 0.5, resistance.b)
