"""What every part of the job document is made of: the base model and the ranges of its quantities."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

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


LEAST = 1e-6  # of any figure in its unit; what is nearer to nothing is a slip, and a sum with it can leave the range of numbers


class Doc(BaseModel):
    """Base: unknown fields survive a round trip, numbers must be finite, and either 0 or large enough to mean something."""

    model_config = ConfigDict(extra="allow", allow_inf_nan=False)

    @field_validator("*", mode="after")
    @classmethod
    def _means_something(cls, value: Any) -> Any:
        for x in value if isinstance(value, (list, tuple)) else (value,):
            if isinstance(x, float) and 0 < abs(x) < LEAST:
                raise ValueError(f"is nearer to nothing than any figure of a case: give 0, or {LEAST:.6f} or more")
        return value
