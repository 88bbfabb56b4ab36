"""Words of the trade as they are meant here, one or two sentences each; the field's own term stands with its plain one."""

from collections.abc import Mapping
from types import MappingProxyType

TERMS: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "rise": (
            "over room",
            "Temperature rise over ambient: a temperature less the room's at the same moment, in kelvin. Runs of a warm and a "
            "cold evening compare by it.",
        ),
        "settled": (
            "settled",
            "Warm all through: nothing drifts any more. What you would read after an hour or so under the same load.",
        ),
        "balance": (
            "balance",
            "Air that case fans bring in against air that they take out, by what really flows and not by their sheets.",
        ),
        "count": (
            "by count",
            "How many fans blow in and how many out, whatever each of them moves.",
        ),
        "flow": (
            "by flow",
            "Which way more air goes through fans: positive, more in; negative, more out. The rest passes by other openings.",
        ),
        "pressure": (
            "case pressure",
            "Mean pressure inside over the room's, in pascals. A few tenths are usual; dust follows the air, not the pascals.",
        ),
        "band": (
            "band",
            "The true figure lies within it in 95 of 100 cases, errors of the model included. Forecasts that overlap are too "
            "close to call.",
        ),
        "intake": (
            "intake, exhaust",
            "Blowing in, blowing out, as seen from inside the case. The open side of a fan draws, the side with the struts blows.",
        ),
        "push": (
            "push, pull",
            "A fan before the fins pushes air through them, one behind them pulls. Both do nearly the same; two of them a little more.",
        ),
        "knee": (
            "the last that pays",
            "Fans after this one bring less than a kelvin to either part. They still make noise.",
        ),
        "sure": (
            "how sure",
            "How often each layout comes out best when every measured figure is drawn anew within its uncertainty.",
        ),
        "cannot_tell": (
            "cannot tell",
            "The runs neither show a difference nor show that there is none. More runs would.",
        ),
        "same": (
            "no difference",
            "The whole 95 % interval lies within what does not matter to you.",
        ),
        "margin": (
            "what matters",
            "A difference smaller than this you would not act on. You set it; the verdict is judged by it.",
        ),
        "control": (
            "control",
            "One layout run first and again at the end. If it reads otherwise the second time, something drifted in between.",
        ),
        "allowed": (
            "allowed",
            "How far a good unit may lie from the reference by its own chip, paste, fans and probes: one run in a thousand goes beyond. "
            "Units that passed make it narrower or wider.",
        ),
        "likely": (
            "what is likely",
            "Each fault of this layout is forecast over all that is read; the chance says how well the readings suit it, against all "
            "others and against nothing wrong.",
        ),
        "chart": (
            "control chart",
            "Unit after unit against the reference. The band is three standard deviations of the batch itself: what lies outside differs "
            "by more than chance.",
        ),
        "purge": (
            "purge",
            "Driving air out of a loop: full pump, the machine tilted a little, until nothing gurgles.",
        ),
        "protocol": (
            "protocol",
            "How every run is made: load, length, when it ends, over which minutes it is averaged, what is held the same.",
        ),
        "window": (
            "averaging window",
            "The last minutes of a run, over which its figures are the mean.",
        ),
        "soak": (
            "soak",
            "How far a channel has come from where it began to where it will settle.",
        ),
        "headroom": (
            "room to the limit",
            "Kelvin left between a part and the temperature at which it gives up power.",
        ),
        "dba": (
            "dBA",
            "A-weighted sound pressure level: decibels over 20 micropascal, weighted as the ear hears soft sounds. Ten more are heard as "
            "about twice as loud.",
        ),
        "passed": (
            "over, a tenth of the time",
            "L10, a percentile level: louder than this in a tenth of the time. With L90, passed in nine tenths, it says how the level "
            "moves.",
        ),
        "sone": (
            "loudness",
            "Loudness in sone: how loud it is felt, over all frequencies. Twice the sone is twice as loud; 1 kHz at 40 dB is one.",
        ),
        "thirds": (
            "one-third octaves",
            "Level by frequency in bands of a third of an octave: low notes at the left, hiss at the right.",
        ),
        "tone": (
            "tone to noise",
            "Tone-to-noise ratio: how far a single note stands over the noise within the ear's band about it. Prominent notes annoy more "
            "than their level says.",
        ),
        "swell": (
            "beat",
            "A slow rising and falling, such as of two fans that turn nearly alike: heard even where the level is low.",
        ),
        "relative": (
            "relative",
            "In decibels under the most that the file can hold. It says how much louder one clip is than another of the same recorder at "
            "the same gain, not how loud it was.",
        ),
    }
)
