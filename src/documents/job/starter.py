"""The document a new job starts from."""

from typing import Any

EMPTY_CASE: dict[str, Any] = {
    "name": "my case",
    "inner_mm": {"depth": 420, "height": 450, "width": 210},
    "board_depth_mm": 244,
    "panels": [],
    "mounts": [],
}


def starter_document(name: str, case: dict[str, Any] | None = None) -> dict[str, Any]:
    """An empty box, or a case of the library, with one empty layout in an ordinary room."""
    return {
        "format": "oventa-job",
        "version": 1,
        "name": name,
        "room": {"temperature_c": 22, "background_dba": 28, "listener_distance_m": 0.7, "listener_side": "front"},
        "case": case or EMPTY_CASE,
        "parts": {"board_power_w": 35, "cpus": [], "cards": [], "coolers": [], "radiators": [], "fans": []},
        "curves": [],
        "base": {},
        "layouts": [{"id": "A", "name": "first layout", "fans": []}],
    }
