"""Rows of the packed parameter array ``par[row, component]`` and the codes that kernels use. SI units."""

from __future__ import annotations

R = 8.31446261815324  # J/(mol K), CODATA 2018
T_REF = 298.15  # K
P_REF = 1.0e5  # Pa, reference of the entropies

MW, TC, PC, OMEGA, HF, S0 = 0, 1, 2, 3, 4, 5
CP0, CP_LOW, CP_HIGH = 6, 11, 12  # five coefficients from CP0
PS_FORM, PS0, PS_LOW, PS_HIGH, PS_TC, PS_PC = 13, 14, 19, 20, 21, 22  # five coefficients from PS0
ROOT_A, SLOPE, COVOLUME = 23, 24, 25  # sqrt(a at Tc), m of the alpha function, b
D1, D2 = 26, 27  # of a cubic equation, in every column: P = RT/(v - b) - a/((v + d1 b)(v + d2 b))
SIZE, SURFACE, SIZE_POWER = 28, 29, 30  # r, q, and r as it enters the first term of the combinatorial part
ALPHA_2, ALPHA_3 = 31, 32  # second and third coefficient of the alpha function
VAPOUR_FORM, LIQUID_VOLUME, REFERENCE = 33, 34, 35  # the vapour of an activity model; m3/mol for its Poynting term; 1 where Psat is one
#: Enthalpy of the liquid below the ideal gas: range (K), five numbers; an upper end of zero stands for the slope of the fugacity.
HEAT_LOW, HEAT_HIGH, HEAT0 = 36, 37, 38
#: Molar density of the saturated liquid: range (K), and five numbers (mol/m3).
DENSITY_LOW, DENSITY_HIGH, DENSITY0 = 43, 44, 45
#: ln of the dimerisation constant (1/Pa) of a vapour that associates, a + b/T; b is zero for what does not.
DIMER_A, DIMER_B = 50, 51
POLAR_6, POLAR_8 = 52, 53  # a and b of the terms of the second virial coefficient for polar substances
#: ln of the constant (1/Pa**5) of six molecules to a hexamer, a + b/T; b is zero for what forms none.
HEXAMER_A, HEXAMER_B = 54, 55
#: The heat capacity from CP_MIDDLE (K) on: five coefficients; an infinite CP_MIDDLE stands for none.
CP_MIDDLE, CP_ABOVE0 = 56, 57
ROWS = 62

#: What ``VAPOUR_FORM`` says, in every column.
IDEAL_GAS, VIRIAL, REAL_GAS, CLUSTERS = 0, 1, 2, 3

IDEAL, CUBIC, PREDICTIVE, STEAM = 0, 1, 2, 3
#: Kinds from here on are activity models: a vapour over a liquid with ``phi_i P = gamma_i Psat_i`` and what belongs to a real vapour.
MARGULES, VAN_LAAR, WILSON, NRTL, UNIQUAC, UNIFAC = 10, 11, 12, 13, 14, 15
ACTIVITY = 10

#: Layers of a pair block ``pairs[layer, i, j]``. Cubic: a, b, e of k_ij = ``a + b/T + e T``.
#: Local composition: a, b, e, f of ``a + b/T + e ln T + f T``, then alpha.
#: UNIFAC: a, b, c between groups, then groups (row) of components (column), then in row 0 the group surfaces and in [1, 0] the number of groups.
PAIR_A, PAIR_B, PAIR_E, PAIR_F, PAIR_ALPHA = 0, 1, 2, 3, 4
GROUP_COUNTS, GROUP_SURFACES = 3, 4

LIQUID, VAPOUR, STABLE = 0, 1, 2  # which volume root; STABLE is the one of lower Gibbs energy

OK, NOT_CONVERGED, NO_SUCH_STATE, OK_TWO_LIQUIDS, BAD_AMOUNTS, OK_THREE, OK_FOUR = 0, 1, 2, 3, 4, 5, 6  # OK_FOUR: three phases, and a fourth left out
#: In place of the amount of a second liquid: more phases coexist than were found, and the state is the best pair.
LEFT_OUT = -1.0
