"""What a search is asked for."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from documents.job.base import Id

LEAST_PCT = 25.0  # common practice, no source: slower, many fans do not start


class SearchQuestion(BaseModel):
    """``start``: the layout that is built now, else the first. Temperatures are asked for in the worst room where one is limited.

    ``scenario``: with the heat that one of the job's scenarios adds. ``one_fan_may_stop``: temperatures are also kept, and no power is
    given up, when any one case fan stands still. ``speeds``: one for all case fans, or each side its own where that is better.
    """

    start: Id | None = None
    load: Literal["idle", "cpu", "card", "both"] = "both"
    fans: Literal["hand", "library"] = "hand"
    max_dba: Annotated[float, Field(gt=0, le=120)] | None = None
    max_cpu_c: Annotated[float, Field(ge=0, le=150)] | None = None
    max_card_c: Annotated[float, Field(ge=0, le=150)] | None = None
    max_price: Annotated[float, Field(ge=0, le=1e6)] | None = None
    most_fans: Annotated[int, Field(ge=0, le=40)] | None = None
    max_minutes: Annotated[float, Field(ge=0, le=10_000)] | None = None  # of hand work from the start
    scenario: Id | None = None
    one_fan_may_stop: bool = False
    speeds: Literal["together", "sides"] = "sides"
    empty: list[Id] = []  # mounts that are to stay empty
    move_radiator: bool = True
    swap_cooler: bool = True  # for another that one of the job's layouts has
    turn_cooler: bool = True
    turn_card: bool = False
    seed: int = 0

    @property
    def at_worst(self) -> bool:
        return self.max_cpu_c is not None or self.max_card_c is not None
