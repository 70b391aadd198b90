"""What is on the table in one run, filled in as it is played."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from rovask.core.odds.net import ABSENT, DONE, END, FIRST, MODE_LO, START, STATE, THEN, TO_PLAY
from rovask.core.plan.problem.arrays import Ints
from rovask.core.plan.problem.compiled import compiled, compiled_into

UNSET, DROPPED = -1, -2
# What set when a node began: another node (its number), or one of these.
BY_ITSELF, BY_PARTS = -1, -2


# Columns of node …
(
    BEGINS, ENDS, CREW, AFTER, WAITS, PULLED, SOONEST, SOONEST_END, OVER, GUESS, FOUND, FINISH, HOW, SET_BY, MISSED, SEEN,
) = range(16)  # fmt: skip
# … of queue …
WHICH, KEY = range(2)
# … of person …
FREE, LAST, RUN, LAST_DAY, GONE, TURNED, FRONT = range(7)
# … and of hand.
HAND, HAND_BY, HAND_TURNED = range(3)


class Table(NamedTuple):
    """Few arrays with many columns: what is used together lies together, and little is handed from function to function.

    node: BEGINS, ENDS (slots; UNSET, or DROPPED with its job), CREW (its mode), AFTER (what it waited for last), WAITS (for
    how many still), PULLED (how many that are done let it wait only so long). Of those that wait for nothing more: SOONEST,
    SOONEST_END, OVER (what set that), and what was found of them last: GUESS (a start it can't be before), FOUND (when it could
    begin), FINISH, HOW (by which mode), SET_BY, MISSED (a wait), SEEN (at which turn that was; UNSET: not to be relied on).
    queue: WHICH nodes may begin, and the KEY by which the next is picked. person: FREE, LAST (after which node), RUN and LAST_DAY
    (days on end at work, and the last), GONE (how far their must-work is done), TURNED (at which turn that changed), FRONT (how far
    their work in the order of the plan is done). hand: when
    each hand slot is free, after which node; in the first of a place at which turn that changed. begun: jobs that are.
    """

    node: Ints
    queue: Ints
    person: Ints
    hand: Ints
    begun: Ints


@compiled
def new_table(net):  # type: ignore[no-untyped-def]
    """An empty table for the runs of a net."""
    size, people, jobs = len(net.node), len(net.rest), len(net.jobs_begun)
    return Table(
        np.zeros((size, 16), dtype=np.int64),
        np.zeros((size, 2), dtype=np.int64),
        np.zeros((people, 7), dtype=np.int64),
        np.zeros((net.hands, 3), dtype=np.int64),
        np.zeros(jobs, dtype=np.int64),
    )


@compiled_into
def laid(net, table):  # type: ignore[no-untyped-def]
    """The table before anything is played. Returns how much there is to play."""
    for who in range(len(net.rest)):
        table.person[who, FREE] = table.person[who, GONE] = table.person[who, FRONT] = table.person[who, TURNED] = 0
        table.person[who, LAST] = BY_ITSELF
        table.person[who, RUN], table.person[who, LAST_DAY] = net.run[who], net.last_day[who]
    for one in range(net.hands):
        table.hand[one, HAND], table.hand[one, HAND_BY], table.hand[one, HAND_TURNED] = 0, BY_ITSELF, 0
    for job in range(len(net.jobs_begun)):
        table.begun[job] = net.jobs_begun[job]
    left = 0
    for node in range(len(net.node)):
        state = net.node[node, STATE]
        table.node[node, WAITS], table.node[node, PULLED], table.node[node, SEEN] = 0, 0, UNSET
        table.node[node, AFTER], table.node[node, ENDS] = BY_ITSELF, UNSET
        table.node[node, CREW] = net.node[node, MODE_LO]
        if state == DONE:
            table.node[node, BEGINS], table.node[node, ENDS] = net.node[node, START], net.node[node, END]
        else:
            table.node[node, BEGINS] = DROPPED if state == ABSENT else UNSET
            left += state == TO_PLAY
    for arc in range(len(net.arc)):
        if net.node[net.arc[arc, FIRST], STATE] == TO_PLAY and net.node[net.arc[arc, THEN], STATE] == TO_PLAY:
            table.node[net.arc[arc, THEN], WAITS] += 1
    return left
