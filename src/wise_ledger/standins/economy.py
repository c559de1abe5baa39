"""How three made-up economies go: cycles, prices, rates and houses, month by month since 2000,
far into the future.

All of it is drawn once for a fixed stretch, so that the past is the same on whatever day it is
asked for.
"""

import zlib
from functools import cache

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
FIRST_YEAR, MONTHS = 2000, 480
AREAS = {"XA": "Aldmoor", "XB": "Brennholt", "XC": "Caldry"}
CURRENCIES = {"XA": "USD", "XB": "EUR", "XC": "JPY"}
_SLUMPS = {
    "XA": ((105, 9, 1.5), (244, 4, 1.8)),
    "XB": ((107, 10, 1.4), (146, 12, 1.0), (244, 4, 1.9)),
    "XC": ((16, 8, 0.8), (106, 9, 1.8), (245, 5, 1.3)),
}
_BEFORE = 60  # months that are drawn and thrown away


def drawn(name: str) -> np.random.Generator:
    """Chances of their own for everything of a name."""
    return np.random.default_rng(zlib.crc32(f"ostrin:{name}".encode()))


def _waves(name: str, first: float, second: float, spread: float) -> Numbers:
    """A second-order autoregression, of about the spread given."""
    shocks = drawn(name).normal(size=MONTHS + _BEFORE)
    out = np.zeros(MONTHS + _BEFORE)
    for n in range(2, len(out)):
        out[n] = first * out[n - 1] + second * out[n - 2] + shocks[n]
    out = out[_BEFORE:]
    return np.asarray(out / out.std() * spread)


@cache
def cycle(area: str) -> Numbers:
    """Where an economy stands in its cycle, by month: about -2 in a slump, 1 in a boom."""
    common, own = _waves("cycle", 1.7, -0.74, 0.5), _waves(f"cycle {area}", 1.6, -0.66, 0.35)
    month = np.arange(MONTHS)
    slumps = sum(
        -depth * np.exp(-0.5 * ((month - at) / width) ** 2) for at, width, depth in _SLUMPS[area]
    )
    return np.asarray(common + own + slumps)


@cache
def branch_cycle(area: str, branch: str) -> Numbers:
    """The same of a branch of trade, which shares in it by more or less."""
    share = drawn(f"share {branch}").uniform(0.3, 1.6)
    return np.asarray(share * cycle(area) + _waves(f"branch {area} {branch}", 1.5, -0.58, 0.4))


@cache
def inflation(area: str) -> Numbers:
    """Consumer prices over a year, a fraction, by month."""
    level = {"XA": 0.022, "XB": 0.019, "XC": 0.006}[area]
    surge = 0.05 * np.exp(-0.5 * ((np.arange(MONTHS) - 272) / 9) ** 2)
    late = np.roll(cycle(area), 8)
    late[:8] = cycle(area)[0]
    return np.asarray(level + 0.006 * late + surge + _waves(f"prices {area}", 1.2, -0.3, 0.003))


@cache
def policy_rate(area: str) -> Numbers:
    """The rate of its central bank, in percent, in quarters of a point, never below zero."""
    wanted = 100 * (0.5 * 0.02 + 1.1 * inflation(area)) + 0.9 * cycle(area)
    smooth = np.convolve(np.pad(wanted, (11, 0), "edge"), np.full(12, 1 / 12), "valid")
    return np.asarray(np.maximum(0.0, np.round(smooth * 4) / 4))


REGIONS = (
    "Ashgrove Vale", "Pellam Coast", "Quennick Hills", "Marrowby", "Oxlade Plain", "Tarn Valley", "Vennet Harbour",
    "Isken Lowlands", "Brackwater", "Corrie Moor", "Dunmarsh", "Eskwith", "Fallowmere", "Garrick Moor", "Hallowick",
    "Imber Down", "Jorrow Sound", "Kestwick", "Lindle", "Morwick Isle", "Neldreth", "Oakmere", "Penny Fold",
    "Ramsholt", "Selbeck", "Thornholme", "Ulverscar", "Wadworth", "Yarrowdale", "Zelby", "Averdale", "Blaymoor",
    "Chelverne", "Darrowby", "Ennervale", "Felbrigg", "Goldhanger", "Holmrook", "Inverlaw", "Knapdale",
)  # fmt: skip


@cache
def house_prices() -> Numbers:
    """Log prices of houses by region (down) and month: one cycle,
    which some regions go through before others.
    """
    months = np.arange(MONTHS)
    shared = np.cumsum(_waves("houses", 1.75, -0.78, 0.006)) + 0.002 * months
    out = np.empty((len(REGIONS), MONTHS))
    for n, region in enumerate(REGIONS):
        chances = drawn(f"region {region}")
        lead = lead_of(n)
        at = np.clip(months + lead, 0, MONTHS - 1)
        noise = np.cumsum(chances.normal(0, 0.0008, MONTHS))
        out[n] = (
            chances.uniform(0.8, 1.25) * shared[at]
            + chances.uniform(-0.0004, 0.0006) * months
            + noise
        )
    return out


def lead_of(region: int) -> int:
    """By how many months a region goes before the shared cycle; negative: behind it."""
    return (9, 6, 3, 0, 0, 0, -2, -4, -7, -10)[region % 10]
