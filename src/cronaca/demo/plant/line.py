"""A drying line's process: press, pre-dryer, three zones, cooler; several instances at once as columns.

- Air of a stage: temperature follows the steam valve and the wet product with first-order lags; its
  humidity ratio is a water balance of evaporation, steam leaks, exhaust through the damper and the
  open door. Relative humidity follows by the psychrometric relations.
- Dampers are driven by a PI controller with stiction: they hunt (common practice, no source).
- Product: thin-layer drying after Lewis, dM/dt = -k (M - Me), with k rising with temperature (Arrhenius)
  and Me the equilibrium moisture of durum pasta after a modified Oswin form; coefficients are made up
  within the usual range. It reaches a stage half a residence time
  after it left the one before (dead time), and the stage itself answers with a first-order lag.
- Doors, jams and steam trips come at random; lots change every one and a half hours or so (chance.py).
"""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from cronaca.core.psychrometrics import relative_humidity, saturation_pressure
from cronaca.demo.plant.chance import NORMALS, UNIFORMS, Chance, Lots
from cronaca.demo.plant.signals import SIGNALS

Floats = NDArray[np.float64]

_STAGES: Final = 4
_TEMPERATURES: Final = np.array(
    [[66.0, 71.5, 74.0, 68.0], [70.0, 76.0, 79.0, 72.0], [62.0, 67.0, 70.0, 65.0]]
)
"""Set points by product, °C."""
_HUMIDITIES: Final = np.array([0.62, 0.79, 0.81, 0.74])
_RESIDENCE_S: Final = np.array([900.0, 2400.0, 2400.0, 1800.0])
_PRODUCTS: Final = np.array([1101, 2204, 3310])
_FRESH_AIR: Final = 0.009
"""Humidity ratio of the hall's air, kg/kg."""
_DRY_PRODUCT: Final = 0.4
"""kg of dry matter a second at full speed."""
_AIR_MASS: Final = np.array([220.0, 520.0, 520.0, 420.0])
"""kg of dry air in each stage."""
_EXHAUST: Final = 0.9
"""kg/s of air through a fully open damper."""


@dataclass(frozen=True, slots=True)
class LineSettings:
    """One line: `start_s` is the second of the plant's time at which it begins; dampers with more stiction
    hunt more."""

    seed: int
    start_s: int = 0
    first_lot: int = 48_200
    hunting: float = 1.0


