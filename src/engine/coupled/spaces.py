"""The spaces of a case: three columns by two or three rows, and which of them a mount or vent opens on.

Columns front, mid, rear; rows basement (under a shroud), low (below the card), up (above it). Where the card or the
cooler leaves a lane free along the window, the mid column is split in two: mid on the board's side, side on the window's.
"""

from dataclasses import dataclass
from functools import cached_property

from engine import constants as k
from engine.machine import FACES, AirCooler, Face, Machine, Mount, Point

COLUMNS = ("front", "mid", "rear")
SIDE = "side"
REAR_COLUMN_MM = 95.0  # M: the rear column is no deeper
LEAST_SHARE = 0.003  # of an opening: less of it in a space is left out; so small that nothing jumps when it comes in
LEAST_COLUMN_SHARE = 0.12  # numerical: no column thinner than a fan draws from
LEAST_REAR_SHARE = 0.01  # under a board of no depth the rear column still has room
LEAST_ROW_SHARE = 0.12  # numerical, likewise


def _lane_mm(machine: Machine) -> float:
    """Width of the lane between card or cooler and window; none in flat cases and before a downdraft cooler's own gap."""
    downdraft = isinstance(machine.cooler, AirCooler) and machine.cooler.kind == "downdraft"
    lane = (1 - k.CARD_BLOCK_SHARE["flat"]) * machine.width_mm
    return 0.0 if machine.separate_card_chamber or downdraft or lane < k.LANE_LEAST_MM else lane


def _share(low: float, high: float, start: float, end: float) -> float:
    """Share of the stretch start..end that lies within low..high."""
    return max(0.0, min(high, end) - max(low, start)) / (end - start) if end > start else 0.0


