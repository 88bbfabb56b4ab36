"""Parts that go in: fans with their sides, radiators with their fans, coolers with film, paste and star."""

from collections.abc import Mapping, Sequence

from desk.build.making import Making, Sheet, part_caution, part_minutes, slug
from desk.build.panels import at_mount
from desk.build.rebuild import Touched
from desk.build.shapes import BuildFan, BuildLead
from engine.fit.assembly import Assembly


def put_in(m: Making, sheet: Sheet, order: Assembly, touched: Touched | None, out: Mapping[str, str], safe: str) -> dict[str, str]:
    done: dict[str, str] = {}
    for name in order.order:
        if touched is not None and name not in touched.come and name not in touched.in_the_way:
            continue
        freed = [out[d.second] for d in order.demands if d.first == name and d.second in out]
        waits = [safe, *([out[name]] if name in out else []), *freed]
        waits += [done[d.first] for d in order.demands if d.second == name and d.first in done]
        if name.startswith("fan at "):
            mount = name.removeprefix("fan at ").lower()
            for fan in [f for f in m.fans if f.mount.lower() == mount]:
                done[name] = _fan_step(m, sheet, fan, waits)
                waits = [*waits, done[name]]
        elif name.startswith("radiator at "):
            done[name] = _radiator_steps(m, sheet, name, waits)
        elif name == "cooler":
            done[name] = _cooler_steps(m, sheet, waits)
        else:
            if name == "board" and m.start is None:
                waits.append(_on_the_table(sheet, waits, "memory" in order.order))
            done[name] = sheet.add(
                f"in_{slug(name)}", "in", _in_words(m, name), part_minutes(m, name), waits, _in_details(name), part_caution(name, m)
            )
    return done


def _on_the_table(sheet: Sheet, waits: Sequence[str], memory_named: bool) -> str:
    """What is not drawn and goes on the board before it stands in the case. ``memory_named``: it has a step of its own."""
    return sheet.add(
        "on_board",
        "in",
        "On the table, into the board: the processor" + (", then drives" if memory_named else ", then memory, then drives"),
        10.0,
        waits,
        [
            "Processor: lever up, mark on mark, let it sink in by its own weight, lever down; touch neither pins nor contacts.",
            ""
            if memory_named
            else "Memory: the slots that the board's manual names first, latches open, straight down until both click; not "
            "higher than this layout allows over it.",
            "Drives that lie on the board: their film off, screwed down flat under their cover.",
        ],
        caution="static",
    )


def behind(lead: BuildLead) -> str:
    """Which holes of the tray a lead goes through; what it lacks for that where it goes before the board."""
    if lead.through:
        return f"; in by the hole {lead.through[0]}, behind the board, out by {lead.through[1]}"
    if lead.hidden_mm is not None and lead.length_mm is not None:
        return f"; too short by {lead.hidden_mm - lead.length_mm:.0f} mm to go behind the board"
    return ""


def _fan_step(m: Making, sheet: Sheet, fan: BuildFan, waits: Sequence[str]) -> str:
    way = "blowing in" if fan.blows == "intake" else "blowing out"
    return sheet.add(
        f"fan_{slug(fan.mount)}_{fan.layer}",
        "in",
        f"Fan {fan.name} at {at_mount(fan)}, {way}",
        m.minutes("put"),
        waits,
        [
            f"From {fan.seen_from} you see its {fan.side_seen} side, from {fan.inside_from} its {fan.side_inside} side.",
            f"Lead out at the corner: {fan.exit}{behind(fan.lead)}.",
            f"{fan.screws}.",
            f"Write on its lead: {fan.label}.",
        ],
        caution="fan",
        fan=fan,
    )


