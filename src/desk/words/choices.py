"""What may be chosen, in words, by the model and field of the job document that holds the choice. A test compares the values."""

from collections.abc import Mapping

Words = Mapping[str, str]

CHOICES: Mapping[str, Words] = {
    "room.listener_side": {"front": "in front", "window": "at the window side", "rear": "behind", "above": "above"},
    "room.kind": {"room": "an ordinary room", "chamber": "a climate chamber"},
    "case.kind": {"case": "a case", "open_bench": "an open bench: no walls, the zero line"},
    "case.window_side": {"left": "at the left", "right": "at the right"},
    "case.card_chamber": {"shared": "shared with the board", "separate": "behind its own wall"},
    "case.backplate": {
        "unknown": "not looked at yet",
        "reachable": "through a cut-out",
        "board_out": "only with the board out",
    },
    "block.kind": {
        "cage": "drive cage",
        "plate": "plate",
        "bundle": "cable bundle",
        "block_off": "block-off plate",
        "structure": "structure beside a mount",
        "other": "something else",
    },
    "panel.kind": {"mesh": "mesh", "slots": "closed, air through slots at its edge", "solid": "closed", "glass": "glass"},
    "panel.filter": {"none": "none", "coarse": "coarse", "fine": "fine"},
    "panel_state.state": {"fitted": "fitted", "removed": "off", "stood_off": "stood off", "angled": "at an angle"},
    "dimension.source": {"data_sheet": "from the sheet", "measured": "measured", "guessed": "a guess"},
    "cooler.kind": {"tower": "tower", "downdraft": "downdraft", "sealed": "sealed", "open_loop": "open loop"},
    "curve.source": {
        "cpu": "the processor",
        "card": "the card",
        "hotter": "the hotter of both",
        "coolant": "the coolant",
        "board": "the air over the board",
        "case_air": "the air at the rear",
    },
    "header.kind": {"fan": "fan", "pump": "pump, constant", "hub": "hub"},
    "header.modes": {"4pin": "4-pin", "3pin": "3-pin"},
    "loop.heat": {"cpu": "processor", "card": "card"},
    "radiator_place.tubes": {"rear": "to the rear", "front": "to the front", "top": "at the top", "bottom": "at the bottom"},
    "layout.cooler_direction": {
        "rear": "to the rear",
        "up": "up",
        "front": "to the front",
        "toward": "toward the board",
        "away": "away from the board",
    },
    "layout.cooler_fan_side": {"above": "above its fins", "below": "below its fins"},
    "layout.card_orientation": {"flat": "flat", "upright": "upright, fans to the window"},
    "practice.loop_heights": {
        "practical": "practical: a note where noise is the risk",
        "strict": "strict: every doubtful place is a warning",
    },
    "protocol.end": {"settled": "when settled", "fixed": "at its time"},
    "protocol.room": {"logged": "room logged", "both_ends": "read at both ends"},
    "limit.act": {"stop": "stop", "alarm": "alarm"},
}
# Ways of a tower's air, and of a downdraft cooler's: two halves of one field.
TOWER_WAYS, DOWNDRAFT_WAYS = ("rear", "up", "front"), ("toward", "away")
FACES: Words = {"front": "the front", "top": "the top", "rear": "the rear", "bottom": "the bottom", "window": "the window side"}
SEVERITIES: Words = {"error": "error", "warning": "warning", "note": "note"}
FINDING_KINDS: Words = {"physics": "physics", "practice": "practice", "taste": "taste"}
FIT: Words = {"fits": "fits", "touches": "touches", "does_not_fit": "does not fit"}
HEADROOM: Words = {"carries": "", "near": "nearly full", "overloaded": "too much", "not_known": "not known"}
DESIGNS: Mapping[str, tuple[str, str]] = {
    "one_at_a_time": ("one change at a time", "What does each change do by itself?"),
    "factorial": ("all combinations", "What does each change do, and do they act on each other?"),
    "ladder": ("ladder", "What does each further one add?"),
    "grid": ("grid of ways, panels and speeds", "How does it look over the whole range?"),
    "before_after": ("before and after", "Did it help? As it stands, changed, and as it stood again."),
    "bundle": ("take a bundle apart", "Several things differ at once: which of them matters?"),
}
LIKES: Mapping[str, tuple[str, str]] = {
    "tower": ("a tower", "full board, supply under a shroud"),
    "compact": ("a small tower", "small board, no shroud"),
    "cube": ("a cube", "wide, full board, no shroud"),
    "sandwich": ("a sandwich", "card behind the board, in its own chamber"),
    "flat": ("a flat one", "low and wide, lies on the desk or stands"),
}
ORDERS: Words = {"random": "shuffled", "there_and_back": "there and back", "as_listed": "as lettered"}
SHEET_ORDERS: Words = {
    "least": "least time between runs",
    "blocked": "round by round",
    "shuffled": "shuffled",
    "listed": "as it stands",
}
REBUILD_KINDS: Words = {
    "move": "a fan moved",
    "take_out": "a fan taken out",
    "put": "a fan put in",
    "flip": "a fan turned",
    "swap": "another fan",
    "radiator": "the radiator moved",
    "cooler": "the cooler changed",
    "card": "the card changed",
    "panel": "a panel",
    "plug": "a lead",
    "speed": "a speed set",
    "setting": "a setting",
    "other": "anything else",
}
TRADES: Words = {
    "radiator": "speed against radiator",
    "fans": "speed against the number of fans",
    "size": "speed against the kind of fan",
}
LESSONS: Words = {"learned": "as your runs have taught", "sheets": "from sheets alone"}
FAN_PILES: Words = {"hand": "fans on hand", "library": "fans to buy as well"}
RUN_KINDS: Words = {
    "first": "for the first time",
    "uncounted": "again: none of its runs counts",
    "repeat": "once more",
    "control": "the control once more",
}
FACTORS: Words = {
    "flip": "flip the fan at",
    "fan": "a fan more or less at",
    "unplug": "unplug the fan at",
    "panel": "panel off:",
    "speed": "case fans at, %",
    "ways": "in or out at",
    "card_turned": "turn the card",
    "cooler_turned": "turn the cooler to",
}
SHAPES: Words = {
    "step": "full from the start",
    "burst": "bursts: 2 in every 10 min",
    "game": "game-like: card full, processor in waves",
    "gaps": "full, with idle gaps",
}
MISHAPS: Words = {
    "none": "nothing goes wrong",
    "fan_stops": "a fan stops half-way",
    "filter_clogs": "filters clog half-way",
    "pump_slows": "the pump slows to 40 % half-way",
    "room_warms": "the room warms by 5 K half-way",
}
FORECAST_CHANNELS: Words = {"cpu": "processor", "card": "card", "coolant": "coolant", "air_rear": "air at the rear"}
SPACE_ROWS: Words = {"up": "above the card", "low": "below the card", "basement": "basement"}
SPACE_COLUMNS: Words = {"front": "front", "mid": "middle", "rear": "rear", "side": "along the window"}
LOOP_LIES: Words = {"flat": "flat", "upright": "upright", "on_edge": "on edge"}
LOOP_ENDS: Words = {"top": "upper end", "bottom": "lower end", "rear": "rear end", "front": "front end"}
LOOP_AIR: Words = {
    "radiator": "in the radiator's upper part, where it does no harm",
    "pump": "in the pump: loud, and it wears it",
    "block": "at the block, above the pump",
    "reservoir": "in the reservoir, where it belongs",
}
NAMED: Words = {"panel": "What a panel costs", "push_pull": "Both faces of the radiator", "filter": "What a filter costs"}
AREAS: Words = {
    "name": "its name",
    "note": "the note",
    "room": "the room",
    "case": "the case",
    "parts": "the parts",
    "base": "what all layouts share",
    "curves": "the curves",
    "stock": "the stock",
    "priorities": "what matters",
    "points": "the points",
    "scenarios": "what may come later",
    "ideas": "the ideas",
    "practice": "the positions taken",
    "protocols": "the protocols",
    "plan": "the plan",
    "expected": "the check numbers",
}
PHOTO_READINGS: Words = {
    "limits_mm.card_length": "longest card",
    "limits_mm.memory_to_top": "memory to the top mounts",
    "card_height_mm": "middle of the card, over the floor",
    "inner_mm.height": "height inside",
    "board_depth_mm": "board, from the rear wall",
}
# What a question starts from where nothing was said; common practice, no source.
USUAL: Mapping[str, float | list[float] | Mapping[str, float | str | bool]] = {
    # What a search is asked where nothing else is said: desk.search.question, held to it by a test.
    "find": {
        "fans": "hand",
        "move_radiator": True,
        "swap_cooler": True,
        "turn_cooler": True,
        "turn_card": False,
        "one_fan_may_stop": False,
        "speeds": "sides",
    },
    "fan_sizes_mm": [80, 92, 120, 140, 180, 200],
    "worst_room_c": 32,
    "own_load_pct": {"cpu": 60, "card": 100},
    "time_minutes": 60,
    "quiet_dba": 35,
    "wall_fan_mm": 120,
}