@dataclass(frozen=True)
class Spaces:
    """Limits in mm of the columns (x) and rows (z) of one case."""

    x_mm: tuple[float, float, float, float]
    z_mm: dict[str, tuple[float, float]]
    width_mm: float
    lane_mm: float = 0.0  # width of the lane along the window in the mid column; 0 where there is none
    tray_mm: float = 0.0  # chambers side by side: the card's (row low) lies at y up to here, the board's (row up) beyond it

    @classmethod
    def of(cls, machine: Machine) -> "Spaces":
        depth, height = machine.depth_mm, machine.height_mm
        start, end = machine.front_back.mean_mm, depth - machine.rear_back.mean_mm
        least = LEAST_COLUMN_SHARE * (end - start)
        rear_mm = min(REAR_COLUMN_MM, max(machine.board_depth_mm / 2, LEAST_REAR_SHARE * depth), end - start - 2 * least)
        first = min(max(depth - machine.board_depth_mm, start + least), end - rear_mm - least)
        floor = min(machine.shroud.height_mm, height * (1 - 2 * LEAST_ROW_SHARE)) if machine.shroud else 0.0
        tray = machine.card_side_mm if machine.separate_card_chamber else 0.0
        border = floor + (height - floor) * tray / machine.width_mm if tray else machine.card_height_mm  # side by side: of equal volume
        card = min(max(border, floor + LEAST_ROW_SHARE * height), height * (1 - LEAST_ROW_SHARE))
        rows = {"basement": (0.0, floor)} if machine.shroud else {}
        rows |= {"low": (floor, card), "up": (card, height)}
        return cls((start, first, end - rear_mm, end), rows, machine.width_mm, _lane_mm(machine), tray)

    @cached_property
    def ids(self) -> tuple[str, ...]:
        lanes = ("low_side", "up_side") if self.lane_mm else ()
        return (*(f"{row}_{column}" for row in self.z_mm for column in COLUMNS), *lanes)

    def lane_share(self, row: str, column: str) -> float:
        """Share of a column's width that is the lane's."""
        return self.lane_mm / self.width_mm if column == "mid" and row != "basement" else 0.0

    def _split(self, parts: dict[str, float], y_from_mm: float, y_to_mm: float) -> dict[str, float]:
        """Parts that look into the mid column, shared between the board's side and the lane by their y."""
        if not self.lane_mm:
            return parts
        lane = _share(self.width_mm - self.lane_mm, self.width_mm, max(y_from_mm, 0.0), min(y_to_mm, self.width_mm))
        found: dict[str, float] = {}
        for space, share in parts.items():
            row, column = space.split("_")
            if column != "mid" or row == "basement":
                found[space] = share
                continue
            for name, part in ((space, 1 - lane), (f"{row}_{SIDE}", lane)):
                if part > LEAST_SHARE:
                    found[name] = share * part
        return found

    def centre_mm(self, space: str) -> Point:
        x_from, x_to, low, high = self.limits_mm(space)
        y = self.width_mm - self.lane_mm / 2 if space.endswith(SIDE) else (self.width_mm - self.lane_mm) / 2
        return Point((x_from + x_to) / 2, y, (low + high) / 2)

    def limits_mm(self, space: str) -> tuple[float, float, float, float]:
        """x from, x to, z from, z to."""
        row, column = space.split("_")
        index = COLUMNS.index("mid" if column == SIDE else column)
        return (self.x_mm[index], self.x_mm[index + 1], *self.z_mm[row])

    def length_mm(self, column: str) -> float:
        index = COLUMNS.index(column)
        return self.x_mm[index + 1] - self.x_mm[index]

    def height_mm(self, row: str) -> float:
        low, high = self.z_mm[row]
        return high - low

    def volume_m3(self, space: str) -> float:
        """Volume of a space, parts in it not taken off."""
        x_from, x_to, low, high = self.limits_mm(space)
        row, column = space.split("_")
        lane = self.lane_mm if row != "basement" else 0.0
        width = lane if column == SIDE else self.width_mm - lane if column == "mid" else self.width_mm
        return (x_to - x_from) * (high - low) * width * 1e-9

    def columns_over(self, start_mm: float, end_mm: float) -> dict[str, float]:
        """Share of an x stretch in each column; a stretch outside the case counts to the nearest column."""
        start, end = max(start_mm, self.x_mm[0]), min(end_mm, self.x_mm[3])
        if end <= start:
            return {COLUMNS[0] if end_mm <= self.x_mm[0] else COLUMNS[2]: 1.0}
        shares = {c: _share(self.x_mm[i], self.x_mm[i + 1], start, end) for i, c in enumerate(COLUMNS)}
        return {column: share for column, share in shares.items() if share > LEAST_SHARE}

    def rows_over(self, start_mm: float, end_mm: float) -> dict[str, float]:
        """Share of a z stretch in each row."""
        top = self.z_mm["up"][1]
        start, end = max(start_mm, 0.0), min(end_mm, top)
        if end <= start:
            return {"up" if start_mm >= top else next(iter(self.z_mm)): 1.0}
        shares = {row: _share(low, high, start, end) for row, (low, high) in self.z_mm.items()}
        return {row: share for row, share in shares.items() if share > LEAST_SHARE}

    def _chambers_over(self, y_from_mm: float, y_to_mm: float) -> dict[str, float]:
        """Share of a stretch across the width in each of two chambers side by side."""
        low = _share(0.0, self.tray_mm, max(y_from_mm, 0.0), min(y_to_mm, self.width_mm))
        return {row: share for row, share in (("low", low), ("up", 1 - low)) if share > LEAST_SHARE}

    def behind(self, face: Face, centre: Point, size_mm: float) -> dict[str, float]:
        """Spaces that an opening of ``size_mm`` in a face looks into, with shares that add up to 1."""
        half = size_mm / 2
        if face == "window":
            across = (self.width_mm - self.lane_mm, self.width_mm) if self.lane_mm else (0.0, self.width_mm)
        else:
            across = (centre.y - half, centre.y + half)
        along_x = self.columns_over(centre.x - half, centre.x + half)
        along_z = self.rows_over(centre.z - half, centre.z + half)
        top, bottom = {"up": 1.0}, {next(iter(self.z_mm)): 1.0}
        if self.tray_mm:
            along_z = {"up": 1.0} if face == "window" else self._chambers_over(*across)
            top = along_z
            bottom = bottom if "basement" in self.z_mm else along_z
        if face == "front":
            parts = {f"{row}_front": share for row, share in along_z.items()}
        elif face == "rear":
            parts = {f"{row}_rear": share for row, share in along_z.items()}
        elif face == "top":
            parts = {f"{row}_{column}": rs * share for row, rs in top.items() for column, share in along_x.items()}
        elif face == "bottom":
            parts = {f"{row}_{column}": rs * share for row, rs in bottom.items() for column, share in along_x.items()}
        else:
            parts = {f"{r}_{c}": rs * cs for r, rs in along_z.items() for c, cs in along_x.items()}
        parts = self._split(parts, *across)
        total = sum(parts.values())
        return {space: share / total for space, share in parts.items()}

    def behind_mount(self, mount: Mount, size_mm: float) -> dict[str, float]:
        if mount.on_shroud:
            columns = self.columns_over(mount.centre_mm.x - size_mm / 2, mount.centre_mm.x + size_mm / 2)
            total = sum(columns.values())
            half = size_mm / 2
            parts = {f"low_{column}": share / total for column, share in columns.items()}
            return self._split(parts, mount.centre_mm.y - half, mount.centre_mm.y + half)
        spread = k.FAN_STRADDLE if mount.face == "front" else 1.0
        return self.behind(mount.face, mount.centre_mm, size_mm * spread)

    def within(self, low: Point, high: Point) -> dict[str, float]:
        """Spaces that a box of the case takes part in, with shares that add up to 1."""
        rows = self._chambers_over(low.y, high.y) if self.tray_mm else self.rows_over(low.z, high.z)
        parts = {f"{row}_{c}": rs * cs for row, rs in rows.items() for c, cs in self.columns_over(low.x, high.x).items()}
        parts = self._split(parts, low.y, high.y)
        total = sum(parts.values())
        return {space: share / total for space, share in parts.items()}

    def whole_face(self, face: Face) -> dict[str, float]:
        """Area in m2 of a face by the space behind it."""
        column = {"front": "front", "rear": "rear"}.get(face)
        width, areas = self.width_mm, {}
        if self.tray_mm and face in ("top", "bottom", "window"):
            return self._beside(face)
        for row in self.z_mm:
            for own in COLUMNS:
                lane = self.lane_share(row, own)
                if face in ("front", "rear") and own == column:
                    areas[f"{row}_{own}"] = width * self.height_mm(row)
                elif face == "window":
                    areas[f"{row}_{SIDE if lane else own}"] = self.length_mm(own) * self.height_mm(row)
                elif (face == "top" and row == "up") or (face == "bottom" and row == next(iter(self.z_mm))):
                    areas[f"{row}_{own}"] = width * self.length_mm(own) * (1 - lane)
                    if lane:
                        areas[f"{row}_{SIDE}"] = width * self.length_mm(own) * lane
        return {space: area * 1e-6 for space, area in areas.items()}

    def _beside(self, face: Face) -> dict[str, float]:
        """Areas in m2 of a face by the space behind it where the card's chamber stands beside the board's."""
        low, high = self.z_mm["low"][0], self.z_mm["up"][1]
        if face == "window":
            across = {"up": high - low} | ({"basement": self.height_mm("basement")} if "basement" in self.z_mm else {})
        elif face == "bottom" and "basement" in self.z_mm:
            across = {"basement": self.width_mm}
        else:
            across = {"low": self.tray_mm, "up": self.width_mm - self.tray_mm}
        return {f"{row}_{column}": mm * self.length_mm(column) * 1e-6 for row, mm in across.items() for column in COLUMNS}

    @cached_property
    def _walls_m2(self) -> dict[str, float]:
        areas = dict.fromkeys(self.ids, 0.0)
        for face in FACES:
            for space, area in self.whole_face(face).items():
                areas[space] += area
                if face == "window":  # what lies opposite the window loses heat alike: the board tray, or the card's chamber
                    areas[space.replace("up_", "low_") if self.tray_mm else space.replace(SIDE, "mid")] += area
        return areas

    def wall_m2(self, space: str) -> float:
        """Outer wall of a space: both sides and every face it touches."""
        return self._walls_m2[space]