def _radiator_steps(m: Making, sheet: Sheet, name: str, waits: Sequence[str]) -> str:
    panel = next(r for r in m.radiators if name == f"radiator at {', '.join(x.upper() for x in r.mounts)}")
    ident = f"in_{slug(name)}"
    fans = [f for f in m.fans if f.mount in panel.mounts]
    last = list(waits)
    for fan in fans:
        last = [_fan_step(m, sheet, fan, last)]
        step = sheet.steps[-1]
        step.words = step.words.replace(" at ", " on the radiator at ", 1)
    return sheet.add(
        ident,
        "in",
        f"{name[0].upper()}{name[1:]}: hang it and screw it on",
        m.minutes("radiator"),
        last,
        [
            f"From outside in: {'; '.join(panel.layers)}.",
            f"Its tubes leave at the {panel.tubes}, in wide bends, held by nothing but their own spring.",
            f"Screws: {panel.screws}.",
            "Every screw first by two turns, then tight in a cross.",
        ],
        caution="radiator",
    )


def _cooler_steps(m: Making, sheet: Sheet, waits: Sequence[str]) -> str:
    cooler = m.cooler
    name = (cooler.name or cooler.id) if cooler else "cooler"
    block = m.loops
    bracket = sheet.add(
        "cooler_bracket",
        "in",
        f"Bracket of {name} for this very socket",
        6.0,
        waits,
        ["Backplate behind the board, posts in the right holes; every bag of the kit that is left over is another socket's."],
        caution="tighten",
    )
    clean = sheet.add(
        "cooler_clean", "in", "Both faces clean and dry", 2.0, [bracket], ["A lint-free cloth, a little pure alcohol."], "solvent"
    )
    film = sheet.add(
        "cooler_film",
        "in",
        "The film is off the cold plate: look at it, feel it",
        0.5,
        [clean],
        ["A film that stays on overheats the processor within minutes.", "Films on fans and panels too."],
        caution="film",
        gate=True,
    )
    paste = sheet.add(
        "cooler_paste",
        "in",
        "Paste: a pea in the middle, or a thin even coat on a large lid",
        1.0,
        [film],
        ["Paste that came on the plate counts once: after a lift it is cleaned off and new."],
        caution="paste",
    )
    way = m.layout.cooler_direction
    details = ["Opposite screws in turn, two turns each, until they stop; no force beyond that."]
    if block:
        details.append("Its badge as you want to read it; the tubes without a kink.")
    elif way:
        details.append(f"Its air leaves towards the {'front' if way == 'front' else way}.")
    seat = sheet.add(
        "cooler_seat",
        "in",
        f"Seat {'the block of ' if block else ''}{name}, tighten in a star",
        max(m.minutes("cooler") - 9.5, 3.0),
        [paste],
        details,
        caution="cooler",
    )
    if m.resolver.setting(m.layout, "cooler_fan") or (cooler and cooler.fan):
        seat = sheet.add(
            "cooler_fans",
            "in",
            "Clip the cooler's fan on, its arrow the way the air goes",
            2.0,
            [seat],
            [f"Raised by {m.layout.cooler_fan_lift_mm:.0f} mm over the memory." if m.layout.cooler_fan_lift_mm else ""],
            caution="fan",
        )
    return seat


def _in_words(m: Making, name: str) -> str:
    r = m.resolver
    kinds = {
        "card": ("card", "cards"),
        "board": ("board", "boards"),
        "memory": ("memory", "memory"),
        "power supply": ("supply", "supplies"),
    }
    setting, kind = kinds.get(name, (name, ""))
    part = r.parts.get(kind, {}).get(r.setting(m.layout, setting) or "")
    told = f": {part.name or part.id}" if part else ""
    upright = ", upright" if name == "card" and m.layout.card_orientation == "upright" else ""
    return f"{name[0].upper()}{name[1:]}{told}{upright}"


def _in_details(name: str) -> list[str]:
    return {
        "power supply": ["Its fan towards the vent it breathes through; modular leads plugged before it is out of reach."],
        "board": ["Rear plate first; a stand-off under every hole and none elsewhere; all screws loose, then tight."],
        "memory": ["Latches open, straight down, until both click."],
        "card": [
            "Latch open, level, until it clicks; screw it to the slot plate; prop it up if it hangs. Its power leads whole, none split."
        ],
    }.get(name, [])
