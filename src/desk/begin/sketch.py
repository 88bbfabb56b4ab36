"""A whole case from three answers: what it is most like, how large it is inside, and which rows of places its faces have.

What is not asked takes the ordinary figure of its kind and can be measured later, where it first matters.
"""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from documents.errors import DocumentError, Fault
from documents.job.base import FaceName, Length

Like = Literal["tower", "compact", "cube", "sandwich", "flat"]
PITCH_MM = 3.0  # common practice, no source: frames of a row stand this far apart
MARGIN_MM = 20.0  # common practice, no source: from a row's end to the edge of its face, where there is room
LETTERS = {"front": "f", "top": "t", "rear": "r", "bottom": "b", "window": "s"}
ALSO_TAKES = {140: [120, 140], 200: [180, 200]}  # common practice, no source: slots for the next smaller pattern


@dataclass(frozen=True)
class Kind:
    """What cases of a kind have in common (common practice, no source): a share of the height for the shroud, 0 for none."""

    board_depth_mm: float
    shroud_share: float
    panels: dict[FaceName, dict[str, Any]]
    usual: dict[FaceName, tuple[int, float]]  # how many places its faces often have, and of which size in mm
    card_side_share: float = 0.0  # of the width, for a chamber behind the board tray


MESH = {"kind": "mesh", "open_area_pct": 45}
GLASS, SOLID = {"kind": "glass"}, {"kind": "solid"}
UPRIGHT: dict[FaceName, tuple[int, float]] = {"front": (2, 120), "top": (2, 120), "rear": (1, 120)}
KINDS: dict[Like, Kind] = {
    "tower": Kind(244, 0.21, {"front": MESH | {"filter": "coarse"}, "top": MESH, "window": GLASS}, UPRIGHT | {"front": (3, 120)}),
    "compact": Kind(170, 0.0, {"front": MESH, "top": MESH, "window": GLASS}, UPRIGHT),
    "cube": Kind(244, 0.0, {"front": MESH, "top": MESH, "bottom": MESH, "window": GLASS}, UPRIGHT | {"front": (2, 140)}),
    "sandwich": Kind(170, 0.0, {"window": MESH}, {"top": (2, 120)}, 0.42),
    "flat": Kind(170, 0.0, {"top": MESH, "window": MESH}, {"top": (1, 120)}),
}


class RowIn(BaseModel):
    """So many places of one size on a face, as an even row."""

    face: FaceName
    count: Annotated[int, Field(ge=1, le=8)]
    size_mm: Annotated[float, Field(ge=40, le=230)]


class SketchIn(BaseModel):
    """The three answers; lengths inside, in mm. While nobody has counted, ``rows`` are the usual ones of the kind."""

    like: Like
    depth_mm: Length
    height_mm: Length
    width_mm: Length
    rows: Annotated[list[RowIn], Field(max_length=12)] | None = None


def rows_of(answers: SketchIn) -> list[RowIn]:
    """The rows as counted, or as many of the usual ones as there is room for."""
    if answers.rows is not None:
        return answers.rows
    found = []
    for face, (count, size_mm) in KINDS[answers.like].usual.items():
        low, high = _stretch(answers, face, _shroud_mm(answers))
        if room := min(count, int((high - low) // size_mm)):
            found.append(RowIn(face=face, count=room, size_mm=size_mm))
    return found


def _shroud_mm(answers: SketchIn) -> int:
    return round(min(KINDS[answers.like].shroud_share * answers.height_mm, 110.0))


def sketch(answers: SketchIn) -> dict[str, Any]:
    """The case as a document. Raises DocumentError where a row is longer than its face."""
    kind, shroud_mm, rows = KINDS[answers.like], _shroud_mm(answers), rows_of(answers)
    tray_mm = round(kind.card_side_share * answers.width_mm)
    case: dict[str, Any] = {
        "inner_mm": {"depth": answers.depth_mm, "height": answers.height_mm, "width": answers.width_mm},
        "board_depth_mm": min(kind.board_depth_mm, answers.depth_mm),
        "panels": [{"face": face, "filter": "none"} | panel for face, panel in kind.panels.items()],
        "mounts": [],
        "rails": [],
        "dimensions": {"board_depth_mm": {"source": "guessed"}},
    }
    if shroud_mm:
        case["shroud"] = {"height_mm": shroud_mm}
        case["dimensions"]["shroud.height_mm"] = {"source": "guessed"}
    if tray_mm:
        case |= {"card_chamber": "separate", "card_side_mm": tray_mm}
        case["dimensions"]["card_side_mm"] = {"source": "guessed"}
    faults = [fault for i, row in enumerate(rows) if (fault := _fault(answers, row, shroud_mm, i))]
    if faults:
        raise DocumentError(faults)
    for row in rows:
        _add_row(case, answers, row, shroud_mm, tray_mm)
    return case


def _stretch(answers: SketchIn, face: FaceName, shroud_mm: float) -> tuple[float, float]:
    """Along which millimetres of a face a row lies: over the floor or the shroud on upright faces, else from the front."""
    if face in ("front", "rear"):
        return shroud_mm, answers.height_mm
    return 0.0, answers.depth_mm


def _fault(answers: SketchIn, row: RowIn, shroud_mm: float, index: int) -> Fault | None:
    low, high = _stretch(answers, row.face, shroud_mm)
    needed = row.count * row.size_mm
    if needed <= high - low:
        return None
    over = " over the shroud" if shroud_mm and low else ""
    what = f"{row.count} of {row.size_mm:.0f} mm need {needed:.0f} mm, the {row.face} has {high - low:.0f} mm{over}"
    return Fault(f"rows[{index}]", what, "Give fewer or smaller places, or correct the inside.")


def _add_row(case: dict[str, Any], answers: SketchIn, row: RowIn, shroud_mm: float, tray_mm: float) -> None:
    low, high = _stretch(answers, row.face, shroud_mm)
    pitch = row.size_mm + min(PITCH_MM, (high - low - row.count * row.size_mm) / row.count)
    first, span = row.size_mm / 2, (row.count - 1) * pitch
    middle = (low + high) / 2
    if row.face == "rear":  # beside the board's connectors, above the slots
        middle = high - min(MARGIN_MM, (high - low - span - row.size_mm) / 2) - first - span / 2
    across = (tray_mm + answers.width_mm) / 2
    taken = sum(m["face"] == row.face for m in case["mounts"])
    ids = []
    for n in range(row.count):
        shift = span / 2 - n * pitch if row.face in ("front", "rear") else n * pitch - span / 2
        at = round(middle + shift, 1)
        centre = {
            "front": {"x": 0, "y": across, "z": at},
            "rear": {"x": answers.depth_mm, "y": across, "z": at},
            "top": {"x": at, "y": across, "z": answers.height_mm},
            "bottom": {"x": at, "y": across, "z": 0},
            "window": {"x": at, "y": answers.width_mm, "z": (shroud_mm + answers.height_mm) / 2},
        }[row.face]
        ids.append(f"{LETTERS[row.face]}{taken + n + 1}")
        sizes = ALSO_TAKES.get(int(row.size_mm), [row.size_mm])
        case["mounts"].append({"id": ids[-1], "face": row.face, "centre_mm": centre, "sizes_mm": sizes})
    if row.count > 1:
        name = row.face if not any(r["id"] == row.face for r in case["rails"]) else f"{row.face}_{len(case['rails']) + 1}"
        takes = [row.size_mm * n for n in range(1, row.count + 1)]
        case["rails"].append({"id": name, "face": row.face, "mounts": ids, "radiators_mm": takes})
