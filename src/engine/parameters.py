"""Parameters of the model: one value each for every case, its prior, where it comes from.

Unlike ``constants`` these are uncertain: the bands of a forecast come from their priors, calibration moves them, and the
checks shake them. The engine's kernels read them from one vector in the order of ``PARAMETERS``.

origin: H handbook, M typical value from memory, T fitted to facts of the trade (docs/model.md says on which half).
``spread`` is the one-sigma factor of a log-normal prior: 1.2 means that 68 % of cases lie within value / 1.2 and value * 1.2.
Values were fitted once, all together, by ``tools/study/fit.py``, held back by the priors; handbook figures stay as they are.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Parameter:
    """A figure of the model: ``value`` in use, ``prior`` as stated before any fit. ``source`` is a key of ``engine.sources``."""

    name: str
    value: float
    prior: float
    spread: float
    origin: Literal["H", "M", "T"]
    source: str
    meaning: str


def _p(name: str, value: float, prior: float, spread: float, origin: Literal["H", "M", "T"], source: str, meaning: str) -> Parameter:
    return Parameter(name, value, prior, spread, origin, source, meaning)


PARAMETERS: tuple[Parameter, ...] = (
    _p("discharge_coefficient", 0.65, 0.65, 1.05, "H", "idelchik", "sharp-edged opening"),
    _p("turn_loss_k", 1.2, 1.2, 1.15, "H", "idelchik", "loss of one right-angle turn, on the velocity head in the slot"),
    _p("guard_loss_k", 0.533, 0.6, 1.3, "M", "memory", "guard and hub wake of a fan, on the velocity head in the hole"),
    _p("near_panel_k", 2.98, 2.0, 1.5, "T", "trade", "inlet area lost behind a closed panel just before a fan, on the head in the hole"),
    _p("installed_fan", 0.951, 0.95, 1.08, "T", "trade", "speed an installed fan is worth, over its sheet"),
    _p("empty_mount_open", 0.24, 0.25, 1.3, "T", "trade", "share of its face an empty mount leaves open"),
    _p("mesh_spread", 1.22, 1.5, 1.2, "T", "trade", "area of mesh a fan draws through, over its own face"),
    _p("coarse_filter_linear_pa", 1.25, 1.0, 1.3, "M", "memory", "coarse filter, Pa per m/s"),
    _p("coarse_filter_square_pa", 0.865, 0.8, 1.3, "M", "memory", "coarse filter, Pa per (m/s)2"),
    _p("fine_filter_linear_pa", 2.08, 2.5, 1.3, "M", "memory", "fine filter, Pa per m/s"),
    _p("fine_filter_square_pa", 1.43, 1.5, 1.3, "M", "memory", "fine filter, Pa per (m/s)2"),
    _p("radiator_linear_pa", 7.25, 6.8, 1.2, "M", "memory", "27 mm of radiator fins, Pa per m/s"),
    _p("radiator_square_pa", 2.97, 3.0, 1.2, "M", "memory", "27 mm of radiator fins, Pa per (m/s)2"),
    _p("radiator_ua_w_k", 9.89, 10.6, 1.2, "T", "trade", "conductance of a 120 mm section of 27 mm at 50 m3/h"),
    _p("frame_leak_cm2", 8.88, 8.0, 1.4, "T", "trade", "leak past fan frames behind a closed panel, per row"),
    _p("seam_leak_cm2", 12.3, 12.0, 1.25, "T", "trade", "each of five seams"),
    _p("interior_free", 0.677, 0.6, 1.2, "M", "memory", "share of a cross-section that cables and parts leave open"),
    _p("card_up_cm2", 50.1, 69.0, 1.3, "T", "trade", "outlet of an open card towards the processor, at 280 mm"),
    _p("card_low_cm2", 13.7, 17.0, 1.4, "T", "trade", "outlet of an open card back below itself, at 280 mm"),
    _p("card_bracket_cm2", 23.6, 12.0, 1.25, "T", "trade", "outlet of an open card through its bracket"),
    _p("upright_resistance", 1.55, 1.35, 1.15, "T", "trade", "resistance of a card's inlet near the window, over lying flat"),
    _p("interior_exchange_m_s", 0.081, 0.09, 1.3, "T", "trade", "turbulent exchange on an opening between spaces"),
    _p("open_exchange_m_s", 0.18, 0.18, 1.4, "T", "trade", "exchange of an open face with the room"),
    _p("wall_loss_w_m2k", 6.97, 5.0, 1.2, "T", "incropera", "walls: an inner and an outer film in series, 10 to 14 W/m2K each"),
    _p("card_fixed_share", 0.475, 0.45, 1.15, "T", "trade", "share of a card's resistance that flow does not change"),
    _p("breathing_share", 0.34, 0.34, 1.25, "T", "trade", "opposed layers exchange this share of the fan's free flow"),
    _p("jet_eta", 0.753, 0.6, 1.3, "T", "trade", "momentum of a front intake that reaches the next opening"),
    _p("card_stirring", 1.5, 1.7, 1.25, "T", "trade", "exchange past the card over what it blows up"),
    _p("jet_entrainment", 0.618, 0.65, 1.25, "T", "abramovich", "exchange front/mid over the front intakes' flow"),
    _p("top_stirring", 1.78, 1.8, 1.3, "T", "trade", "exchange past the card over the top intakes' flow"),
    _p("cross_flow_weight", 1.41, 1.5, 1.3, "T", "trade", "rising against crossing air above the card"),
    _p("plume_sweep", 0.618, 0.6, 1.25, "T", "trade", "share of the card's rising air that a crossing jet carries past the cooler"),
    _p("plume_capture", 0.691, 0.7, 1.2, "T", "trade", "share of the cooler's inlet that is card air where rising air wins"),
    _p("plume_limit", 0.65, 0.65, 1.12, "T", "trade", "most of the cooler's inlet that can be card air"),
    _p("top_capture", 0.232, 0.25, 1.3, "T", "trade", "share of a top exhaust's air that is card air"),
    _p("jet_to_cooler", 0.396, 0.5, 1.3, "T", "abramovich", "share of a jet aimed at the cooler that arrives unmixed, at no distance"),
    _p("jet_to_card", 0.519, 0.5, 1.3, "T", "trade", "share of a jet below the card that goes straight into it, at no distance"),
    _p("short_circuit", 0.493, 0.5, 1.4, "T", "trade", "share of an opening's air that a neighbouring exhaust takes, rim to rim"),
    _p("outlet_to_exhaust", 0.333, 0.4, 1.3, "T", "trade", "share of the cooler's outlet that an exhaust behind it takes unmixed"),
    _p(
        "plume_push_back",
        0.505,
        0.5,
        1.4,
        "T",
        "trade",
        "share of the card's inlet that is its own air where a top intake outblows its plume",
    ),
    _p("cpu_path", 1.0, 1.0, 1.15, "M", "memory", "factor on the resistances from the processor's core to its cooler"),
    _p("card_path", 1.0, 1.0, 1.12, "M", "memory", "factor on the card's resistance from core to inlet air"),
    _p("cooler_ua", 1.0, 1.0, 1.15, "M", "memory", "factor on the conductance of the cooler's fins or radiator"),
    _p(
        "downdraft_recirculation", 0.707, 0.5, 1.3, "T", "trade", "share of a downdraft's inlet that has just passed its fins, in still air"
    ),
    _p("tower_recirculation", 0.216, 0.2, 1.3, "T", "trade", "share of a tower's inlet that has just passed its fins, in still air"),
    _p("drawn_fins_ua", 0.766, 0.75, 1.08, "T", "trade", "conductance of fins that air is drawn through, over fins it is blown at"),
)
INDEX: Mapping[str, int] = {p.name: i for i, p in enumerate(PARAMETERS)}
COUNT = len(PARAMETERS)


def vector(changes: Mapping[str, float] | None = None) -> Floats:
    """Values in the order of ``PARAMETERS``; ``changes`` replaces some by name. Raises KeyError for an unknown name."""
    values = np.array([p.value for p in PARAMETERS])
    for name, value in (changes or {}).items():
        values[INDEX[name]] = value
    return values


DEFAULT = vector()
DEFAULT.setflags(write=False)
SPREADS = np.array([p.spread for p in PARAMETERS])
