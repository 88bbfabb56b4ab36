"""Words of judging: what a pair is called, which loads a campaign knows, what a person may weigh."""

from collections.abc import Mapping
from types import MappingProxyType

PAIR_WORDS: Mapping[str, str] = MappingProxyType(
    {"better": "better", "worse": "worse", "no_difference": "no difference", "cannot_tell": "cannot tell"}
)
# A shape beside each word, so that neither colour nor order carries it alone.
SIGNS: Mapping[str, str] = MappingProxyType({"better": "▼", "worse": "▲", "no_difference": "=", "cannot_tell": "?"})
LOADS: Mapping[str, str] = MappingProxyType(
    {"idle": "idle", "cpu": "processor", "card": "card", "both": "both", "game": "game", "job": "job"}
)
FORECAST_LOADS: Mapping[str, str] = MappingProxyType(
    {"both": "both loaded", "cpu": "processor loaded", "card": "card loaded", "idle": "idle", "own": "own load"}
)
THINGS: Mapping[str, str] = MappingProxyType(
    {
        "cpu": "processor",
        "card": "card",
        "noise": "sound",
        "balance": "balance",
        "cost": "cost",
        "looks": "looks",
        "dust": "dust",
        "labour": "work",
    }
)
# What a person may weigh, as Survey asks it.
MATTERS: Mapping[str, str] = MappingProxyType(
    {
        "cpu": "a cool processor",
        "card": "a cool card",
        "noise": "quiet",
        "balance": "both parts alike",
        "cost": "low cost",
        "labour": "little work",
        "dust": "little dust",
        "looks": "looks",
    }
)
