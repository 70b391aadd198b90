"""When the crews of a net can work, in the quick form the play reads; for work that needs weather one calendar a sky."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from rovask.core.odds.skies import Skies, forecast_alone
from rovask.core.plan.problem.arrays import FOREVER
from rovask.core.plan.problem.calendar import Mask, SlotGrid
from rovask.core.plan.problem.compiled import compiled
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.plan.problem.sky import suitable
from rovask.core.refit.givens.weather import Weather
from rovask.core.refit.model import WeatherNeed

Smalls = npt.NDArray[np.int16]
Masks = npt.NDArray[np.bool_]


@compiled
def _tables(masks):  # type: ignore[no-untyped-def]
    """rank, pos, left, most of many calendars; see ``Calendars.arrays``."""
    many, size = masks.shape
    most = np.zeros(many, dtype=np.int16)
    rank = np.zeros((many, size + 1), dtype=np.int16)
    pos = np.full((many, size + 1), size, dtype=np.int16)
    left = np.zeros((many, size + 1), dtype=np.int16)
    for row in range(many):
        count = 0
        for slot in range(size):
            rank[row, slot] = count
            if masks[row, slot]:
                pos[row, count] = slot
                count += 1
        rank[row, size] = count
        for k in range(count - 1, -1, -1):
            follows = k + 1 < count and pos[row, k + 1] == pos[row, k] + 1
            left[row, k] = left[row, k + 1] + 1 if follows else 1
            most[row] = max(most[row], left[row, k])
    return rank, pos, left, most


@dataclass
class NetCalendars:
    """Calendars by content; those that hang on the weather lie as many rows on end as there are skies.

    skies: None takes the forecast at its word, as the only sky.
    """

    grid: SlotGrid
    weather: Weather
    skies: Skies | None
    index: dict[bytes, int] = field(default_factory=dict)
    by_sky: dict[tuple[bytes, WeatherNeed], int] = field(default_factory=dict)
    suit: dict[WeatherNeed, Masks] = field(default_factory=dict)
    rows: list[Masks] = field(default_factory=list)
    size: int = 0
    _tabled: tuple[Smalls, Smalls, Smalls, Smalls] | None = None
    _dry: Smalls | None = None
    _warmth: npt.NDArray[np.int64] | None = None

    @property
    def many(self) -> int:
        """How many skies there are."""
        return 1 if self.skies is None else len(self.skies.rain)

    def plain(self, mask: Mask) -> int:
        """The row of a calendar that no weather touches."""
        key = mask.tobytes()
        if key not in self.index:
            self.index[key] = self._add(mask[None, :])
        return self.index[key]

    def under(self, mask: Mask, need: WeatherNeed) -> int:
        """The first of the rows, one a sky, of a calendar that some weather is needed in."""
        key = mask.tobytes(), need
        if key not in self.by_sky:
            self.by_sky[key] = self._add(mask[None, :] & self._suits(need))
        return self.by_sky[key]

    def _add(self, masks: Masks) -> int:
        at = self.size
        self.rows.append(masks)
        self.size += len(masks)
        self._tabled = None
        return at

    def _suits(self, need: WeatherNeed) -> Masks:
        if need not in self.suit:
            if self.skies is None:
                self.suit[need] = suitable(self.grid, self.weather, need)[None, :]
            else:
                self.suit[need] = np.asarray(self.skies.by_slot(self.grid, self.skies.suits(need)), dtype=np.bool_)
        return self.suit[need]

    def arrays(self) -> tuple[Smalls, Smalls, Smalls, Smalls]:
        """rank[c, t]: working slots before t; pos[c, k]: the k-th, the grid's size if none; left[c, k]: in a row from there.

        most[c]: the most of them in a row.
        """
        if self._tabled is None:
            rank, pos, left, most = _tables(np.concatenate(self.rows))
            self._tabled = rank, pos, left, most
        return self._tabled

    def dry(self) -> Smalls:
        """dry[s, t]: slots on end, from t on, without rain in sky s; the last column is past the grid."""
        if self._dry is not None:
            return self._dry
        wet = forecast_alone(self.grid, self.weather)
        if self.skies is not None:
            wet = np.asarray(self.skies.by_slot(self.grid, self.skies.rain), dtype=np.bool_)
        out = np.full((len(wet), self.grid.size + 1), np.iinfo(np.int16).max, dtype=np.int16)
        for slot in range(self.grid.size - 1, -1, -1):
            out[:, slot] = np.where(wet[:, slot], 0, np.minimum(out[:, slot + 1], FOREVER >> 6) + 1)
        self._dry = out
        return out

    def warmth(self, alone: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
        """The cure clock (plan/problem/curing.py) of each sky. alone: as the planner has it, for the only one."""
        if self.skies is None:
            return alone[None, :]
        if self._warmth is not None:
            return self._warmth
        temperature = np.asarray(self.skies.by_slot(self.grid, self.skies.temperature), dtype=np.float64)
        # cure_rate of givens/weather.py, of many at once
        rates = 1 / 2 ** ((20.0 - np.clip(temperature, 0.0, 40.0)) / 10.0)
        whole = np.maximum(np.rint(rates * CURE_UNIT), 1).astype(np.int64)
        self._warmth = np.concatenate([np.zeros((len(whole), 1), dtype=np.int64), np.cumsum(whole, axis=1)], axis=1)
        return self._warmth
