"""Between what a person is asked for a figure: narrower than what a document may hold, so that a slip is said while it is typed.

Keys are places in the job document, ``*`` for any row or name; in metric units. Common practice, no source.
"""

from collections.abc import Mapping

Range = tuple[float, float]

WITHIN: Mapping[str, Range] = {
    "case.inner_mm.depth": (50, 1500),
    "case.inner_mm.height": (50, 1500),
    "case.inner_mm.width": (50, 1500),
    "case.board_depth_mm": (100, 500),
    "case.card_height_mm": (10, 1500),
    "case.card_side_mm": (20, 1350),
    "case.limits_mm.card_length": (50, 1000),
    "case.limits_mm.card_width": (50, 400),
    "case.limits_mm.card_slots": (0.5, 8),
    "case.limits_mm.cooler_height": (20, 400),
    "case.limits_mm.memory_to_top": (5, 300),
    "case.limits_mm.supply_length": (50, 400),
    "case.shroud.height_mm": (20, 300),
    "case.shroud.top_open_cm2": (0, 2000),
    "case.shroud.front_cut_cm2": (0, 2000),
    "case.shroud.vent_cm2": (0, 2000),
    "case.supply.loss_w": (0, 400),
    "case.blocks.*.free_pct": (0, 100),
    "case.vents.*.area_cm2": (1, 4000),
    "case.slot_cover_open_cm2": (0, 500),
    "case.panels.*.open_area_pct": (1, 100),
    "case.panels.*.gap_area_cm2": (1, 3000),
    "case.mounts.*.depth_mm": (0, 400),
    "case.mounts.*.grille_open_pct": (5, 100),
    "case.mounts.*.opening_mm": (10, 300),
    "case.photo.apart_mm": (50, 1500),
    "room.temperature_c": (-10, 55),
    "room.worst_temperature_c": (-10, 55),
    "room.background_dba": (0, 80),
    "room.sound_limit_dba": (10, 90),
    "room.listener_distance_m": (0.2, 10),
    "practice.pressure_low_m3h": (-300, 300),
    "practice.pressure_high_m3h": (-300, 400),
    "practice.margin_k": (0.2, 10),
    "scenarios.*.cpu_add_w": (0, 600),
    "scenarios.*.card_add_w": (0, 900),
    "parts.board_power_w": (0, 500),
    "parts.boards.*.headers.*.limit_a": (0.05, 20),
    "layouts.*.labour_min": (0, 6000),
    "layouts.*.cooler_fan_lift_mm": (0, 60),
    "layouts.*.radiator.gap_mm": (0, 60),
    "layouts.*.loops.*.radiators.*.gap_mm": (0, 60),
    "layouts.*.wiring.*.extension_mm": (0, 2000),
    "layouts.*.panels.*.stand_off_mm": (1, 200),
    "layouts.*.panels.*.angle_deg": (1, 80),
    "layouts.*.panels.*.blocked_pct": (0, 99),
    "protocols.*.minutes": (1, 1440),
    "protocols.*.cool_down_k": (0, 60),
    "protocols.*.purge_minutes": (0, 240),
    "protocols.*.least_minutes": (0, 1440),
    "protocols.*.microphone_m": (0.05, 20),
    "protocols.*.limits.*.value": (-50, 20000),
    "protocols.*.criteria.*.most_k": (0, 150),
    "protocols.*.criteria.*.steady_k_min": (0, 5),
}
POINT_MM: Range = (0, 1500)  # any of the three places of a point inside the case
# Places that are a bare number in a row, without a field of their own.
ROWS: Mapping[str, Range] = {"stock.fans.*": (0, 999), "curves.*.points.*.0": (-20, 120), "curves.*.points.*.1": (0, 100)}
# Figures that stand in no job document: of a run, a forecast or a stand-in.
ASKED: Mapping[str, Range] = {
    "run.room_c": (-20, 60),
    "run.minutes": (1, 1440),
    "run.background_dba": (0, 120),
    "run.window_s": (30, 7200),
    "run.microphone_m": (0.05, 20),
    "standin.minutes": (2, 240),
    "standin.seed": (0, 1e9),
    "standin.fault_at": (0, 240),
    "ask.load_pct": (0, 100),
    "ask.worst_c": (-20, 60),
    "ask.minutes": (5, 480),
    "ask.quiet_dba": (15, 80),
    "ask.rpm": (0, 10000),
    "ask.level_dba": (10, 90),
    "ask.case_mm": (50, 1500),
}
