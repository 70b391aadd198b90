"""The temporal windows against something outside the project.

networkx 3.6 (BSD), Bellman-Ford: longest paths in a network with minimum and maximum lags are shortest paths
with the signs turned (Roy 1962; Bartusch, Moehring & Radermacher, Annals of Operations Research 16, 1988).

The textbook network is the "Reliable Construction Co." project of Hillier & Lieberman, Introduction to
Operations Research (chapter "Project management with PERT/CPM"): fourteen activities, 44 weeks, critical
path A B C E F J L N. Durations and precedence were written down from memory; that they give the book's 44
and the book's path is what this test shows, and networkx finds the same.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from typing import Any

import networkx as nx
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.problem.arrays import LAUNCH_NODE, Problem
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.windows import windows_of
from rovask.core.refit.model import Refit
from tests.builders import HAUL, link, person, refit, task

RELIABLE = {
    "a": (2, ""),
    "b": (4, "a"),
    "c": (10, "b"),
    "d": (6, "c"),
    "e": (4, "c"),
    "f": (5, "e"),
    "g": (7, "d"),
    "h": (9, "eg"),
    "i": (7, "c"),
    "j": (8, "fi"),
    "k": (4, "j"),
    "l": (5, "j"),
    "m": (2, "h"),
    "n": (6, "kl"),
}


def round_the_clock(count: int) -> list[dict[str, Any]]:
    """People who never sleep: two shifts a day with no gap that half-hours could see."""
    days = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
    return [person(f"p{at}", hours=[{"days": days, "start": "00:00", "end": "23:30"}]) for at in range(count)]


def continuous(problem: Problem) -> Problem:
    """The same problem in which everybody works every half-hour, so that only the ties are left."""

    horizon = problem.horizon
    rank = np.arange(horizon + 1, dtype=np.int32)[None, :].repeat(len(problem.arrays.rank), axis=0)
    return replace(problem, arrays=problem.arrays._replace(rank=rank, pos=rank.copy()))


def network(problem: Problem) -> nx.DiGraph:
    """Starts and ends of all nodes with the ties between them; weights are lengths with the sign turned."""
    graph = nx.DiGraph()

    def arc(first: Any, then: Any, weight: int) -> None:
        known = graph.get_edge_data(first, then)
        graph.add_edge(first, then, weight=min(-weight, known["weight"] if known else 10**9))

    for node in range(problem.size):
        arc("origin", (node, "s"), int(max(problem.arrays.release[node], problem.arrays.fixed_start[node])))
        arc((node, "s"), (node, "e"), int(problem.arrays.work[node]))
        arc((node, "e"), (node, "s"), -int(problem.arrays.work[node]))
    for first, then, kind, low, high, *_ in problem.arrays.arcs.tolist():
        source, target = (first, "e" if kind in (0, 2) else "s"), (then, "s" if kind in (0, 1) else "e")
        arc(source, target, low)
        if high >= 0:
            arc(target, source, -high)
    return graph


def longest_paths(graph: nx.DiGraph, origin: Any) -> dict[Any, int] | None:
    """Length of the longest path from ``origin`` to every node it reaches; None if a cycle of ties can't hold."""
    try:
        lengths = nx.single_source_bellman_ford_path_length(graph, origin)
    except nx.NetworkXUnbounded:
        return None
    return {key: -length for key, length in lengths.items() if key != "origin"}


@st.composite
def networks(draw: st.DrawFn) -> Refit:
    count = draw(st.integers(2, 14))
    rows = [task(f"t{at}", draw(st.integers(1, 20)) / 2) for at in range(count)]
    links = {}
    for _ in range(draw(st.integers(1, 2 * count))):
        first, then = draw(st.integers(0, count - 1)), draw(st.integers(0, count - 1))
        if first == then or (first > then and draw(st.integers(0, 5))):
            continue
        kind = draw(st.sampled_from(["FS", "SS", "FF", "SF"]))
        low = draw(st.integers(0, 40)) / 2
        high = draw(st.one_of(st.none(), st.integers(0, 60).map(lambda slots, low=low: low + slots / 2)))
        links[first, then, kind] = link(f"t{first}", f"t{then}", low, high, kind)
    return refit(*rows, links=list(links.values()), people=round_the_clock(1))


@settings(max_examples=300, deadline=None, derandomize=True)
@given(networks())
def test_windows_are_the_longest_paths_of_networkx(made: Refit) -> None:
    problem = continuous(compile_refit(made, HAUL))
    windows = windows_of(problem)
    expected = longest_paths(network(problem), "origin")
    beyond = expected is not None and max(expected.values()) > problem.horizon
    assert windows.possible == (expected is not None and not beyond)
    if windows.possible and expected is not None:
        for node in range(problem.size):
            assert windows.start[node] == expected[node, "s"]
            assert windows.end[node] == expected[node, "e"]


@settings(max_examples=100, deadline=None, derandomize=True)
@given(networks())
def test_latest_times_are_the_longest_paths_seen_from_the_launch(made: Refit) -> None:
    problem = continuous(compile_refit(made, HAUL))
    windows = windows_of(problem)
    if not windows.possible:
        return
    launch = int(windows.start[LAUNCH_NODE])
    late = windows_of(problem, launch=launch)
    graph = network(problem)
    graph.remove_node("origin")
    behind = longest_paths(graph.reverse(), (LAUNCH_NODE, "s"))
    assert behind is not None
    for node in range(2, problem.size):
        assert late.latest_start[node] == launch - behind[node, "s"]
        assert late.latest_end[node] == launch - behind[node, "e"]


def test_the_textbook_project_takes_44_with_its_critical_path() -> None:
    rows = [task(key, duration) for key, (duration, _) in RELIABLE.items()]
    links = [link(before, key) for key, (_, waits) in RELIABLE.items() for before in waits]
    made = refit(*rows, links=links, people=round_the_clock(4), places=[{"id": "hull", "name": "Site", "capacity": 9}])
    problem = continuous(compile_refit(made, HAUL))
    windows = windows_of(problem)
    finish = max(int(windows.end[problem.node(key)]) for key in RELIABLE)
    assert finish - problem.arrays.now == 44 * 2
    tight = windows_of(problem, launch=finish)
    critical = [key for key in RELIABLE if tight.latest_start[problem.node(key)] == windows.start[problem.node(key)]]
    assert "".join(critical) == "abcefjln"
    assert longest_paths(network(problem), "origin") is not None


def test_the_planner_meets_the_textbook_length_with_hands_enough() -> None:
    """With enough people the resource-constrained plan is as long as the critical path, in working hours."""
    days = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
    crew = [person(f"p{at}", hours=[{"days": days, "start": "00:00", "end": "22:00"}]) for at in range(5)]
    rows = [task(key, duration) for key, (duration, _) in RELIABLE.items()]
    links = [link(before, key) for key, (_, waits) in RELIABLE.items() for before in waits]
    made = refit(*rows, links=links, people=crew, places=[{"id": "hull", "name": "Site", "capacity": 9}])
    plan = plan_and_judge(made, HAUL).plan
    length = max(item.end for item in plan.assignments) - HAUL
    assert length == timedelta(hours=44 + 2 * 2)  # 44 h of work, and two nights of two hours in which nobody works
