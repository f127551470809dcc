"""Rows of the packed parameter array ``par[row, component]`` and the codes that kernels use. SI units."""

from __future__ import annotations

R = 8.31446261815324  # J/(mol K), CODATA 2018
T_REF = 298.15  # K
P_REF = 1.0e5  # Pa, reference of the entropies

MW, TC, PC, OMEGA, HF, S0 = 0, 1, 2, 3, 4, 5
CP0, CP_LOW, CP_HIGH = 6, 11, 12  # five coefficients from CP0
PS_FORM, PS0, PS_LOW, PS_HIGH, PS_TC, PS_PC = 13, 14, 19, 20, 21, 22  # five coefficients from PS0
ROOT_A, SLOPE, COVOLUME = 23, 24, 25  # sqrt(a at Tc), m of the alpha function, b
ROWS = 26

IDEAL, PENG_ROBINSON, SOAVE = 0, 1, 2

LIQUID, VAPOUR, STABLE = 0, 1, 2  # which volume root; STABLE is the one of lower Gibbs energy

OK, NOT_CONVERGED, NO_SUCH_STATE, OK_TWO_LIQUIDS, BAD_AMOUNTS = 0, 1, 2, 3, 4
