"""What a clip told, in words: its tones that stand out and its beats."""

from collections.abc import Mapping, Sequence
from typing import Any

MOST_TOLD = 4
LEAST_TOLD_DB = 6.0  # a tone so far over its noise is heard by most; common practice, no source


def tones_told(found: Sequence[Mapping[str, Any]]) -> list[str]:
    """Those that are prominent, or stand far out where no criterion holds; the strongest few."""
    told = [t for t in found if t.get("prominent") or (t.get("prominent") is None and t["tone_to_noise_db"] >= LEAST_TOLD_DB)]
    return [
        f"a tone at {t['frequency_hz']:.0f} Hz, {t['tone_to_noise_db']:.0f} dB over its noise" + (f" ({t['of']})" if t.get("of") else "")
        for t in told[:MOST_TOLD]
    ]


def beats_told(found: Sequence[Mapping[str, Any]]) -> list[str]:
    return [f"swells every {1 / b['frequency_hz']:.1f} s by {b['depth_db']:.1f} dB" for b in found[:MOST_TOLD] if b["frequency_hz"] > 0]


def told_of(result: Mapping[str, Any] | None) -> list[str]:
    """Of a clip's stored figures; empty where nothing stands out, or it was not listened to yet."""
    found = result or {}
    return [*tones_told(found.get("tones") or []), *beats_told(found.get("beats") or [])]
