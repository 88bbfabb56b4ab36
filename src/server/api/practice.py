"""Practice over HTTP: machines with planted faults, hints, scores; fans of which one says which way they blow."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router
from pydantic import Field

from desk.practice.drill import Drill, Drilled, answered, drill
from desk.practice.exercise import PLACED, Kind, Mark, Scored
from server.api.schema import Schema
from server.apps.build import practised

router = Router()
Seed = Annotated[int, Field(ge=0, le=999_999)]


class AskedIn(Schema):
    seed: Seed
    level: Annotated[int, Field(ge=1, le=3)] = 1


class ExerciseOut(Schema):
    """``document`` as it is written: what is not set is the base's. ``faults``: how many kinds; ``placed``: those with a mount."""

    seed: int
    level: int
    document: dict[str, Any]
    faults: int
    placed: list[Kind]
    air_drawn: bool
    hints: int
    facts: list[str]


class HintIn(AskedIn):
    n: Annotated[int, Field(ge=0, le=20)]


class HintOut(Schema):
    words: str


class AnswerIn(AskedIn):
    marks: Annotated[list[Mark], Field(max_length=40)]
    hints: Annotated[int, Field(ge=0, le=20)] = 0


class LevelOut(Schema):
    """What was practised at a level."""

    level: int
    done: int
    solved: int
    mean_score: float


class DrillAnswerIn(Schema):
    seed: Seed
    towards_you: bool


@router.get("/practice/exercise", response=ExerciseOut, operation_id="practice_exercise")
def practice_exercise(request: HttpRequest, asked: Query[AskedIn]) -> Any:
    made = practised.made(asked.seed, asked.level)
    return ExerciseOut(
        seed=made.seed,
        level=made.level,
        document=made.doc.model_dump(mode="json", exclude_unset=True),
        faults=len(made.answer),
        placed=sorted(PLACED),
        air_drawn=made.air_drawn,
        hints=len(made.hints()),
        facts=made.facts(),
    )


@router.get("/practice/hint", response=HintOut, operation_id="practice_hint")
def practice_hint(request: HttpRequest, asked: Query[HintIn]) -> Any:
    hints = practised.made(asked.seed, asked.level).hints()
    return HintOut(words=hints[asked.n] if asked.n < len(hints) else "There is no further hint.")


@router.post("/practice/answer", response=Scored, operation_id="practice_answer")
def practice_answer(request: HttpRequest, data: AnswerIn) -> Any:
    """The score and what the findings say of the machine."""
    return practised.answer(data.seed, data.level, data.marks, data.hints)


@router.get("/practice/record", response=list[LevelOut], operation_id="practice_record")
def practice_record(request: HttpRequest) -> Any:
    return practised.record()


@router.get("/practice/drill", response=Drill, operation_id="practice_drill")
def practice_drill(request: HttpRequest, seed: Query[Seed]) -> Any:
    return drill(seed)


@router.post("/practice/drill", response=Drilled, operation_id="answer_drill")
def answer_drill(request: HttpRequest, data: DrillAnswerIn) -> Any:
    return answered(data.seed, data.towards_you)
