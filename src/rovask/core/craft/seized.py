"""What will not come off: the ladder of means for one fastening, with the chance of each, and the figures behind it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from rovask.core.bench.fastening import EXPANSION
from rovask.core.craft.means import MeansLine, SeizedTables
from rovask.core.plain.half_hours import half_hours
from rovask.core.refit.craft.choices import Holds, Means, NearIt, Reach, Tried
from rovask.core.refit.craft.kinds import Seized

OTHER_PAIR = 0.7  # ease of metals no row of the table knows (judgement)
YEARS, WET = 25, 0.85  # after so many years it comes half as readily; and so much less where it is wet (judgement)
BY_HEAT = (Means.WARM, Means.FLAME, Means.COLD)  # they work by what expands more
SLOWER = {Reach.FREE: 1.0, Reach.TIGHT: 1.5, Reach.BLIND: 2.0}  # times the hours, by how one gets at it (judgement)
RISKY = 0.05  # from this chance of breaking on, a new one is had first (judgement)


@dataclass(frozen=True, slots=True)
class Step:
    """One means on the ladder. hours, wait: with its access; comes, breaks, holds: chances that add up to 1; reached: the chance
    that one gets as far as this. because: why it is left out ("": it is on the ladder). done: how it turned out, where it was tried.
    """

    means: Means
    line: MeansLine
    hours: float
    comes: float
    breaks: float
    reached: float = 1.0
    because: str = ""
    done: Tried | None = None

    @property
    def holds(self) -> float:
        """The chance that it stays fast and whole."""
        return max(1 - self.comes - self.breaks, 0.0)

    @property
    def elapsed(self) -> float:
        """Hours it takes by the clock, from its begin to knowing."""
        return self.hours + self.line.wait


@dataclass(frozen=True, slots=True)
class Ladder:
    """The ladder of one fastening: the steps that are used, those left out, how readily it comes (0 to 1) and why."""

    steps: tuple[Step, ...]
    left_out: tuple[Step, ...]
    ease: float
    because: str

    @property
    def ahead(self) -> tuple[Step, ...]:
        """What was not tried yet."""
        return tuple(step for step in self.steps if step.done is None)

    def hours_after(self, at: int) -> tuple[float, float, float]:
        """Hours of work still to come once step ``at`` of those ahead has held: the next step alone, what is to be expected, all.

        Expected: each later step's hours times the chance of getting there, given that this one held.
        """
        later = self.ahead[at + 1 :]
        expected, there = 0.0, 1.0
        for step in later:
            expected += there * step.hours
            there *= step.holds
        return (later[0].hours if later else 0.0), expected, sum(step.hours for step in later)

    @property
    def breaks_in_all(self) -> float:
        """The chance that it breaks somewhere on the way, from here on."""
        return sum(step.reached * step.breaks for step in self.ahead)


def ease_of(tables: SeizedTables, seized: Seized) -> tuple[float, str]:
    """How readily it comes, 0 to 1, and the sentence of its metals: metals ÷ (1 + years ÷ 25) x 0.85 where it is wet (judgement).

    The pair counts either way round.
    """
    found = next(
        (row for row in tables.pair if {row.metal, row.around} == {seized.metal, seized.around}
         and (row.metal is seized.metal or row.around is seized.metal)), None,
    )  # fmt: skip
    pair, because = (
        (found.ease, found.because) if found is not None else (OTHER_PAIR, "no special quarrel of its metals")
    )
    return pair / (1 + seized.years / YEARS) * (WET if seized.wet else 1.0), because


def chances(line: MeansLine, ease: float, size_mm: float) -> tuple[float, float]:
    """That a means brings it off, and that it breaks it: comes = 1 - (1 - c)^ease, breaks = b x (8 ÷ size)^(1/2) ÷ ease^(1/2).

    What ends the thing anyway does not mind how fast it sits. Judgement; both together at most 1.

    >>> line = MeansLine(title="x", hours=1, comes=0.5, breaks=0.1, does="x")
    >>> [round(one, 3) for one in chances(line, 1, 8)], [round(one, 3) for one in chances(line, 0.25, 8)]
    ([0.5, 0.1], [0.159, 0.2])
    """
    if line.ends:
        return line.comes, min(line.breaks, 1 - line.comes)
    comes = 1 - (1 - line.comes) ** ease
    breaks = min(line.breaks * math.sqrt(8 / size_mm) / math.sqrt(ease), 0.5)
    return comes, min(breaks, 1 - comes)


def helped(means: Means, seized: Seized) -> float:
    """By how much heat helps: what sits outside opens by its expansion, what sits inside grows by its own; 1 for all else."""
    return EXPANSION[seized.around] / EXPANSION[seized.metal] if means in BY_HEAT else 1.0


def hours_of(line: MeansLine, reach: Reach) -> tuple[float, ...]:
    """Hours of each task of a means as it is planned, in half-hours: applied, and where it has to wait, tried after it.

    >>> oil = MeansLine(title="x", hours=0.3, wait=12, tries=0.3, comes=0.5, does="x")
    >>> hours_of(oil, Reach.TIGHT), hours_of(oil.model_copy(update={"wait": 0}), Reach.FREE)
    ((0.5, 0.5), (1.0,))
    """
    steps = (line.hours, line.tries) if line.wait else (line.hours + line.tries,)
    return tuple(half_hours(hours * SLOWER[reach]) for hours in steps)


def why_not(line: MeansLine, means: Means, seized: Seized) -> str:
    """Why a means is left out; "" where it is not."""
    hurt = [one.value for one in seized.near if one in line.never_near]
    if hurt:
        return f"never beside {' and '.join(hurt)}"
    if line.only is not None and line.only is not seized.holds:
        return "only for what is pressed on" if line.only is Holds.PRESS else "only for a thread"
    if seized.around in line.never_around or seized.metal in line.never_around:
        return "never on aluminium"
    if line.of_metal and seized.metal not in line.of_metal:
        return f"not on {seized.metal.value}"
    if means in (Means.SHOCK, Means.GRIND) and seized.reach is Reach.BLIND:
        return "no room to swing or see"
    return ""


def ladder(tables: SeizedTables, seized: Seized) -> Ladder:
    """The means for one fastening in their order, with chances, and what was tried already; broken, only what ends it is left."""
    ease, because = ease_of(tables, seized)
    tried = {rung.means: rung.outcome for rung in seized.tried}
    broken = Tried.BROKE in tried.values()
    steps, out, reached = [], [], 1.0
    for means, line in tables.means.items():
        comes, breaks = chances(line, min(ease * helped(means, seized), 1.0), seized.size_mm)
        hours = sum(hours_of(line, seized.reach))
        why = why_not(line, means, seized) if means not in tried else ""
        if not why and broken and means not in tried and not (line.ends or means is Means.WELD):
            why = "it is broken"
        step = Step(means, line, hours, comes, breaks, reached, why, tried.get(means))
        if why:
            out.append(step)
            continue
        steps.append(step)
        if step.done is None:
            reached *= step.holds
    return Ladder(tuple(steps), tuple(out), ease, because)


def heat_harms(near: tuple[NearIt, ...]) -> list[str]:
    """What is said of what lies beside it before heat comes near."""
    told = {
        NearIt.WIRING: "wiring: tied away or wet rags on it",
        NearIt.BEDDING: "bedding lets go at some 100 °C: it is bedded anew afterwards",
        NearIt.CORE: "core chars unseen: hot air at most, a hand on it all the time",
        NearIt.PAINT: "paint blisters and its fumes harm: scraped off first, mask",
        NearIt.RUBBER: "rubber: out first, or no heat",
        NearIt.WOOD: "wood: wetted, looked at again an hour later",
        NearIt.FUEL: "fuel: no heat, no sparks, not even a grinder",
        NearIt.GAS: "gas: no heat, no sparks until a licensed fitter has made it safe",
    }
    return [told[one] for one in near]
