"""Published scheduling instances, run through the same engine as refits.

Files from the data folder of psplib 0.4.0 (MIT). ``j301_1.sm``: PSPLIB (Kolisch & Sprecher, EJOR 96, 1996), optimal
makespan 43. ``UBO10_01.sch``: ProGen/max test set UBO (Franck, Neumann & Schwindt 2001), infeasible. ``RG300_1.rcp``:
Debels & Vanhoucke; its 88 in a minute is shown by the bench, not here. psplib's own reader checks ours.
"""

import time
from pathlib import Path

import pytest
from psplib import parse

from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.problem.instance import problem_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.solver.conflict import RuleKind, find_conflict
from rovask.core.plan.solver.improve import Status, improve
from rovask.core.plan.solver.solve import solve_instance
from rovask.formats.instances import read_instance

FOLDER = Path(__file__).parent / "instances"
FORMATS = {"j301_1.sm": "psplib", "UBO10_01.sch": "rcpsp_max", "RG300_1.rcp": "patterson"}


@pytest.mark.parametrize(("name", "kind"), FORMATS.items())
def test_our_readers_read_what_psplib_reads(name: str, kind: str) -> None:
    ours = read_instance(name, (FOLDER / name).read_text())
    theirs = parse(FOLDER / name, instance_format=kind)
    assert list(ours.durations) == [activity.modes[0].duration for activity in theirs.activities]
    assert [list(row) for row in ours.demands] == [list(activity.modes[0].demands) for activity in theirs.activities]
    assert list(ours.capacities) == [resource.capacity for resource in theirs.resources]
    follows = {(first, then) for first, then, _ in ours.waits}
    assert follows == {(at, then) for at, activity in enumerate(theirs.activities) for then in activity.successors}


def test_j301_1_is_43_and_proven() -> None:
    found = solve_instance(
        read_instance("j301_1.sm", (FOLDER / "j301_1.sm").read_text()), seconds=60, clock=time.monotonic, workers=1
    )
    assert (found.status, found.makespan, found.bound) == (Status.OPTIMAL, 43, 43)


def test_ubo10_01_can_t_hold_and_the_conflict_is_real() -> None:
    problem = problem_of(read_instance("UBO10_01.sch", (FOLDER / "UBO10_01.sch").read_text()))
    assert windows_of(problem).possible  # longest paths see nothing wrong
    assert improve(problem, None, seconds=30, clock=time.monotonic).status is Status.INFEASIBLE
    conflict = find_conflict(problem, 30, time.monotonic)
    assert conflict.proven
    assert conflict.smallest
    kinds = [part.kind for part in conflict.parts]
    assert sorted(kinds) == [RuleKind.RESOURCE, RuleKind.TIE, RuleKind.TIE]
    # By hand: 5 may start at most 5 after 6 and 6 at most 4 after 5, so 9 long and 10 long they overlap; of R2 they
    # take 8 + 9 and there are 10.
    assert {problem.tasks[node - 3] for node in conflict.nodes} == {"5", "6"}
    assert {problem.resources[part.at] for part in conflict.parts if part.kind is RuleKind.RESOURCE} == {"R2"}


@pytest.mark.parametrize("name", ["j301_1.sm", "UBO10_01.sch", "RG300_1.rcp"])
def test_a_file_cut_short_is_refused_in_a_sentence(name: str) -> None:
    text = (FOLDER / name).read_text()
    with pytest.raises(RefitFaults, match="cut short"):
        read_instance(name, text[: len(text) // 2])
    with pytest.raises(RefitFaults, match="ends in"):
        read_instance("plan.txt", text)
