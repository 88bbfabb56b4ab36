"""Studies that can be made again: what each shows, how it is asked for, how much of it is usual and how much is too much here."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType


@dataclass(frozen=True)
class Study:
    """``counts``: what its number counts; ``usual`` of them take some minutes on two cores. ``page``: where the last one is written."""

    words: str
    about: str
    counts: str
    usual: int
    most: int
    page: str
    least: int = 1


STUDIES: Mapping[str, Study] = MappingProxyType(
    {
        "campaigns": Study(
            "verdicts of campaigns whose truth is known",
            "How often a word is false, how often a gap is found, and whether bands hold, by scatter, repeats, drift and order.",
            "campaigns a row",
            20,
            2000,
            "evidence-campaigns.md",
        ),
        "settle": Study(
            "when a run counts as settled",
            "How often the call is wrong, whether its band holds, and how good the minutes more are, by kind of run.",
            "runs of each kind",
            40,
            5000,
            "evidence-settle.md",
        ),
        "waits": Study(
            "how long a run still takes",
            "Whether the range of minutes holds and one number is right, without and with earlier runs of the machine.",
            "machines of each kind",
            8,
            2000,
            "evidence-waits.md",
        ),
        "learn": Study(
            "what runs teach the forecast",
            "Hidden parameters learned from three layouts: whether bands of layouts not yet run hold, and how much narrower they are.",
            "truths of each demo job",
            6,
            1000,
            "evidence-learning.md",
        ),
        "next": Study(
            "the next test against other ways",
            "Hours to the right pick, how often it is right, and what is lost, against everything three times, round robin and chance.",
            "campaigns",
            4,
            1000,
            "evidence-next.md",
        ),
        "units": Study(
            "faults of units named from a short run",
            "How often a good unit fails, and how often each planted fault is named first.",
            "units of each kind",
            4,
            1000,
            "evidence-units.md",
        ),
        "practice": Study(
            "the trainer's machines",
            "Whether its answers agree with the findings.",
            "machines of each level",
            20,
            2000,
            "evidence-practice.md",
        ),
        "steps": Study(
            "steps of one per cent",
            "Whether any figure jumps when something of the case changes a little.",
            "cases",
            20,
            2000,
            "evidence-steps.md",
        ),
        "cases": Study(
            "random cases through the engine",
            "Whether mass and heat balance, and whether every case has an answer.",
            "cases",
            200,
            20000,
            "evidence.md",
        ),
    }
)
