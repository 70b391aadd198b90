"""Luck: for every source and run a number between 0 and 1 that hangs on nothing else.

Each source has a stream of its own, named by the seed and by what it is of; the numbers of a stream are a counter that is
mixed (SplitMix64: Steele, Lea & Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014; its constants from
memory). So a thing has the same luck in two ways that are compared, a job that is added changes no other's, and a run can
be played by any thread at any time.
"""

from __future__ import annotations

from hashlib import blake2b

import numpy as np
import numpy.typing as npt

from rovask.core.plan.problem.compiled import compiled_lean

_STEP = np.uint64(0x9E3779B97F4A7C15)
_MIX_1, _MIX_2 = np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)
_30, _27, _31, _11 = np.uint64(30), np.uint64(27), np.uint64(31), np.uint64(11)
_PARTS = 1.0 / (1 << 53)

Streams = npt.NDArray[np.uint64]


def stream_of(seed: int, *name: str) -> np.uint64:
    """The stream of a source. name: what it is of, as its sort and the id of its record."""
    told = "\0".join((str(seed), *name)).encode()
    return np.uint64(int.from_bytes(blake2b(told, digest_size=8).digest(), "big"))


@compiled_lean
def luck(stream, run):  # type: ignore[no-untyped-def]
    """A number from 0 to just below 1: of one stream, in one run."""
    mixed = stream + np.uint64(run + 1) * _STEP
    mixed = (mixed ^ (mixed >> _30)) * _MIX_1
    mixed = (mixed ^ (mixed >> _27)) * _MIX_2
    mixed = mixed ^ (mixed >> _31)
    return np.float64(mixed >> _11) * _PARTS


def lucks(stream: np.uint64, runs: npt.NDArray[np.int64]) -> npt.NDArray[np.float64]:
    """``luck`` of one stream in many runs (or days) at once; the same numbers.

    >>> lucks(stream_of(1, "work", "a"), np.arange(3)).tolist() == [luck(stream_of(1, "work", "a"), n) for n in range(3)]
    True
    """
    with np.errstate(over="ignore"):
        mixed = stream + (runs.astype(np.uint64) + np.uint64(1)) * _STEP
        mixed = (mixed ^ (mixed >> _30)) * _MIX_1
        mixed = (mixed ^ (mixed >> _27)) * _MIX_2
        mixed = mixed ^ (mixed >> _31)
    return (mixed >> _11).astype(np.float64) * _PARTS
