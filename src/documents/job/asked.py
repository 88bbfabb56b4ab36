"""What a layout asked of the person before a run of it; kept with the run."""

from pydantic import BaseModel, Field


class Asked(BaseModel):
    """Taken when a run is prepared; later changes of the layout do not change a run that is under way."""

    known: dict[str, str] = Field(default_factory=dict)  # held things and their values, as the layout says
    cautions: list[str] = Field(default_factory=list)
    speeds_rpm: dict[str, float] = Field(default_factory=dict)  # of fans at a fixed speed, by channel
    sound_limit_dba: float | None = None
