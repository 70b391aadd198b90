"""Recipes: taken into the refit, brought in as files, given and taken out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from rovask.core.books.pace import drawn_in
from rovask.core.books.savings import INTERIM_HOURS
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plan.progress import estimate
from rovask.core.recipes.answers import Answers, asked
from rovask.core.recipes.common import Library
from rovask.core.recipes.own_way import OwnWay
from rovask.core.recipes.preview import Pick, filled
from rovask.core.recipes.recipe import Recipe
from rovask.core.recipes.sides import apart
from rovask.core.recipes.ways import adopted_way, place_of, ways_of_finding, ways_of_recipe
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Refit
from rovask.core.refit.seen.edits import job_came_of
from rovask.core.refit.whole import Edited
from rovask.desk.command import DirectCommand, EditOutcome, RefitCommand, Scene, Situation
from rovask.formats.recipe_file import library, read_recipe, renamed, scaled
from rovask.store import recipes, refits
from rovask.store.errors import NotFound


@dataclass(frozen=True)
class AddRecipes(RefitCommand):
    """Take some recipes in, in one change. Makes the first one's job.

    answers: for each recipe, by its id. own: skills the crew takes over. finding: what the first job comes of; parked:
    the parked job that waits no longer.
    """

    answers: Mapping[str, Answers]
    own: frozenset[str] = frozenset()
    reason: str = ""
    finding: str = ""
    parked: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """With their jobs. Raises RefitFaults for what doesn't fit."""
        at_hand = at.library()
        picks = [Pick(_recipe(at_hand, key), answers) for key, answers in self.answers.items()]
        if not picks:
            raise RefitFaults([Fault("", "Tick at least one recipe first.")])
        basket = filled(at_hand, refit, picks, self.own, self.reason)
        after, job = basket.refit, basket.expansions[0].job.id
        if any(one.id == self.finding for one in after.findings):
            after = job_came_of(after, self.finding, job)
        if any(one.id == self.parked for one in after.parked):
            after = rebuilt(after, parked=tuple(one for one in after.parked if one.id != self.parked))
        titles = [pick.recipe.title for pick in picks]
        more = f" and {len(titles) - 3} more" if len(titles) > 3 else ""
        told = f"added “{titles[0]}” from its recipe"
        if len(titles) > 1:
            told = f"added from recipes: {', '.join(titles[:3])}{more}"
        return EditOutcome(Edited(after), told, job)


def _recipe(at_hand: Library, key: str) -> Recipe:
    if key not in at_hand.recipes:
        raise NotFound("There is no such recipe. Look in the list of recipes.")
    return at_hand.recipes[key]


@dataclass(frozen=True)
class DecideSchool(RefitCommand):
    """Adopt one answer to a recipe's question with its reason: the job comes in, or is parked; the decision is kept.

    answers: to its other questions; mine: skills the crew takes over; then: how it is done next time, when it is put off.
    """

    recipe: str
    question: str
    way: str
    reason: str = ""
    own: tuple[OwnWay, ...] = ()
    offers: Mapping[str, int] = field(default_factory=dict)
    answers: Answers = field(default_factory=dict)
    mine: frozenset[str] = frozenset()
    then: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Makes the job, nothing when it is parked."""
        at_hand = at.library()
        recipe = _recipe(at_hand, self.recipe)
        ways = ways_of_recipe(
            at_hand, refit, at.planned, recipe, self.question, self.own, self.offers, self.answers, self.mine
        )
        title = f"{recipe.title}: {asked(recipe, refit)[self.question].label}"
        edited, job = adopted_way(
            at_hand,
            refit,
            at.moment,
            title,
            ways,
            self.way,
            self.reason,
            None,
            at.new_id,
            self.mine,
            self.then,
            place_of(refit, recipe),
        )
        chosen = next(way.title for way in ways if way.value == self.way)
        return EditOutcome(edited, f"decided: {title}, {chosen}", job)


@dataclass(frozen=True)
class DecideFinding(RefitCommand):
    """Adopt what to do about a finding, with its reason. interim: hours and minor units of the interim fix; then: how it is
    done properly next time, when it is put off.
    """

    finding: str
    way: str
    reason: str = ""
    interim: tuple[float, int] = field(default=(INTERIM_HOURS, 0))
    own: tuple[OwnWay, ...] = ()
    offers: Mapping[str, int] = field(default_factory=dict)
    then: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Makes the job, nothing when it is left to the next haul-out."""
        finding = next((one for one in refit.findings if one.id == self.finding), None)
        if finding is None:
            raise RefitFaults([Fault("", "This finding is gone; somebody removed it meanwhile.")])
        at_hand = at.library()
        ways = ways_of_finding(at_hand, refit, at.planned, finding, self.interim, self.own, self.offers)
        edited, job = adopted_way(
            at_hand, refit, at.moment, finding.title, ways, self.way, self.reason, finding, at.new_id, then=self.then
        )
        chosen = next(way.title for way in ways if way.value == self.way)
        return EditOutcome(edited, f"decided: {finding.title}, {chosen}", job)


