"""What the gate is made of: its items by stage, what speaks against letting her float, the one next act."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import GateTick, Task


class Why(StrEnum):
    """What speaks against floating her, the gravest first."""

    DANGEROUS = "dangerous"
    NOT_RIGHT = "not right"
    MISSING = "missing"
    OFF = "off"
    OPEN = "open"
    BORROWED = "borrowed"
    WORK = "work not done"
    SNAG = "did not pass"
    ACCEPTANCE = "not looked at"
    CURING = "curing"
    UNPAID = "unpaid"


@dataclass(frozen=True, slots=True)
class Block:
    """One thing that speaks against it: which record (kind and id), what to do next, until when at the least.

    key: the mark by which it is overruled; of the thing as it stands, so that more of the same is asked again. overruled: by whom and why she may go all the same; never for what is dangerous.
    """

    key: str
    why: Why
    words: str
    act: str
    kind: str
    record: str
    until: datetime | None = None
    overruled: GateTick | None = None

    @property
    def holds(self) -> bool:
        """Whether it still holds her."""
        return self.overruled is None or self.why is Why.DANGEROUS


@dataclass(frozen=True, slots=True)
class Item:
    """One thing to look at. tick: the last word on it; versions: two that differ, where two people said so at once.

    by_task: the task of the plan that stands for it and is done. late: seen, but later than it should have been.
    again: it was seen right before something was done to it since.
    """

    key: str
    stage: Stage
    title: str
    words: str
    where: str
    due: datetime
    tick: GateTick | None = None
    versions: tuple[GateTick, ...] = ()
    by_task: Task | None = None
    again: bool = False

    @property
    def passed(self) -> bool:
        """Whether it was seen and is as it should be."""
        if self.versions:
            return False
        return self.tick.passed if self.tick is not None else self.by_task is not None

    @property
    def failed(self) -> bool:
        """Whether it was seen and is not as it should be, and nobody took responsibility for it by name."""
        return bool(self.versions) or (self.tick is not None and not self.tick.passed and not self.tick.overruled)

    @property
    def open(self) -> bool:
        """Whether nobody has said anything of it yet."""
        return not self.passed and self.tick is None and not self.versions


@dataclass(frozen=True, slots=True)
class StageState:
    """One stage of the way into the water."""

    stage: Stage
    due: datetime
    items: tuple[Item, ...]

    @property
    def passed(self) -> int:
        """How many are as they should be, or were taken on by name."""
        return sum(item.passed or (item.tick is not None and item.tick.overruled) for item in self.items)

    @property
    def done(self) -> bool:
        """Whether all of it is settled."""
        return self.passed == len(self.items)


@dataclass(frozen=True)
class Gate:
    """How it stands at a moment. let_go: the tick by which she was let go, when she was."""

    stages: Mapping[Stage, StageState]
    blocks: tuple[Block, ...]
    let_go: GateTick | None
    warnings: tuple[str, ...] = ()

    def held(self, stage: Stage) -> tuple[Block, ...]:
        """What holds her at a stage: everything, before she is let go; afterwards only what was seen to be wrong."""
        if stage in (Stage.BEFORE, Stage.SLINGS):
            return tuple(one for one in self.blocks if one.holds)
        return tuple(one for one in self.blocks if one.holds and one.why in (Why.DANGEROUS, Why.NOT_RIGHT))

    def ready(self, stage: Stage) -> bool:
        """Whether everything up to a stage, the stage itself included, is settled and nothing holds her."""
        order = list(Stage)
        before = order[: order.index(stage) + 1]
        return not self.held(stage) and all(self.stages[one].done for one in before)

    @property
    def now_at(self) -> Stage:
        """The first stage that isn't settled; the last one when all are."""
        for stage, state in self.stages.items():
            if not state.done or (stage is Stage.BEFORE and self.held(stage)):
                return stage
        return Stage.WEEK

    def next_act(self, stage: Stage) -> Block | Item | None:
        """The one next thing to do for a stage: the gravest block, else the first look nobody took; None when ready."""
        held = self.held(stage)
        if held:
            return held[0]
        order = list(Stage)
        for one in order[: order.index(stage) + 1]:
            found = next((item for item in self.stages[one].items if not item.passed and not _taken_on(item)), None)
            if found is not None:
                return found
        return None


def _taken_on(item: Item) -> bool:
    return item.tick is not None and item.tick.overruled
