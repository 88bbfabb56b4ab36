"""Cards of the speed curves a layout uses: points to type, floor, where they stop, and what a flat part of one would hold a fan at."""

from collections.abc import Iterator, Sequence
from itertools import pairwise

from desk.build.shapes import BuildCurve
from desk.job.resolve import Resolver
from documents.job.models import CurveDoc, LayoutDoc

FLAT_K = 3.0  # no source: a step held over less is passed quickly


def curve_cards(resolver: Resolver, layout: LayoutDoc, avoid_rpm: Sequence[tuple[float, float]] = ()) -> Iterator[BuildCurve]:
    """``avoid_rpm``: speeds that hum; a flat part that holds a fan at one is warned of."""
    by_id = {c.id: c for c in resolver.doc.curves}
    names = {g.id: g.name or g.id for g in layout.groups}
    used: dict[tuple[str, str], list[str]] = {}
    for place in layout.fans:
        _, curve = resolver.pace(layout, place)
        if curve is not None and place.state == "running":
            used.setdefault((names.get(place.group or "", curve), curve), []).append(place.mount)
    for (group, curve), mounts in used.items():
        yield _card(resolver, layout, group, mounts, by_id[curve], avoid_rpm)
    for setting, words in (("cooler_curve", "cooler's fan"), ("card_curve", "card's fans")):
        curve = resolver.setting(layout, setting)
        if curve in by_id:
            yield _card(resolver, layout, words, [], by_id[curve], avoid_rpm)


def _card(
    resolver: Resolver, layout: LayoutDoc, group: str, mounts: Sequence[str], curve: CurveDoc, avoid_rpm: Sequence[tuple[float, float]]
) -> BuildCurve:
    points = sorted(curve.points)
    speeds = [s for _, s in points]
    turning = [s for s in speeds if s > 0]
    flat = sorted({s for (t, s), (u, v) in pairwise(points) if s == v and u - t >= FLAT_K} | {points[0][1], points[-1][1]} - {0.0})
    fans = [resolver.parts["fans"][f.fan] for f in layout.fans if f.mount in mounts]
    warns = []
    for s in flat:
        for fan in fans:
            rpm = fan.speed_max_rpm * s / 100
            for low, high in avoid_rpm:
                if low <= rpm <= high:
                    warns.append(f"{s:.0f} % is {rpm:.0f} rpm of {fan.name or fan.id}, within {low:.0f} to {high:.0f} that hum")
    rest = [t for t, s in points if s == 0]
    return BuildCurve(
        group=group,
        mounts=list(mounts),
        source=curve.source,
        points=[(float(t), float(s)) for t, s in points],
        floor_pct=min(turning, default=0.0),
        stop_below_c=max(rest) if rest else None,
        hysteresis_k=curve.hysteresis_k,
        delay_s=curve.ramp_s,
        flat_pct=flat,
        warns=list(dict.fromkeys(warns)),
    )
