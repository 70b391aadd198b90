"""Every run of the odds is a valid plan of the refit as it turned out in that run: the verifier says so, which shares no code."""

from __future__ import annotations

import pytest

from benches.generate import generated_refit
from rovask.core.odds.deal import dealt
from rovask.core.odds.play import played
from rovask.core.plan.verify.check import Rule, verify
from tests.core.odds_cases import as_plan, typed_game

# What a run may break where a plan may not: an overcoating window is missed and made good inside the task that comes too
# late, a coat that takes longer than a day lies open, a service is out for longer, a slot is passed by what hangs on it.
TURNS_OUT = {Rule.WINDOW, Rule.OUTAGE, Rule.UNBROKEN, Rule.SLINGS, Rule.LEFT_OUT}


@pytest.mark.parametrize("seed", range(12))
def test_a_run_keeps_the_rules(seed: int) -> None:
    game = typed_game(generated_refit(20 + 5 * seed, seed))
    hand = dealt(game.deck, 0, 40)
    played(game.made.net, hand)
    for run in range(0, 40, 8):
        refit, plan = as_plan(game, hand, run)
        found = [one for one in verify(refit, plan) if one.rule not in TURNS_OUT]
        assert not found, (run, found[:6])