class DryingLine:
    """Lines that run beside each other; seeded, so a run can be repeated to the bit."""

    def __init__(self, lines: Sequence[LineSettings]) -> None:
        self._settings = list(lines)
        self._n = len(self._settings)
        self._seconds = np.array([line.start_s for line in self._settings], np.float64)
        self._chance = Chance([f.seed for f in self._settings], [f.start_s for f in self._settings])
        self._hunting = np.array([line.hunting for line in self._settings])
        self._schedules = [Lots(line.seed, line.first_lot) for line in self._settings]
        self._lot = np.zeros(self._n, np.int64)
        self._product = np.zeros(self._n, np.int64)
        self._lot_ends = np.full(self._n, -np.inf)
        self._next_lots()
        self._start_press()
        self._start_air()
        self._door, self._jam, self._trip = (np.zeros(self._n) for _ in range(3))
        self.energy = np.full(self._n, 5.1e6)
        self._normals, self._uniforms = np.zeros((NORMALS, self._n)), np.zeros((UNIFORMS, self._n))

    def __len__(self) -> int:
        return self._n

    def select(self, places: Sequence[int]) -> DryingLine:
        """Some of the lines as they are now, to go on by themselves."""
        selected = DryingLine([self._settings[i] for i in places])
        selected._seconds = self._seconds[places]
        selected._chance = Chance(
            [f.seed for f in selected._settings], selected._seconds.astype(int).tolist()
        )
        for name, column in vars(self).items():
            if isinstance(column, np.ndarray) and column.shape[-1:] == (self._n,):
                setattr(selected, name, column[..., places].copy())
        selected._transport = self._transport.select(places)
        return selected

    def state(self) -> dict[str, NDArray[Any]]:
        """Everything that changes, by name: with the same settings, `go_on` makes the same lines of it."""
        columns = {name: column for name, column in vars(self).items() if isinstance(column, np.ndarray)}
        return {**columns, "chance_at": self._chance.at, **self._transport.state()}

    def go_on(self, state: Mapping[str, NDArray[Any]]) -> None:
        """Goes on from a state; raises ValueError, and leaves all as it is, for one of other lines."""
        mine = self.state()
        shapes = {name: column.shape for name, column in state.items()}
        if shapes != {name: column.shape for name, column in mine.items()}:
            raise ValueError("The state is of other lines, or of another version.")
        for name in vars(self):
            if name in state:
                setattr(self, name, np.array(state[name], mine[name].dtype))
        self._chance = Chance([line.seed for line in self._settings], state["chance_at"].tolist())
        self._transport.go_on(state)

    def _start_press(self) -> None:
        n = self._n
        self._dough = np.full(n, 31.0)
        self._speed = np.full(n, 24.0)
        self._pressure = np.full(n, 98.0)
        self._vacuum = np.full(n, 78.0)
        self._wander = np.zeros((4, n))

    def _start_air(self) -> None:
        n = self._n
        self._temp = np.tile(_TEMPERATURES[0][:, None], (1, n))
        sat = saturation_pressure(self._temp)
        vapour = _HUMIDITIES[:, None] * sat
        self._ratio = 0.621945 * vapour / (101_325.0 - vapour)
        self._steam = np.full((_STAGES, n), 45.0)
        self._damper = np.full((_STAGES, n), 38.0)
        self._damper_wish = self._damper.copy()
        self._integral = np.full((_STAGES, n), 38.0)
        self._moisture = np.tile(np.array([24.0, 19.0, 15.2, 12.6])[:, None], (1, n))
        self._cooler = np.full(n, 29.0)
        self._transport = _Transport(np.vstack([self._dough[None], self._moisture[:-1]]))

    def step(self, dt: float) -> None:
        """Moves on by `dt` seconds (up to about 5)."""
        self._normals, self._uniforms = self._chance.step()
        self._seconds += dt
        self._step_events(dt)
        self._step_press(dt)
        self._step_air(dt)
        self._step_product(dt)

    def _step_events(self, dt: float) -> None:
        # Per second: a door every two hours or so, a jam every three, a steam trip every two days.
        for i, (left, chance, shortest, longest) in enumerate(
            (
                (self._door, 1 / 7200, 60.0, 900.0),
                (self._jam, 1 / 10_800, 4.0, 90.0),
                (self._trip, 1 / 172_800, 120.0, 900.0),
            )
        ):
            np.maximum(left - dt, 0, out=left)
            fresh = (self._uniforms[i] < chance * dt) & (left <= 0)
            if fresh.any():
                left[fresh] = (shortest + (longest - shortest) * self._uniforms[3 + i])[fresh]
        self._next_lots()

    def _next_lots(self) -> None:
        for i in np.flatnonzero(self._seconds >= self._lot_ends).tolist():
            self._lot[i], self._product[i], self._lot_ends[i] = self._schedules[i].at(self._seconds[i])

    def _step_press(self, dt: float) -> None:
        pull = np.array([1 / 400, 1 / 90, 1 / 60, 1 / 200])[:, None]
        noise = self._normals[:4]
        self._wander += dt * -pull * self._wander + np.sqrt(2 * pull * dt) * noise
        jammed = self._jam > 0
        speed_wish = np.where(jammed, 8.0, 24.0 + 0.3 * self._wander[3])
        self._speed += (speed_wish - self._speed) * _share(dt, 12.0)
        self._dough = 31.0 + 0.35 * self._wander[0]
        load = 98.0 + 2.2 * (self._speed - 24.0) - 3.0 * (self._dough - 31.0) + np.where(jammed, 42.0, 0.0)
        self._pressure += (load - self._pressure) * _share(dt, 8.0)
        self._vacuum = 78.0 + 4.0 * self._wander[2]

    def _step_air(self, dt: float) -> None:
        spec = _TEMPERATURES[self._product].T
        open_door = (self._door > 0).astype(np.float64)
        self._steam += ((50 + 14 * (spec - self._temp)).clip(0, 100) - self._steam) * _share(dt, 20.0)
        heat = np.where(self._trip > 0, 0.0, self._steam)
        balance = spec + 0.42 * (heat - 50) - 9.0 * open_door
        self._temp += (balance - self._temp) * _share(dt, 420.0)
        self._temp += 0.012 * np.sqrt(dt) * self._normals[4:8]
        self._control_dampers(dt)
        evaporation = _DRY_PRODUCT * self._feed() * np.maximum(self._drops(), 0) / 100
        exchange = _EXHAUST * self._damper / 100 + 0.5 * open_door
        gain = evaporation + 0.0006 * heat - exchange * (self._ratio - _FRESH_AIR)
        self._ratio = np.maximum(self._ratio + dt * gain / _AIR_MASS[:, None], _FRESH_AIR)

    def _control_dampers(self, dt: float) -> None:
        error = 100 * (relative_humidity(self._temp, self._ratio) - _HUMIDITIES[:, None])
        self._integral = (self._integral + dt * 0.012 * self._hunting * error).clip(2, 98)
        self._damper_wish = (self._integral + 2.6 * error).clip(0, 100)
        # Stiction: the damper stays until its set point is far enough, then jumps; that makes it hunt.
        moved = np.abs(self._damper_wish - self._damper) > 3.5 * self._hunting
        self._damper = np.where(moved, self._damper_wish, self._damper)

    def _feed(self) -> Floats:
        feed: Floats = self._speed / 24.0
        return feed

    def _drops(self) -> Floats:
        """Moisture lost in each stage, % dry base."""
        drops: Floats = self._transport.delayed() - self._moisture
        return drops

    def _step_product(self, dt: float) -> None:
        humidity = relative_humidity(self._temp, self._ratio).clip(0.05, 0.97)
        balance = (9.9 - 0.055 * self._temp) * (humidity / (1 - humidity)) ** 0.36
        rate = 2.4e-4 * np.exp(3_600.0 * (1 / 343.15 - 1 / (self._temp + 273.15)))
        stay = _RESIDENCE_S[:, None] / np.maximum(self._feed(), 0.2)
        before = self._transport.delayed()
        after = balance + (before - balance) * np.exp(-rate * stay)
        self._moisture += (after - self._moisture) * _share(dt, stay / 3)
        self._transport.push(np.vstack([self._dough[None], self._moisture[:-1]]), dt)
        self._cooler += (24.0 + 0.08 * self._temp[-1] - self._cooler) * _share(dt, 300.0)
        self.energy += dt * self._power() / 3600 * 10

    def _power(self) -> Floats:
        power: Floats = 4.0 + 0.62 * self._speed * self._pressure / 24.0
        return power

    def values(self) -> dict[str, Floats]:
        """Every signal of the lines by its key, at its transmitter's resolution; contacts are 0 or 1."""
        raw = self.raw()
        return {s.key: np.round(raw[s.key], s.decimals) for s in SIGNALS}

    def raw(self) -> dict[str, Floats]:
        """The same before rounding."""
        raw = {
            "dough_moisture": self._dough,
            "head_pressure": self._pressure + 0.25 * self._normals[8],
            "vacuum": self._vacuum,
            "screw_speed": self._speed,
            "motor_power": self._power(),
            "cooler_temperature": self._cooler,
            "product_moisture": self._moisture[-1],
            "throughput": 1440.0 * 1.31 * self._feed(),
            "lot": self._lot.astype(np.float64),
            "product": _PRODUCTS[self._product].astype(np.float64),
            "energy": np.floor(self.energy),
            "door": (self._door > 0).astype(np.float64),
            "jam": (self._jam > 0).astype(np.float64),
            "steam_trip": (self._trip > 0).astype(np.float64),
        }
        humidity = 100 * relative_humidity(self._temp, self._ratio)
        for i in range(_STAGES):
            raw[f"temperature_{i}"] = self._temp[i]
            raw[f"humidity_{i}"] = humidity[i]
            raw[f"damper_{i}"] = self._damper[i]
            raw[f"steam_{i}"] = self._steam[i]
            raw[f"fan_{i}"] = np.full(self._n, 1180.0) + 20 * i - 60 * (self._door > 0)
        return raw


