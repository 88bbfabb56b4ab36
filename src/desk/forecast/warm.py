"""Has the engine's kernels compiled, or loaded from disk, before anybody waits for them."""

from typing import Any

from desk.forecast.document import Oracle, Question
from documents.job.reader import check_job
from documents.job.starter import starter_document

FAN = {
    "id": "f",
    "size_mm": 120,
    "thickness_mm": 25,
    "speed_max_rpm": 1500,
    "flow_max_m3h": 90,
    "pressure_max_pa": 17,
    "noise_dba": 27,
}
COOLER = {
    "id": "t",
    "kind": "tower",
    "fan": "f",
    "flow_ref_m3h": 50,
    "fin_drop_pa": 7,
    "ua_ref_w_per_k": 11,
    "r_base_k_per_w": 0.06,
    "heat_capacity_j_per_k": 700,
}
CPU = {"id": "c", "power_w": 100, "r_jc_k_per_w": 0.2, "tj_max_c": 95}


def warm_engine() -> None:
    """One small forecast with its minutes: a minute's work the first time on a machine, a second or two from then on."""
    raw: dict[str, Any] = starter_document("warm")
    raw["parts"] = {**raw["parts"], "cpus": [CPU], "coolers": [COOLER], "fans": [FAN]}
    raw["base"] = {"cpu": "c", "cooler": "t"}
    Oracle(check_job(raw).doc, Question(minutes=1)).forecast_doc()
