"""Physical constants and fixed figures of the model: value, unit in the name, source key beside it.

H = handbook, M = typical value from memory, T = fitted to facts of the trade (see docs/model.md). What is uncertain and
is fitted, shaken or calibrated stands in ``parameters`` instead.
"""

GRAVITY_M_S2 = 9.80665  # H: conventional value
STANDARD_DENSITY_KG_M3 = 1.2  # H: iso5801, standard air, for which sheets of fans, filters and fins hold (from memory)
AIR_HEAT_CAPACITY_J_KGK = 1007.0  # H: incropera, table A.4 at 300 K
LAMINAR_PRESSURE_PA = 0.02  # physics of thin gaps near zero flow; regularises every link

FAN_CURVE_LINEAR_SHARE = 0.62  # M, T: c1 in p = p0 (1 - c1 x - (1 - c1) x|x|)
FAN_STRADDLE = 1.25  # M: the jet of a front fan spreads over this many times its size
CLOSED_PANEL_GAP_CM2 = 2.0  # stated default of the job document for solid and glass
CARD_BLOCK_SHARE = {"flat": 0.64, "upright": 0.22}  # M: share of the width a card closes between the rows
BLOWER_OUTLET_CM2 = (3.0, 2.0, 40.0)  # M: up, low, bracket at 280 mm
CARD_REFERENCE_LENGTH_MM = 280.0  # a usual length, from memory; others are scaled from it
CARD_UP_SIDE_SHARE = 0.5  # M: of what a card blows up, the share that leaves past its edge towards the window
LANE_LEAST_MM = 35.0  # M: a lane beside the card narrower than this is no space of its own
TOWER_HALF_DEPTH_MM = 70.0  # M
OUTLET_BEYOND = 0.3  # M: a tower's outlet is felt this many sizes of its fan further on
PROCESSOR_TOP_MM = 17.0  # M: over the board tray: standoffs, board, socket, processor
COOLER_FAN_MM = 92.0  # M: of a low cooler whose fan is not named
FIN_FOOT_MM = 10.0  # M: of a cooler's height, its base and the pipes under the fins
TALL_FINS_MM = 35.0  # M: fins this tall or more lose by drawing what the parameter says; lower ones more, in proportion
MOST_DRAWN = 2.5  # M
INTO_SLIT = 0.4  # H: idelchik: loss of air drawn into a slit with rounded edges, over that of air that leaves one
RIM_RETURN = 0.25  # M: of a downdraft's own outlet that comes back round its rim, the share it draws in as directly as its intake does
OPEN_PLENUM_M2 = 4e-4  # M: what is left open beside a mount on a plenum

RADIATOR_REFERENCE_MM = 27.0  # the usual thickness, from memory
RADIATOR_REFERENCE_M3H = 50.0  # a flow at which sheets are given, from memory
RADIATOR_SECTION_CM2 = 144.0  # a 120 mm section, to which the reference conductance belongs
RADIATOR_FLOW_EXPONENT = 0.45  # M: louvred fins
RADIATOR_THICKNESS_EXPONENT = 0.7  # M
TOWER_FLOW_EXPONENT = 0.5  # H: incropera, laminar flow between plates
CARD_FLOW_EXPONENT = 0.6  # M
LEAST_FLOW_SHARE = 0.03  # a heat source never sees less than this share of its reference flow (free convection)
CARD_BLOCK_K_W = 0.06  # M: stated default: core over coolant per watt of a card under a block
PUMP_STILL_SHARE = 0.7  # M: the coolant's side matters little above half of the pump's speed
STILL_FINS_W_K = 0.1  # M: what fins give to still air on either side of them
FRESH_BREATH_SHARE = 0.5  # M: of a breathing flow, the share that is not the air just breathed out
JET_GROWTH = 0.2  # H: abramovich: a jet of width D has taken in this share of its own flow per D travelled
JET_REACH_SIZES = 1.9  # M: centres of two openings farther apart than this many sizes do not feed each other

BOARD_HEAT_SHARES = (("up_mid", 0.5), ("up_rear", 0.2), ("low_mid", 0.2), ("low_rear", 0.1))  # M
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
OBSTRUCTION_DB = {"grille": 1.0, "closed panel": 1.5, "radiator": 1.0}  # M: turbulence into or out of the blades
PUMP_LEVEL_DBA = 22.0  # M: a sealed cooler's pump at 1 m, full speed

ZONE_CAPACITY_J_K = 250.0  # M
STRUCTURE_CAPACITY_J_M2K = 4200.0  # M
COOLANT_CAPACITY_J_K = 1600.0  # M: loop of 100 ml and its radiator
COOLANT_EXTRA_J_MLK = 3.7  # H: water-glycol, per millilitre beyond 100 ml

BAND_MODEL_K = 1.3  # T: model error of a difference, one sigma
BAND_DIFFERENCE_SHARE = 0.35  # T: grows with the difference
BAND_ABSOLUTE_SHARE = 0.07  # T: model error of an absolute rise
BAND_SOUND_DB = 2.0  # T
COVERAGE_FACTOR = 2.0  # 95 % half-width from one sigma
