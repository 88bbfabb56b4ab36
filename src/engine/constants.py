"""Constants and parameters of the model: value, unit in the name, source key beside it.

H = handbook, M = typical value from memory, T = fitted to facts of the trade (see docs/model.md).
"""

GRAVITY_M_S2 = 9.80665  # H: conventional value
AIR_HEAT_CAPACITY_J_KGK = 1007.0  # H: incropera, table A.4 at 300 K

DISCHARGE_COEFFICIENT = 0.65  # H: idelchik, sharp-edged opening
TURN_LOSS_K = 1.2  # H: idelchik, mitre bend of 90 degrees
FAN_GUARD_LOSS_K = 0.6  # M
LAMINAR_PRESSURE_PA = 0.02  # physics of thin gaps near zero flow; regularises every link

FAN_CURVE_LINEAR_SHARE = 0.62  # M, T: c1 in p = p0 (1 - c1 x - (1 - c1) x|x|)
INSTALLED_FAN_FACTOR = 0.95  # T: an installed fan reaches a little less than its sheet
EMPTY_MOUNT_OPEN_SHARE = 0.25  # T: share of its face an empty mount leaves open
MESH_SPREAD = 1.5  # T: area of mesh a fan draws through, over its own face
FAN_STRADDLE = 1.25  # M: the jet of a front fan spreads over this many times its size

PANEL_FRAME_LEAK_CM2 = 8.0  # T: leak past fan frames of a slotted panel, per row
CLOSED_PANEL_GAP_CM2 = 2.0  # stated default of the job document for solid and glass
SEAM_LEAK_CM2 = 12.0  # T: each of five seams
CARD_BLOCK_SHARE = {"flat": 0.64, "upright": 0.22}  # M: share of the width a card closes between the rows
CARD_OUTLET_CM2 = {"open": (69.0, 17.0, 12.0), "blower": (3.0, 2.0, 40.0)}  # T: up, low, bracket at 280 mm
CARD_REFERENCE_LENGTH_MM = 280.0
UPRIGHT_CARD_RESISTANCE = 1.35  # T
INTERIOR_FREE_SHARE = 0.6  # M: share of a cross-section that boards, cables and supply leave open
INTERIOR_EXCHANGE_M_S = 0.09  # T: turbulent exchange on an opening between spaces
WALL_LOSS_W_M2K = 5.0  # H: two films of 10 W/m2K in series

FILTER_PA = {"none": (0.0, 0.0), "coarse": (1.0, 0.8), "fine": (2.5, 1.5)}  # M, T: a v + b v^2, v in m/s
RADIATOR_PA = (6.8, 3.0)  # M, T: 27 mm of fins, a v + b v^2
RADIATOR_REFERENCE_MM = 27.0
RADIATOR_UA_W_K = 10.6  # T: per 120 mm section at 50 m3/h (factor 1.2)
RADIATOR_REFERENCE_M3H = 50.0
RADIATOR_FLOW_EXPONENT = 0.45
RADIATOR_THICKNESS_EXPONENT = 0.7
TOWER_FLOW_EXPONENT = 0.5
CARD_FIXED_SHARE = 0.45  # T: share of the card's resistance that does not depend on flow
CARD_FLOW_EXPONENT = 0.6
LEAST_FLOW_SHARE = 0.03  # a heat source never sees less than this share of its reference flow (free convection)
BREATHING_SHARE = 0.34  # T: opposed layers exchange this share of the fan's free flow
FRESH_BREATH_SHARE = 0.5  # M: of that, the share that is not the air just breathed out

JET_ETA = 0.6  # T
CARD_STIRRING = 1.2  # T: exchange below/above the card over the card's flow
JET_ENTRAINMENT = 0.65  # T: abramovich gives the form
TOP_INTAKE_STIRRING = 1.8  # T
CROSS_FLOW_WEIGHT = 1.5  # T
PLUME_SWEEP = 0.6  # T
PLUME_CAPTURE = 0.7  # T
PLUME_CAPTURE_LIMIT = 0.6  # T
TOP_CAPTURE = 0.25  # T
BOTTOM_CAPTURE = 0.5  # T

IDLE_POWER_SHARE = {"cpu": 0.15, "card": 0.10}  # M: power with nothing to do, over power under load

SPEED_LEVEL_EXPONENT_DB = 50.0  # H: fan sound power ~ speed^5
FACE_WEIGHT_DB = {  # T: for a listener in front, near a desk
    "top": 1.5,
    "window": 1.0,
    "front": 0.0,
    "rear": -3.0,
    "bottom": -3.0,
    "inside": -4.0,
}
PANEL_LOSS_DB = {"mesh": 1.0, "slots": 4.0, "solid": 6.0, "glass": 6.0, "none": 0.0}  # M
PUMP_LEVEL_DBA = 22.0  # M: a sealed cooler's pump at 1 m, full speed

ZONE_CAPACITY_J_K = 250.0  # M
STRUCTURE_CAPACITY_J_M2K = 4200.0  # M
COOLANT_CAPACITY_J_K = 1600.0  # M: loop of 100 ml and its radiator
COOLANT_EXTRA_J_MLK = 3.7  # H: water-glycol, per millilitre beyond 100 ml

BAND_MODEL_K = 1.5  # T: model error of a difference, one sigma
BAND_DIFFERENCE_SHARE = 0.4  # T: grows with the difference
BAND_ABSOLUTE_SHARE = 0.14  # T: about 7 K at a rise of 50 K, mostly the parts' own resistances
BAND_SOUND_DB = 2.0  # T
COVERAGE_FACTOR = 2.0  # 95 % half-width from one sigma
