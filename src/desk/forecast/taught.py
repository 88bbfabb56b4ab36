"""Speeds and curves as the job's runs have taught: the model's levels are moved until what is told keeps the level asked for."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from desk.forecast.document import Oracle
from documents.job.models import LayoutDoc
from engine.coupled.quiet import QuietSpeeds, quiet_speeds
from engine.machine import Machine

CLOSE_DB = 0.1  # numerical
MOST_ROUNDS = 5  # numerical: sources weigh otherwise at other speeds, but not by much


@dataclass(frozen=True)
class TaughtSpeeds:
    """Speeds with the figures that the forecast of the layout gives once they are set.

    ``louder_db``: how much more is told of them than the parts' sheets have it.
    """

    speeds: QuietSpeeds
    louder_db: float


def speeds_as_taught(
    oracle: Oracle, layout_id: str, target_dba: float, groups: Mapping[str, Sequence[str]], avoid_rpm: Sequence[tuple[float, float]]
) -> TaughtSpeeds:
    """The coolest speeds whose level, as told, stays at or under the target."""
    machine, louder = oracle.machine(layout_id), 0.0
    best: TaughtSpeeds | None = None
    for _ in range(MOST_ROUNDS if oracle.taught_by else 1):
        found = quiet_speeds(machine, target_dba - louder, groups, avoid_rpm, oracle.parameters)
        if not oracle.taught_by:
            return TaughtSpeeds(found, 0.0)
        told = _told(oracle, layout_id, found)
        own = TaughtSpeeds(told, told.level_dba - found.level_dba)
        kept = told.level_dba <= target_dba + CLOSE_DB
        told = replace(told, reached=kept)
        own = replace(own, speeds=told)
        if best is None or (kept, -_warmth(told)) > (best.speeds.reached, -_warmth(best.speeds)):
            best = own
        if abs(own.louder_db - louder) < CLOSE_DB:
            break
        louder = own.louder_db
    assert best is not None
    return best


def with_speeds(layout: LayoutDoc, speeds_pct: Mapping[str, float]) -> LayoutDoc:
    """The layout with fixed speeds at some mounts; their fans part with group and curve."""
    fans = [
        f.model_copy(update={"speed_pct": speeds_pct[f.mount], "group": None, "curve": None}) if f.mount in speeds_pct else f
        for f in layout.fans
    ]
    return layout.model_copy(update={"fans": fans})


def _told(oracle: Oracle, layout_id: str, found: QuietSpeeds) -> QuietSpeeds:
    layout = with_speeds(oracle.resolver.layout(layout_id), found.speeds_pct)
    layouts = [layout if x.id == layout_id else x for x in oracle.doc.layouts]
    told = oracle.beside(oracle.doc.model_copy(update={"layouts": layouts})).forecast(layout_id)
    card = told.card.rise_k if told.card else None
    return replace(found, level_dba=told.sound.level_dba, cpu_rise_k=told.cpu.rise_k, card_rise_k=card)


def _warmth(s: QuietSpeeds) -> float:
    return s.cpu_rise_k + (s.card_rise_k or 0.0)


def warmer_as_taught(oracle: Oracle, layout_id: str, cpu_c: float, card_c: float | None) -> tuple[float, float | None]:
    """The warmest of a run by the learned parameters, in deg C, with what the runs say beyond them."""
    m = oracle.machine(layout_id)
    room_c = m.room.temperature_c
    cpu_k, card_k = rises_beyond(m, oracle.beyond(layout_id), cpu_c - room_c, None if card_c is None else card_c - room_c)
    return room_c + cpu_k, None if card_k is None else room_c + card_k


def rises_beyond(m: Machine, beyond: tuple[float, float], cpu_k: float, card_k: float | None) -> tuple[float, float | None]:
    """Rises in K in the proportion of ``beyond``, up to a part's limit."""
    cpu_limit_k = m.cpu.tj_max_c - m.room.temperature_c
    card_limit_k = m.card.t_limit_c - m.room.temperature_c if m.card else cpu_limit_k
    card = None if card_k is None else min(card_k * beyond[1], max(card_k, card_limit_k))
    return min(cpu_k * beyond[0], max(cpu_k, cpu_limit_k)), card