@dataclass(frozen=True)
class BringInRecipe(DirectCommand):
    """Keep a recipe file as one's own and give it to this refit; a shipped one is never replaced."""

    content: bytes

    def run(self, scene: Scene, pk: int) -> str:
        """The id it is kept under. Raises RefitFaults."""
        recipe = read_recipe(self.content, library().common)
        text = self.content.decode("utf-8-sig")
        if scene.actor.account is None:
            raise NotFound("A recipe belongs to somebody.")
        key = recipes.own_key(scene.session, recipe, scene.actor.account)
        if key != recipe.id:
            text = renamed(text, key)
        recipes.keep(scene.session, key, text, scene.actor.account, pk, scene.clock)
        return key


@dataclass(frozen=True)
class LearnRecipe(DirectCommand):
    """Keep the recipe of a job as one's own, with the hours of its steps as they turned out; drawn towards what was thought,
    for one boat is one boat.
    """

    job: str

    def run(self, scene: Scene, pk: int) -> str:
        """The id it is kept under. Raises RefitFaults when nothing was learned, NotFound for a recipe that is gone."""
        refit = refits.load(scene.session, pk).refit
        job = next((one for one in refit.jobs if one.id == self.job), None)
        if job is None or scene.actor.account is None:
            raise NotFound("This job is gone; somebody removed it meanwhile.")
        text = recipes.text_for(scene.session, job.recipe or "", pk)
        learned, found = 0, dict[str, list[float]]()
        for task in job.tasks:
            if task.done_at is None or task.id not in refit.logged:
                continue
            ratio = refit.logged[task.id] / (estimate(task) * task.hands)
            factor = round(drawn_in([(ratio, 1.0)])[0], 2)
            step, _ = apart(task.id.removeprefix(f"{job.id}-"))
            found.setdefault(step, []).append(factor)
        for step, factors in found.items():
            after = scaled(text, step, round(sum(factors) / len(factors), 2))
            learned += after != text
            text = after
        if not learned:
            why = "Nothing was learned of it yet: no step of its recipe is done with hours logged."
            raise RefitFaults([Fault("", why)])
        recipe = read_recipe(text.encode(), library().common)
        key = recipes.own_key(scene.session, recipe, scene.actor.account)
        recipes.keep(scene.session, key, renamed(text, key), scene.actor.account, pk, scene.clock)
        return key


@dataclass(frozen=True)
class GiveRecipe(DirectCommand):
    """Have one's own recipe at hand in this refit too."""

    key: str

    def run(self, scene: Scene, pk: int) -> None:
        """Given."""
        recipes.give(scene.session, self.key, scene.actor.account or 0, pk)


@dataclass(frozen=True)
class TakeOutRecipe(DirectCommand):
    """Take an own recipe out of this refit; jobs made of it stay."""

    key: str

    def run(self, scene: Scene, pk: int) -> None:
        """Out."""
        recipes.take_out(scene.session, self.key, pk)
