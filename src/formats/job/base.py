"""What every part of the job document is made of: the base model and the ranges of its quantities."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

FaceName = Literal["front", "top", "bottom", "window", "rear"]
Id = Annotated[str, Field(min_length=1, max_length=60)]
Millimetres = Annotated[float, Field(ge=0, le=3000)]
Length = Annotated[float, Field(gt=0, le=3000)]
Percent = Annotated[float, Field(ge=0, le=100)]
Positive = Annotated[float, Field(gt=0, le=1e7)]  # no figure of a case is larger in its unit
NotNegative = Annotated[float, Field(ge=0, le=1e7)]
Watts = Annotated[float, Field(ge=0, le=3000)]
Temperature = Annotated[float, Field(ge=-40, le=150)]
Source = Literal["cpu", "card", "hotter", "coolant", "board", "case_air"]


class Doc(BaseModel):
    """Base: unknown fields survive a round trip, numbers must be finite."""

    model_config = ConfigDict(extra="allow", allow_inf_nan=False)
