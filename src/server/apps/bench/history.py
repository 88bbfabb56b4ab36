"""What was changed of a run after it was made, in words: a figure is only as good as the history behind it."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from django.utils import timezone

from server.apps.bench.models import Run

FIELDS = (
    *("name", "layout_key", "state", "void_reason", "typed_room_c", "window_s", "background_dba", "made_at", "stood_still"),
    *("held", "traits", "microphone", "by_hand"),
)
MOST = 5000  # kept of one run


def state_of(run: Run) -> dict[str, Any]:
    """What of a run can be changed, as it stands."""
    found = {name: getattr(run, name) for name in FIELDS} | {"held": dict(run.held), "by_hand": [dict(r) for r in run.by_hand]}
    return found | {"left_out": list(run.marks.filter(drop=True).order_by("at_s").values_list("at_s", "until_s"))}


def changes_between(was: Mapping[str, Any], now: Mapping[str, Any]) -> list[str]:
    """Every difference as a person would tell it."""
    found = []
    if was["name"] != now["name"]:
        found.append(f"renamed, before {was['name']}")
    if was["layout_key"] != now["layout_key"]:
        found.append(f"moved from layout {was['layout_key']} to {now['layout_key']}")
    if was["state"] != now["state"]:
        aside = f"set aside as {now['state']}: {now['void_reason']}"
        found.append("counts again" if now["state"] == "valid" else aside)
    elif was["void_reason"] != now["void_reason"]:
        found.append(f"other reason for being set aside: {now['void_reason']}")
    for name, words, unit in (("typed_room_c", "room", "°C"), ("background_dba", "background", "dBA")):
        if was[name] != now[name]:
            found.append(f"{words} {_figure(was[name], unit)}, now {_figure(now[name], unit)}")
    if was["made_at"] != now["made_at"]:
        found.append(f"made {_moment(was['made_at'])}, now {_moment(now['made_at'])}")
    if was["stood_still"] != now["stood_still"]:
        found.append("its figures stood still" if now["stood_still"] else "how its figures settled is not known")
    if was["window_s"] != now["window_s"]:
        found.append(f"averaged over {_window(was['window_s'])}, now over {_window(now['window_s'])}")
    for name, words in (("held", "what was held constant"), ("traits", "what lowers its weight"), ("microphone", "the microphone's place")):
        if was[name] != now[name]:
            found.append(f"{words} said anew")
    if len(now["by_hand"]) > len(was["by_hand"]):
        found += [f"typed: {r['channel']} {r['value']:g}" for r in now["by_hand"][len(was["by_hand"]) :]]
    elif was["by_hand"] != now["by_hand"]:
        found.append("a typed reading was taken back")
    found += [f"left out: {_stretch(x)}" for x in now["left_out"] if x not in was["left_out"]]
    return found + [f"taken in again: {_stretch(x)}" for x in was["left_out"] if x not in now["left_out"]]


def note(run: Run, was: Mapping[str, Any]) -> None:
    """Writes what changed since ``was`` into the run's history; nothing of a run that is not over."""
    if run.state == "draft" or was["state"] == "draft":
        return
    at = timezone.now().isoformat()
    fresh = [{"at": at, "what": what[:300]} for what in changes_between(was, state_of(run))]
    run.edits = [*run.edits, *fresh][-MOST:]


def _figure(value: float | None, unit: str) -> str:
    return "as logged" if value is None else f"{value:g} {unit}"


def _moment(value: datetime | None) -> str:
    return "at a time that is not known" if value is None else f"on {timezone.localtime(value):%Y-%m-%d at %H:%M}"


def _window(value: float | None) -> str:
    return "the usual window" if value is None else f"{value / 60:g} min"


def _stretch(x: tuple[float, float | None]) -> str:
    start, end = x
    return f"from {start / 60:.1f} min" + ("" if end is None else f" to {end / 60:.1f} min")
