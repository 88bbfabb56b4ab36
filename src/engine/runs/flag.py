"""A mark on a stretch of a run: what it is, what it does to the figures, and what to do about it."""

from dataclasses import dataclass
from types import MappingProxyType

# code: (effect on the figures, what to do). The one place where flags say what they mean.
MEANING: MappingProxyType[str, tuple[str, str]] = MappingProxyType(
    {
        "throttled": (
            "The part gave up power to stay at its limit, so its temperature says nothing of the layout.",
            "Compare by power, clock or score; or lower the load for every layout.",
        ),
        "at_limit": ("The temperature stands at a limit and hides differences.", "Compare by power, clock or score."),
        "room_missing": ("Nothing can be said over room.", "Type the room's temperature, or leave the run out of comparisons."),
        "room_drift": (
            "Over room corrects most of it; slow parts lag behind the room.",
            "Keep doors and windows as they are; repeat the control at the end.",
        ),
        "room_coarse": (
            "Each figure over room is off by up to half a step, and a step of the room looks like one of the machine.",
            "Log the room in tenths; till then bands are wider, and a run takes longer to be called settled.",
        ),
        "room_doubtful": ("Every figure over room is off by the same amount.", "Look where the probe hung and what was typed; correct it."),
        "too_short": ("The final values are still ahead: the figures are short of them.", "Run until all bars touch their mark."),
        "gap": ("What happened meanwhile is not known; a gap in the window makes the mean less sure.", "Look at the logger and its lead."),
        "stuck": ("The channel's mean is a single reading.", "Restart its monitor; leave the channel out of the comparison."),
        "spike": ("A spike in the window moves the largest value, and the mean a little.", "Mark the minute as left out."),
        "speed_not_held": (
            "The air was not the same throughout, so the figures belong to no single speed.",
            "Hold the speed or save the curve, and repeat.",
        ),
        "tach_lost": ("If the fan stood still, the figures are of another layout.", "Look whether it turns; plug it in; repeat the run."),
        "clock_jump": ("The heat changed with the clock.", "Hold clock or power; repeat."),
        "load_changed": ("The heat was not the same throughout.", "Use the same load without pauses; mark a short one as left out."),
        "core_apart": (
            "The package follows its hottest core, not the layout.",
            "Seat the cooler again, look at paste and pressure; repeat.",
        ),
        "disturbed": ("The mean holds something that is not the layout.", "Mark the minute as left out, or wait and average later."),
        "loop_not_purged": ("Flow and noise of the loop will change by themselves.", "Let the pump run at full until it is quiet; repeat."),
        "sound_near_floor": ("The room is a large part of the level.", "Measure nearer, or when the room is quieter."),
        "hunting": (
            "The figure is the mean about which it swings, over whole turns; speeds and levels go round with it.",
            "Flatten the fan's curve or give it a delay, and repeat; or compare as it is.",
        ),
        "integer_resolution": ("Differences under a degree hide in the sensor's step.", "Average longer, or repeat."),
    }
)


@dataclass(frozen=True)
class Flag:
    """A stable ``code``, the stretch it concerns, what was seen in words; ``effect`` and ``do`` follow from the code."""

    code: str
    from_s: float
    to_s: float
    detail: str
    of: str = ""  # the channel it concerns, where it is one; a part's channels begin with its name
    effect: str = ""
    do: str = ""

    def __post_init__(self) -> None:
        effect, do = MEANING[self.code]
        object.__setattr__(self, "effect", effect)
        object.__setattr__(self, "do", do)
