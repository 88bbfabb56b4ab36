"""Cards of the speed curves a layout uses: points to type, floor, where they stop, and what a flat part of one would hold a fan at."""

from collections.abc import Iterator, Sequence

from desk.build.shapes import BuildCurve
from desk.job.resolve import Resolver
from documents.job.models import LayoutDoc
from engine.coupled.forecast import FanForecast
from engine.machine import PlacedFan, SpeedCurve


def curve_cards(resolver: Resolver, layout: LayoutDoc, settled: Sequence[FanForecast] = ()) -> Iterator[BuildCurve]:
    """``settled``: the fans as the forecast has them under full load, where there is one."""
    machine = resolver.machine(layout.id)
    names = {g.id: g.name or g.id for g in layout.groups}
    groups = {(f.mount, f.layer): f.group for f in layout.fans}
    used: dict[tuple[str, str], list[PlacedFan]] = {}
    for fan in machine.fans:
        if fan.curve and fan.running:
            used.setdefault((names.get(groups[fan.mount, fan.layer] or "", fan.curve.id), fan.curve.id), []).append(fan)
    for (group, _), fans in used.items():
        assert fans[0].curve is not None
        yield _card(group, fans[0].curve, fans, settled)
    cooler = getattr(machine.cooler, "curve", None)
    if cooler:
        yield _card("cooler's fan", cooler, [], settled)
    if machine.card_on_air and machine.card_on_air.curve:
        yield _card("card's fans", machine.card_on_air.curve, [], settled)


def _card(group: str, curve: SpeedCurve, fans: Sequence[PlacedFan], settled: Sequence[FanForecast]) -> BuildCurve:
    points = sorted(zip(curve.temperatures_c, curve.speeds_pct, strict=True))
    rest = [t for t, s in points if s == 0]
    places = {(f.mount, f.layer) for f in fans}
    own = [f.speed_pct for f in settled if (f.mount, f.layer) in places]
    hums = dict.fromkeys((f.fan.id, pct, f.fan.speed_max_rpm * pct / 100) for f in fans for pct in curve.flat_pct if f.fan.hums(pct))
    return BuildCurve(
        group=group,
        curve=curve.id,
        mounts=list(dict.fromkeys(f.mount for f in fans)),
        source=curve.source,
        points=points,
        floor_pct=min((s for _, s in points if s > 0), default=0.0),
        stop_below_c=max(rest) if rest else None,
        hysteresis_k=curve.hysteresis_k,
        delay_s=curve.ramp_s,
        flat_pct=list(curve.flat_pct),
        settles_pct=max(own) if own else None,
        warns=[f"a flat part holds {fan} at {pct:.0f} %, {rpm:.0f} rpm, where it hums" for fan, pct, rpm in hums],
    )