class _Transport:
    """Dead time of the product on its way: what goes into each stage, half a residence time later."""

    def __init__(self, first: Floats) -> None:
        lengths = (_RESIDENCE_S / 2 / self._EVERY_S).astype(int).tolist()
        self._belts = [deque([row.copy()] * n, maxlen=n) for row, n in zip(first, lengths, strict=True)]
        self._waited = 0.0

    _EVERY_S: Final = 15.0

    def select(self, places: Sequence[int]) -> _Transport:
        """The belts of some lines."""
        selected = _Transport(np.zeros((len(self._belts), len(places))))
        selected._belts = [deque((row[places] for row in belt), maxlen=belt.maxlen) for belt in self._belts]
        selected._waited = self._waited
        return selected

    def state(self) -> dict[str, NDArray[Any]]:
        """What is on each belt, and for how long the next portion has waited."""
        belts = {f"belt_{i}": np.array(belt) for i, belt in enumerate(self._belts)}
        return {**belts, "belts_waited": np.array(self._waited)}

    def go_on(self, state: Mapping[str, NDArray[Any]]) -> None:
        """Puts back what was on the belts."""
        for i, belt in enumerate(self._belts):
            belt.extend(state[f"belt_{i}"])
        self._waited = float(state["belts_waited"])

    def push(self, entering: Floats, dt: float) -> None:
        """Puts the product on the belts, a portion every 15 s."""
        self._waited += dt
        if self._waited >= self._EVERY_S:
            self._waited = 0.0
            for belt, row in zip(self._belts, entering, strict=True):
                belt.append(row.copy())

    def delayed(self) -> Floats:
        """What arrives at each stage now."""
        return np.array([belt[0] for belt in self._belts])


def _share(dt: float, lag: float | Floats) -> float | Floats:
    """How much of a first-order lag's way is gone after dt, exact for a constant goal."""
    return 1 - np.exp(-dt / lag)
