"""What is asked of what hands meet, where one edits what was noted. Measured sheets and shapes have forms of their own."""

from __future__ import annotations

from rovask.core.bench.metal import METALS
from rovask.core.refit.craft.choices import CoverSort, Holds, Larger, NearIt, OfMetal, Reach, Wetness
from rovask.core.refit.model import Refit
from rovask.web.field import Field, How, choices, parts, places


def metals(_: Refit) -> list[tuple[str, str]]:
    """The galvanic series."""
    return [(metal.key, metal.name) for metal in METALS]


# By the name of the kind.
HANDS_FIELDS: dict[str, tuple[Field, ...]] = {
    "seized": (
        Field("title", "What doesn't come", wide=True),
        Field("place", "Where, when in no task", How.CHOICE, options=places, optional=True),
        Field("holds", "It holds by", How.CHOICE, options=choices(Holds, {"thread": "a thread", "press": "being pressed on"})),
        Field("size_mm", "Across the thread or fit", How.NUMBER, "mm"),
        Field("years", "Last apart", How.NUMBER, "years ago"),
        Field("metal", "It is of", How.CHOICE, options=choices(OfMetal, {})),
        Field("around", "and sits in", How.CHOICE, options=choices(OfMetal, {})),
        Field("reach", "One gets at it", How.CHOICE, options=choices(Reach, {"free": "freely", "tight": "with one hand, or half a turn", "blind": "without seeing it"})),
        Field("wet", "Under water or in the splash", How.TICK),
        Field("near", "Beside it lies", How.MANY, options=choices(NearIt, {}), help="what was chosen before stays in the plan; the ladder goes by what stands here now"),
        Field("part", "A new one", How.CHOICE, options=parts, optional=True, help="had before anything may break it"),
        Field("note", "Note", wide=True),
    ),
    "trace": (
        Field("title", "What is searched for", wide=True),
        Field("place", "Where it is found", How.CHOICE, options=places, optional=True),
        Field("since", "Since", How.DATE, optional=True),
        Field("note", "Note", How.AREA, wide=True),
    ),
    "contact": (
        Field("title", "What touches what", wide=True),
        Field("place", "Where", How.CHOICE, options=places, optional=True),
        Field("one", "One is of", How.CHOICE, options=metals),
        Field("other", "The other of", How.CHOICE, options=metals),
        Field("wet", "They are", How.CHOICE, options=choices(Wetness, {})),
        Field("larger", "The larger is", How.CHOICE, options=choices(Larger, {"alike": "neither", "one": "the one", "other": "the other"}), help="by more than about three to one, what is wet of it"),
        Field("apart", "Something that does not conduct lies between", How.TICK),
        Field("note", "Note", wide=True),
    ),
    "cover": (
        Field("title", "What is in the way", wide=True),
        Field("place", "Where", How.CHOICE, options=places, optional=True),
        Field("sort", "It is", How.CHOICE, options=choices(CoverSort, {})),
        Field("open_hours", "To open it", How.NUMBER, "h", "its task in the plan keeps its own hours"),
        Field("close_hours", "To close it", How.NUMBER, "h"),
        Field("bunks", "Bunks it takes", How.NUMBER),
        Field("note", "Note", wide=True),
    ),
}  # fmt: skip
