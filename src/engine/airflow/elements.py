"""Resistances of air-flow elements in the form ``dp = A Q + B Q|Q|`` (Pa, m3/s), compiled.

An element is a code with two figures (x, y); a link is elements in series, whose A and B add. The codes are the language
in which ``coupled.links`` describes a case and the kernels compute it for any parameter vector.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from engine import constants as k
from engine.compiled import compiled
from engine.parameters import INDEX

Floats = NDArray[np.float64]

ORIFICE = 0  # x area m2, y further loss on the velocity head
TURNS = 1  # x area m2, y number of right angles
PLATE = 2  # x area m2, y free share: thin plate, mesh, grille, partly closed hole
SPREAD_PLATE = 3  # x face of the fan m2, y free share: mesh that a fan draws through over a wider area
LOSS = 4  # x area m2, y loss on the velocity head
FILTER = 5  # x face of the fan m2 (spread like the mesh), y 1 coarse, 2 fine
PLAIN_FILTER = 6  # x area m2, y 1 coarse, 2 fine
FINS = 7  # x face m2, y thickness over 27 mm: radiator
STACK = 8  # x reference flow m3/s, y pressure drop Pa: fins by one point, half laminar, half turbulent
GUARD = 9  # x hole m2, y nearness of a panel, 0 to 1: only where a fan is
EMPTY = 10  # x face m2: only where no fan is
FRAME_LEAK = 11  # opening past fan frames
SEAM = 12  # one seam
INSIDE = 13  # x cross-section m2, y free share of what stands in it
CARD_OUTLET = 14  # x share of the outlet, y 0 up, 1 low, 2 bracket
BLOWER_OUTLET = 15  # the same for a blower

_CD, _TURN, _GUARD, _NEAR = (INDEX[n] for n in ("discharge_coefficient", "turn_loss_k", "guard_loss_k", "near_panel_k"))
_EMPTY, _SPREAD, _FILTER = (INDEX[n] for n in ("empty_mount_open", "mesh_spread", "coarse_filter_linear_pa"))
_RADIATOR, _FRAME, _SEAM = (INDEX[n] for n in ("radiator_linear_pa", "frame_leak_cm2", "seam_leak_cm2"))
_FREE, _CARD_UP = INDEX["interior_free"], INDEX["card_up_cm2"]
_BLOWER = k.BLOWER_OUTLET_CM2
_CM2 = 1e-4  # m2


class Element(NamedTuple):
    """One resistance of a link; what x and y mean depends on the code."""

    code: int
    x: float = 0.0
    y: float = 0.0


@compiled
def plate_loss_k(free_share: float) -> float:
    """Loss of a thin perforated plate on the approach velocity, free share 0 < f <= 1 (source: idelchik, diag. 8-1)."""
    return float((0.707 * (1 - free_share) ** 0.5 + 1 - free_share) ** 2 / free_share**2)


@compiled
def orifice_b(area_m2: float, extra_k: float, density: float, discharge: float) -> float:
    """Sharp-edged opening: dp = rho/2 (1/Cd^2 + K) (Q/a)^2 (source: idelchik)."""
    return density / 2 * (1 / discharge**2 + extra_k) / area_m2**2


@compiled
def element_ab(code: int, x: float, y: float, density: float, par: Floats, fan_here: bool) -> tuple[float, float]:
    """A in Pa s/m3 and B in Pa s2/m6 of one element; ``density`` in kg/m3, ``par`` the parameter vector.

    ``fan_here`` says whether a fan is fitted, on which GUARD and EMPTY depend. Sources: idelchik for orifice, plate,
    turn; filters and radiator ``a v + b v^2`` on the face velocity.
    """
    head = density / 2
    thick = density / k.STANDARD_DENSITY_KG_M3  # of a sheet's drop, what is inertia follows density, what is viscous does not
    if code == ORIFICE:
        return 0.0, orifice_b(x, y, density, par[_CD])
    if code == TURNS:
        return 0.0, head * y * par[_TURN] / x**2
    if code == PLATE:
        return 0.0, head * plate_loss_k(max(y, 0.01)) / x**2
    if code == SPREAD_PLATE:
        return 0.0, head * plate_loss_k(max(y, 0.01)) / (x * par[_SPREAD]) ** 2
    if code == LOSS:
        return 0.0, head * y / x**2
    if code in (FILTER, PLAIN_FILTER):
        area = x * par[_SPREAD] if code == FILTER else x
        first = _FILTER + 2 * (int(y) - 1)
        return par[first] / area, thick * par[first + 1] / area**2
    if code == FINS:
        return par[_RADIATOR] * y / x, thick * par[_RADIATOR + 1] * y / x**2
    if code == STACK:
        return y / 2 / x, thick * y / 2 / x**2
    if code == GUARD:
        loss = par[_GUARD] + y * par[_NEAR]
        return 0.0, head * loss / x**2 if fan_here else 0.0
    if code == EMPTY:
        return 0.0, 0.0 if fan_here else orifice_b(par[_EMPTY] * x, 0.0, density, par[_CD])
    if code == FRAME_LEAK:
        return 0.0, orifice_b(par[_FRAME] * _CM2, 0.0, density, par[_CD])
    if code == SEAM:
        return 0.0, orifice_b(par[_SEAM] * _CM2, 0.0, density, par[_CD])
    if code == INSIDE:
        return 0.0, orifice_b(max(x * y * par[_FREE], 1e-4), 0.0, density, par[_CD])
    if code == CARD_OUTLET:
        return 0.0, orifice_b(max(par[_CARD_UP + int(y)] * x * _CM2, 1e-5), 0.0, density, par[_CD])
    return 0.0, orifice_b(max(_BLOWER[int(y)] * x * _CM2, 1e-5), 0.0, density, par[_CD])


def series_ab(elements: Sequence[Element], density: float, par: Floats, fan_here: bool = True) -> tuple[float, float]:
    """A and B of elements in series (the plain way into the kernel, for one link)."""
    pairs = [element_ab(e.code, e.x, e.y, density, par, fan_here) for e in elements]
    return sum(a for a, _ in pairs), sum(b for _, b in pairs)
