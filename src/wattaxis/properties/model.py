"""Property models over a list of components: packing of parameters, flashes, phase properties."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from wattaxis.properties.errors import FlashError
from wattaxis.properties.kernels import energy, layout, phase, split
from wattaxis.properties.state import Phase, State, Vector
from wattaxis.substances import Component, bank_pair, component

KINDS = {"ideal": layout.IDEAL, "peng-robinson": layout.PENG_ROBINSON, "soave-redlich-kwong": layout.SOAVE}
_BAD_AMOUNTS = "Amounts must be zero or positive and finite, and at least one must be positive."


class PropertyModel:
    """One property model for a fixed list of components.

    ``kind`` is "ideal", "peng-robinson" or "soave-redlich-kwong". ``components`` are :class:`Component` objects, or names or CAS numbers of
    the bank. ``pairs`` maps (id or CAS, id or CAS) to the interaction parameter k_ij (cubic models only); pairs left out come from the bank
    where ``bank_pairs`` is true and it knows them, and are zero otherwise.

    Raises KeyError for a substance the bank does not have and ValueError for anything else that is wrong.

    >>> model = PropertyModel("peng-robinson", ["propane", "n-butane"])
    >>> state = model.flash([0.5, 0.5], T=300.0, P=5e5)
    >>> round(state.vapour_fraction, 4)
    0.5287
    """

    def __init__(
        self,
        kind: str,
        components: Iterable[Component | str],
        pairs: Mapping[tuple[str, str], float] | None = None,
        *,
        bank_pairs: bool = True,
    ) -> None:
        if kind not in KINDS:
            raise ValueError(f'There is no property model "{kind}"; there are {", ".join(KINDS)}.')
        self.kind = kind
        self.components: tuple[Component, ...] = tuple(component(c) if isinstance(c, str) else c for c in components)
        if not self.components:
            raise ValueError("A property model needs at least one component.")
        self._index = {c.id: i for i, c in enumerate(self.components)}
        if len(self._index) < len(self.components):
            raise ValueError("Two components have the same id.")
        self._code = KINDS[kind]
        self.par = _pack(self.components, self._code)
        self.kij = self._pair_matrix(pairs or {}, bank_pairs)
        self.molar_masses: Vector = self.par[layout.MW].copy()

    def _pair_matrix(self, pairs: Mapping[tuple[str, str], float], bank_pairs: bool) -> np.ndarray:
        n = len(self.components)
        matrix = np.zeros((n, n))
        if bank_pairs and self.kind == "peng-robinson":
            for i, first in enumerate(self.components):
                for j in range(i):
                    value = bank_pair("peng_robinson", first.cas, self.components[j].cas)
                    if value is not None:
                        matrix[i, j] = matrix[j, i] = value
        for (first_id, second_id), value in pairs.items():
            i, j = self.index(first_id), self.index(second_id)
            if i == j or not -2.0 < value < 1.0:
                raise ValueError(f"k_ij of {first_id} and {second_id} must lie between -2 and 1 and join two components, not {value!r}.")
            matrix[i, j] = matrix[j, i] = value
        return matrix

    def index(self, key: str) -> int:
        """Position of a component by id, name, CAS number or synonym. Raises KeyError."""
        if key in self._index:
            return self._index[key]
        for i, c in enumerate(self.components):
            if key in (c.cas, c.name) or key.lower() in c.synonyms:
                return i
        raise KeyError(f'"{key}" is not one of the components {", ".join(self._index)}.')

    def flash(
        self,
        z: Sequence[float] | Vector,
        *,
        T: float | None = None,
        P: float | None = None,
        VF: float | None = None,
        H: float | None = None,
        S: float | None = None,
        guess: float = 320.0,
    ) -> State:
        """The equilibrium state of composition ``z`` (mole amounts, normalised here) at T and P, P and VF, T and VF, P and H, or P and S.

        T in K, P in Pa, VF mole fraction vapour, H in J/mol, S in J/(mol K). ``guess`` (K) may change the speed of the energy flashes, never
        the answer beyond 1e-10. Raises ValueError for a bad call and FlashError when there is no such state.
        """
        amounts = np.ascontiguousarray(z, dtype=np.float64)
        if amounts.shape != self.molar_masses.shape:
            raise ValueError(f"The composition must have {len(self.components)} entries, one per component.")
        if T is not None and not 0.0 < T < 1e5:
            raise ValueError(f"The temperature must be above 0 K and finite, not {T!r}.")
        if P is not None and not 0.0 < P < 1e12:
            raise ValueError(f"The pressure must be above 0 Pa and finite, not {P!r}.")
        if T is not None and P is not None and VF is H is S is None:
            status, beta, fractions, x, y = split.flash_tp(self._code, float(T), float(P), amounts, self.par, self.kij)
            if status == layout.OK or status == layout.OK_TWO_LIQUIDS:
                return State(self, float(T), float(P), beta, fractions, x, y, status == layout.OK_TWO_LIQUIDS)
            if status == layout.BAD_AMOUNTS:
                raise ValueError(_BAD_AMOUNTS)
            raise self._failure(status, {"T": T, "P": P})
        return self._flash_other(amounts, {"T": T, "P": P, "VF": VF, "H": H, "S": S}, guess)

    def _flash_other(self, amounts: Vector, given: Mapping[str, float | None], guess: float) -> State:
        total = float(amounts.sum())
        if not (np.isfinite(total) and total > 0.0 and amounts.min() >= 0.0):
            raise ValueError(_BAD_AMOUNTS)
        fractions = amounts / total
        known = {name: float(value) for name, value in given.items() if value is not None}
        if not 0.0 <= known.get("VF", 0.0) <= 1.0 or not all(np.isfinite(value) for value in known.values()):
            raise ValueError(f"The vapour fraction must lie between 0 and 1 and every value be finite, not {known}.")
        # Components that are absent leave the calculation and come back as zeros.
        active = None if fractions.min() > 0.0 else np.flatnonzero(fractions)
        if active is None:
            feed, par, kij = fractions, self.par, self.kij
        else:
            feed, par = fractions[active], np.ascontiguousarray(self.par[:, active])
            kij = np.ascontiguousarray(self.kij[np.ix_(active, active)])
        x, y = np.empty_like(feed), np.empty_like(feed)
        names = set(known)
        if names in ({"P", "H"}, {"P", "S"}):
            p = known["P"]
            target = known["S"] if "S" in known else known["H"]
            status, t, beta = energy.flash_energy(self._code, "S" in known, p, target, guess, feed, par, kij, x, y)
        elif names in ({"P", "VF"}, {"T", "VF"}):
            from wattaxis.properties.kernels import saturation  # loaded when first used: it takes a tenth of a second

            beta, find_t = known["VF"], "P" in known
            level = known["P"] if find_t else known["T"]
            status, found = saturation.flash_fraction(self._code, find_t, level, beta, feed, par, kij, x, y)
            t, p = (found, level) if find_t else (level, found)
        else:
            raise ValueError(f"Give T and P, P and VF, T and VF, P and H, or P and S; not {', '.join(sorted(names)) or 'nothing'}.")
        if status not in (layout.OK, layout.OK_TWO_LIQUIDS):
            raise self._failure(status, known)
        if active is not None:
            x, y = self._spread(active, x), self._spread(active, y)
        state = State(self, t, p, beta, fractions, x, y, status == layout.OK_TWO_LIQUIDS)
        if "VF" in known and beta in (0.0, 1.0):
            # On the boundary both roots have the same Gibbs energy: the one that was asked for is taken.
            state.root = layout.VAPOUR if beta == 1.0 else layout.LIQUID
        return state

    def _spread(self, active: np.ndarray, values: Vector) -> Vector:
        full = np.zeros(len(self.components))
        full[active] = values
        return full

    def _failure(self, status: int, given: Mapping[str, float]) -> FlashError:
        where = ", ".join(f"{name} = {value:.6g}" for name, value in given.items())
        if status == layout.NO_SUCH_STATE:
            return FlashError("no such state", f"The mixture has no state with {where}: no liquid and vapour coexist there.")
        return FlashError("not converged", f"The phase equilibrium at {where} could not be closed.")

    def flash_many(self, z: np.ndarray, T: np.ndarray, P: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """PT flashes over rows: ``z`` (rows, components) all positive, T (rows,) K, P (rows,) Pa.

        Returns (status, vapour fraction, x, y); status 0 is solved.
        """
        feed = np.ascontiguousarray(z / z.sum(axis=1, keepdims=True), dtype=np.float64)
        status = np.empty(len(feed), dtype=np.int64)
        beta = np.empty(len(feed))
        x, y = np.empty_like(feed), np.empty_like(feed)
        split.flash_tp_many(self._code, np.asarray(T, float), np.asarray(P, float), feed, self.par, self.kij, status, beta, x, y)
        return status, beta, x, y

    def roots_of(self, state: State) -> tuple[int, int]:
        """The volume roots of the heavier and of the lighter phase of a state."""
        if state.root is not None:
            return state.root, state.root
        heavy, light = energy.phase_roots(self._code, state.light_fraction, state.liquid_fractions, state.vapour_fractions)
        return int(heavy), int(light)

    def phases_of(self, state: State) -> tuple[Phase, ...]:
        """The phases of a state with their properties, liquid first."""
        beta = state.light_fraction
        roots = self.roots_of(state)
        found = []
        if beta < 1.0:
            found.append(self.phase("liquid", state.temperature, state.pressure, state.liquid_fractions, root=roots[0]))
        if beta > 0.0:
            light = "second liquid" if state.two_liquids else "vapour"
            found.append(self.phase(light, state.temperature, state.pressure, state.vapour_fractions, root=roots[1]))
        return tuple(found)

    def phase(self, kind: str, T: float, P: float, fractions: Sequence[float] | Vector, *, root: int | None = None) -> Phase:
        """Properties of a single phase of given composition, stable or not.

        ``kind`` ("liquid", "second liquid" or "vapour") picks the volume root unless ``root`` does.
        """
        if root is None:
            root = layout.VAPOUR if kind == "vapour" else layout.LIQUID
        x = np.asarray(fractions, dtype=np.float64)
        n = len(x)
        ctx, vectors, dn = np.empty((3, n, n)), np.empty((3, n)), np.empty((n, n))
        props, out = np.empty(5), np.empty(5)
        phase.prepare(self._code, T, self.par, self.kij, ctx, True)
        energy.phase_energies(self._code, root, T, P, x, self.par, ctx, False, vectors, dn, props, out)
        h, s, cp, v, compressibility = (float(value) for value in out)
        return Phase(kind, x, h, s, cp, v, compressibility, np.exp(vectors[0]), float(x @ self.molar_masses))

    def misses_a_phase(self, state: State) -> bool:
        """Whether one of two coexisting phases would part further: then there are three, which these flashes do not look for."""
        if not 0.0 < state.light_fraction < 1.0:
            return False
        active = np.flatnonzero((state.liquid_fractions > 0.0) & (state.vapour_fractions > 0.0))
        par, kij = np.ascontiguousarray(self.par[:, active]), np.ascontiguousarray(self.kij[np.ix_(active, active)])
        for fractions in (state.liquid_fractions[active], state.vapour_fractions[active]):
            # Saturated phases are neutral to each other; a third phase lowers the energy by far more than rounding.
            if not split.is_stable(self._code, state.temperature, state.pressure, fractions / fractions.sum(), par, kij):
                return True
        return False

    def ranges_left(self, T: float, fractions: Vector) -> list[str]:
        """Sentences on correlations used outside their range at ``T`` (K) for the components present."""
        notes = []
        for c, fraction in zip(self.components, fractions, strict=True):
            if fraction < 1e-6:
                continue
            cp, ps = c.heat_capacity, c.vapour_pressure
            if not cp.low - 0.5 <= T <= cp.high + 0.5:
                notes.append(f"the heat capacity of {c.name} is known from {cp.low:.0f} to {cp.high:.0f} K and kept constant beyond")
            if self.kind == "ideal" and ps is not None and not ps.low - 0.5 <= T <= ps.high + 0.5:
                notes.append(f"the vapour pressure of {c.name} is known from {ps.low:.0f} to {ps.high:.0f} K and extrapolated in 1/T beyond")
        return notes


def _pack(components: Sequence[Component], code: int) -> np.ndarray:
    par = np.zeros((layout.ROWS, len(components)))
    for i, c in enumerate(components):
        cp, ps = c.heat_capacity, c.vapour_pressure
        assert ps is not None  # Component fills it in
        par[layout.MW, i] = c.molar_mass
        par[layout.TC, i] = c.critical_temperature
        par[layout.PC, i] = c.critical_pressure
        par[layout.OMEGA, i] = c.acentric_factor
        par[layout.HF, i] = c.formation_enthalpy
        par[layout.S0, i] = c.entropy
        par[layout.CP0 : layout.CP0 + 5, i] = cp.coefficients
        par[layout.CP_LOW, i], par[layout.CP_HIGH, i] = cp.low, cp.high
        par[layout.PS_FORM, i] = ps.form
        par[layout.PS0 : layout.PS0 + 5, i] = ps.coefficients
        par[layout.PS_LOW, i], par[layout.PS_HIGH, i] = ps.low, ps.high
        par[layout.PS_TC, i], par[layout.PS_PC, i] = ps.critical
    _cubic_constants(par, code)
    return par


def _cubic_constants(par: np.ndarray, code: int) -> None:
    """sqrt(a_c), alpha slope and covolume; the numbers are the exact critical-point solutions of each equation."""
    tc, pc, omega = par[layout.TC], par[layout.PC], par[layout.OMEGA]
    if code == layout.SOAVE:
        factor_a, factor_b = 1.0 / (9.0 * (2.0 ** (1.0 / 3.0) - 1.0)), (2.0 ** (1.0 / 3.0) - 1.0) / 3.0
        slope = 0.480 + omega * (1.574 - 0.176 * omega)
    else:
        factor_a, factor_b = 0.457235528921382, 0.0777960739038885
        slope = 0.37464 + omega * (1.54226 - 0.26992 * omega)
    par[layout.ROOT_A] = np.sqrt(factor_a / pc) * layout.R * tc
    par[layout.SLOPE] = slope
    par[layout.COVOLUME] = factor_b * layout.R * tc / pc
