"""Flow coefficients of control valves after IEC 60534-2-1 (2011), turbulent flow without attached fittings."""

from __future__ import annotations

import math

#: Water at 15 degC (kg/m3): what Kv is defined with.
WATER = 999.1


def liquid_kv(
    volume_flow: float, density: float, vapour_pressure: float, critical_pressure: float, p1: float, p2: float, recovery: float
) -> tuple[float, bool]:
    """Kv (m3/h at 1 bar) that passes a liquid flow (m3/s) of a density (kg/m3) from p1 to p2 (Pa), and whether it is choked.

    ``recovery`` is FL. IEC 60534-2-1, equations 1 to 4.

    >>> kv, choked = liquid_kv(0.1, 965.4, 70.1e3, 22120e3, 680e3, 220e3, 0.9)
    >>> round(kv, 1), choked
    (165.0, False)
    """
    ratio = 0.96 - 0.28 * math.sqrt(vapour_pressure / critical_pressure)
    limit = recovery**2 * (p1 - ratio * vapour_pressure)
    drop = min(p1 - p2, max(limit, 0.0))
    if drop <= 0.0:
        return math.inf, p2 < p1
    return 3600.0 * volume_flow * math.sqrt(density / WATER * 1e5 / drop), p1 - p2 > limit


def gas_kv(mass_flow: float, density: float, gamma: float, p1: float, p2: float, critical_ratio: float) -> tuple[float, bool]:
    """Kv that passes a gas flow (kg/s) of an inlet density (kg/m3) and heat-capacity ratio from p1 to p2 (Pa), and whether it is choked.

    ``critical_ratio`` is xT. IEC 60534-2-1, equations 5 to 7.

    >>> kv, choked = gas_kv(1.0, 8.0, 1.4, 7e5, 6e5, 0.7)
    >>> round(kv, 1), choked
    (43.2, False)
    """
    limit = gamma / 1.4 * critical_ratio
    x = min((p1 - p2) / p1, limit)
    if x <= 0.0:
        return math.inf, False
    expansion = 1.0 - x / (3.0 * limit)
    return 3600.0 * mass_flow / (31.6 * expansion * math.sqrt(x * p1 / 1e5 * density)), (p1 - p2) / p1 > limit
