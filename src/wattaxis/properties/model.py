"""Property models over a list of components: packing of parameters, flashes, phase properties."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from copy import copy
from functools import cached_property, partial

import numpy as np

from wattaxis.properties import layout
from wattaxis.properties.errors import FlashError
from wattaxis.properties.kernels import activity, cubic, energy, phase, rates, split
from wattaxis.properties.kernels.volume_shift import volume_shift
from wattaxis.properties.liquid import Vapour, place_heats, place_volumes
from wattaxis.properties.pairs import HENRY_NAMES, known_pairs, place_gases
from wattaxis.properties.registry import model_kinds
from wattaxis.properties.searches import SEARCHED, search_state
from wattaxis.properties.shift import shift_of
from wattaxis.properties.state import Excess, Phase, State, Vector
from wattaxis.properties.transport import Curves
from wattaxis.properties.vapour import IDEAL_GAS, VAPOURS, place_vapour, vapour_notes
from wattaxis.substances import Component, component, henry_constant, turned
from wattaxis.substances.solids import Solid

_SOLVED = (layout.OK, layout.OK_TWO_LIQUIDS, layout.OK_THREE, layout.OK_FOUR)
_BAD_AMOUNTS = "Amounts must be zero or positive and finite, and at least one must be positive."


#: The table of shifts of a model that has none.
_NO_SHIFTS = np.zeros((0, 2))


class PropertyModel:
    """One property model for a fixed list of components.

    ``kind`` is a key of :func:`wattaxis.model_infos`. ``components`` are :class:`Component` objects, or names or CAS numbers of the bank.
    ``pairs`` maps (id or CAS, id or CAS) to interaction parameters by name, directions counted from the first to the second; for the cubic
    equations a plain number is k_ij. Pairs left out come from the bank where ``bank_pairs`` is true and it knows them, and are zero otherwise.

    ``vapour`` is what lies over the liquid of an activity model: "ideal", "virial" (Tsonopoulos 1974), or the key of a cubic equation of state.
    ``translated`` shifts the volumes of a cubic equation (:mod:`wattaxis.properties.shift`) so that each pure liquid has its own density.

    Raises KeyError for a substance the bank does not have and ValueError for anything else that is wrong.

    >>> model = PropertyModel("peng-robinson", ["propane", "n-butane"])
    >>> state = model.flash([0.5, 0.5], T=300.0, P=5e5)
    >>> round(state.vapour_fraction, 4)
    0.5287
    >>> tau = {"a12": -0.8, "b12": 246.2, "a21": 3.46, "b21": -586.1, "alpha": 0.3}
    >>> model = PropertyModel("nrtl", ["ethanol", "water"], {("ethanol", "water"): tau})
    >>> round(model.flash([0.5, 0.5], P=101325.0, VF=0.0).temperature, 1)
    352.9
    """

    def __init__(
        self,
        kind: str,
        components: Iterable[Component | str],
        pairs: Mapping[tuple[str, str], float | Mapping[str, float]] | None = None,
        *,
        bank_pairs: bool = True,
        vapour: str = IDEAL_GAS,
        translated: bool = False,
    ) -> None:
        kinds = model_kinds()
        if kind not in kinds:
            raise ValueError(f'There is no property model "{kind}"; there are {", ".join(kinds)}.')
        self.kind = kind
        self.family = kinds[kind]
        self._code = self.family.code
        self.vapour, self.translated = vapour, translated
        if self._code < layout.ACTIVITY and vapour != IDEAL_GAS:
            raise ValueError(f"{self.family.info.title} has a vapour of its own; only activity models take another than {IDEAL_GAS}.")
        if vapour not in VAPOURS:
            raise ValueError(f'There is no vapour "{vapour}"; there are {", ".join(VAPOURS)}.')
        if translated and self._code not in (layout.CUBIC, layout.PREDICTIVE):
            raise ValueError(f"{self.family.info.title} has no volumes that could be shifted; only cubic equations have.")
        self.components: tuple[Component, ...] = tuple(component(c) if isinstance(c, str) else c for c in components)
        if not self.components:
            raise ValueError("A property model needs at least one component.")
        if solids := [c.name for c in self.components if isinstance(c, Solid)]:
            raise ValueError(f"{', '.join(solids)}: conventional solids stand beside the fluid; put the model of the fluid in a SolidsModel.")
        self._index = {c.id: i for i, c in enumerate(self.components)}
        if len(self._index) < len(self.components):
            raise ValueError("Two components have the same id.")
        known = known_pairs(self.family, self.components, self._own_pairs(pairs or {}), bank=bank_pairs)
        #: Parameters of every pair that has some, by the positions of its components.
        self.pair_values = {pair: entry.values for pair, entry in known.items()}
        self._pack_pairs()
        self.molar_masses: Vector = self.par[layout.MW].copy()

    def _own_pairs(self, own: Mapping[tuple[str, str], float | Mapping[str, float]]) -> dict[tuple[int, int], Mapping[str, float]]:
        found: dict[tuple[int, int], Mapping[str, float]] = {}
        names = {p.name: p for p in self.family.info.parameters}
        for (first_id, second_id), given in own.items():
            i, j = self.index(first_id), self.index(second_id)
            values = given if isinstance(given, Mapping) else {"kij": given}
            for name, value in values.items():
                if name not in names or i == j or not names[name].low <= value <= names[name].high:
                    wanted = ", ".join(f"{p.name} ({p.low:g} to {p.high:g})" for p in names.values()) or "no pair parameters"
                    raise ValueError(f"{first_id} and {second_id}: {name} = {value!r}; a pair joins two components and takes {wanted}.")
            found[min(i, j), max(i, j)] = turned(values, i > j)
        return found

    def _pack_pairs(self) -> None:
        self.par = _pack(self.components)
        self.family.pack(self.par, self.components)
        self.pairs = np.ascontiguousarray(self.family.pair_block(self.components, self.pair_values))
        #: Positions of the gases that dissolve by Henry's law.
        self.gases = place_gases(self.family, self.components, self.pair_values, self.par, self.pairs)
        if self.equation_of_state:
            return
        place_volumes(self.par, self.components, self.gases)
        if self.vapour == IDEAL_GAS:
            place_heats(self.par, self.components, self.gases)
        else:
            place_vapour(self.vapour, self.par, self.components, self.gases)
            place_heats(self.par, self.components, self.gases, self._vapour_of)

    def _vapour_of(self, i: int) -> Vapour:
        """What the enthalpy of a saturated pure vapour has more than that of the ideal gas, less what the constant liquid volume adds."""
        c, par = self.components[i], np.ascontiguousarray(self.par[:, [i]])
        pairs = np.zeros((max(len(self.pairs), 5), 1, 1))
        ctx = np.empty((activity.LAYERS, activity.SMALLEST, activity.SMALLEST))
        vectors, dn, props, out, one = np.empty((3, 1)), np.empty((1, 1)), np.empty(5), np.empty(5), np.ones(1)
        ps = c.vapour_pressure
        assert ps is not None  # Component fills it in

        def residual(T: float) -> float:
            inside = min(max(T, ps.low), 0.99 * c.critical_temperature)
            p = float(np.exp(ps.log_pressure(inside, c.critical_temperature, c.critical_pressure, c.acentric_factor)))
            phase.prepare(layout.MARGULES, T, par, pairs, ctx, True)
            energy.phase_energies(layout.MARGULES, layout.VAPOUR, T, p, one, par, ctx, False, vectors, dn, props, out)
            return float(props[cubic.H_RES] - p * par[layout.LIQUID_VOLUME, 0])

        return residual

    @property
    def fluid(self) -> PropertyModel:
        """The model of the components that are no conventional solids: this one."""
        return self

    def solid_share(self, fractions: Vector) -> float:
        """Mole share of conventional solids in a composition: none."""
        return 0.0

    def solids_of(self, fractions: Vector) -> Vector:
        """The part of a composition that is conventional solids: none, shape (components,)."""
        return np.zeros_like(fractions)

    @property
    def equation_of_state(self) -> bool:
        """Whether one equation describes liquid and vapour, so that liquids feel the pressure and critical points exist."""
        return layout.IDEAL < self._code < layout.ACTIVITY

    @property
    def vapour_may_change(self) -> bool:
        """Whether this is an activity model, over which another vapour may lie."""
        return self._code >= layout.ACTIVITY

    @property
    def ideal_vapour(self) -> bool:
        """Whether the vapour is an ideal gas over a liquid whose fugacity does not depend on pressure."""
        return not self.equation_of_state and self.vapour == IDEAL_GAS

    @property
    def code(self) -> int:
        """The kernel that serves it, as the kernels number it."""
        return self._code

    @cached_property
    def shifts(self) -> np.ndarray:
        """The kernels' table of volume shifts, a row for each component, of a model that is ``translated``."""
        return np.ascontiguousarray([shift_of(self.kind, c) for c in self.components])

    def shift(self, T: float, fractions: Vector, own: Vector | None = None) -> tuple[float, float, float]:
        """c of a mixture at T (K) with two T derivatives (m3/mol, K): what its volume loses by the shift; zeros unless ``translated``.

        ``own`` of shape (components,) receives that of each component.
        """
        if not self.translated:
            return 0.0, 0.0, 0.0
        own = np.empty(len(self.components)) if own is None else own
        found: tuple[float, float, float] = volume_shift(T, np.ascontiguousarray(fractions), self.shifts, own)
        return found

    def index(self, key: str) -> int:
        """Position of a component by id, name, CAS number or synonym. Raises KeyError."""
        if key in self._index:
            return self._index[key]
        for i, c in enumerate(self.components):
            if key in (c.cas, c.name) or key.lower() in c.synonyms:
                return i
        raise KeyError(f'"{key}" is not one of the components {", ".join(self._index)}.')

    def part_of(self, keys: Sequence[str]) -> PropertyModel:
        """The same model for some of its components, in the order of ``keys``, with the same pair parameters. Raises KeyError and ValueError.

        >>> whole = PropertyModel("peng-robinson", ["methane", "ethane", "propane"])
        >>> [c.name for c in whole.part_of(["propane", "methane"]).components]
        ['propane', 'methane']
        """
        ids = {i: self.components[i].id for i in map(self.index, keys)}
        pairs = {(ids[i], ids[j]): values for (i, j), values in self.pair_values.items() if i in ids and j in ids}
        return PropertyModel(
            self.kind,
            [self.components[self.index(key)] for key in keys],
            pairs,
            bank_pairs=False,
            vapour=self.vapour,
            translated=self.translated,
        )

    def with_pairs(self, changed: Mapping[tuple[str, str], Mapping[str, float]]) -> PropertyModel:
        """The same model with some parameters of some pairs replaced, directions counted from the first to the second. Raises KeyError, ValueError.

        >>> model = PropertyModel("margules", ["benzene", "toluene"])
        >>> model.with_pairs({("benzene", "toluene"): {"a12": 0.2}}).pair_values
        {(0, 1): {'a12': 0.2}}
        """
        values = {pair: dict(known) for pair, known in self.pair_values.items()}
        for (first, second), new in changed.items():
            i, j = self.index(first), self.index(second)
            values.setdefault((min(i, j), max(i, j)), {}).update(turned(new, i > j))
        other = copy(self)
        other.pair_values = dict(values)
        other._pack_pairs()
        return other

    def flash(
        self,
        z: Sequence[float] | Vector,
        *,
        T: float | None = None,
        P: float | None = None,
        VF: float | None = None,
        H: float | None = None,
        S: float | None = None,
        V: float | None = None,
        U: float | None = None,
        guess: float = 320.0,
    ) -> State:
        """The equilibrium state of composition ``z`` (mole amounts, normalised here) at any two of T, P, VF, H and S, at T and V, or at U and V.

        T in K, P in Pa, VF mole fraction vapour, H and the internal energy U in J/mol, S in J/(mol K), V in m3/mol (molar mass over density).
        ``guess`` (K) may change the speed of the energy flashes, never
        the answer beyond 1e-10. Where several states have T and H, the one of lowest pressure is the answer; of several with VF and H
        the coldest, with VF and S the hottest. Raises ValueError for a bad call and FlashError when there is no such state.
        """
        amounts = np.ascontiguousarray(z, dtype=np.float64)
        if amounts.shape != self.molar_masses.shape:
            raise ValueError(f"The composition must have {len(self.components)} entries, one per component.")
        if T is not None and not 0.0 < T < 1e5:
            raise ValueError(f"The temperature must be above 0 K and finite, not {T!r}.")
        if V is not None and not 0.0 < V < 1e6:
            raise ValueError(f"The molar volume must be above 0 m3/mol and finite, not {V!r}.")
        if P is not None and not 0.0 < P < 1e12:
            raise ValueError(f"The pressure must be above 0 Pa and finite, not {P!r}.")
        if T is not None and P is not None and VF is H is S is V is U is None:
            status, beta, gamma, fractions, x, y, w = split.flash_tp(self._code, float(T), float(P), amounts, self.par, self.pairs)
            if status in _SOLVED:
                two_liquids, left_out = status == layout.OK_TWO_LIQUIDS, status == layout.OK_FOUR
                return State(self, float(T), float(P), beta, fractions, x, y, two_liquids, gamma, w, left_out)
            if status == layout.BAD_AMOUNTS:
                raise ValueError(_BAD_AMOUNTS)
            raise self._failure(status, {"T": T, "P": P}, fractions)
        return self._flash_other(amounts, {"T": T, "P": P, "VF": VF, "H": H, "S": S, "V": V, "U": U}, guess)

    def _flash_other(self, amounts: Vector, given: Mapping[str, float | None], guess: float) -> State:
        total = float(amounts.sum())
        if not (math.isfinite(total) and total > 0.0 and amounts.min() >= 0.0):
            raise ValueError(_BAD_AMOUNTS)
        fractions = amounts / total
        known = {name: float(value) for name, value in given.items() if value is not None}
        if not 0.0 <= known.get("VF", 0.0) <= 1.0 or not all(map(math.isfinite, known.values())):
            raise ValueError(f"The vapour fraction must lie between 0 and 1 and every value be finite, not {known}.")
        if set(known) in SEARCHED:
            return self._searched(fractions, known)
        # Components that are absent leave the calculation and come back as zeros.
        active = None if np.count_nonzero(fractions) == fractions.size else np.flatnonzero(fractions)
        if active is None:
            feed, par, pairs = fractions, self.par, self.pairs
        else:
            feed, par = fractions[active], np.ascontiguousarray(self.par[:, active])
            pairs = split.without_absent(self._code, self.pairs, active)
        x, y, w = np.empty_like(feed), np.empty_like(feed), np.empty_like(feed)
        names = set(known)
        if names in ({"P", "H"}, {"P", "S"}):
            p = known["P"]
            status, t, beta, gamma = self._flash_energy(known, guess, fractions, feed, par, pairs, x, y, w)
        elif names in ({"P", "VF"}, {"T", "VF"}):
            from wattaxis.properties.kernels import saturation  # loaded when first used: it takes a tenth of a second

            beta, find_t = known["VF"], "P" in known
            level = known["P"] if find_t else known["T"]
            status, found, gamma = saturation.flash_fraction(self._code, find_t, level, beta, feed, par, pairs, x, y, w)
            t, p = (found, level) if find_t else (level, found)
        else:
            raise ValueError(f"Give two of T, P, VF, H and S, or T and V, or U and V; not {', '.join(sorted(names)) or 'nothing'}.")
        if status not in _SOLVED:
            raise self._failure(status, known, fractions)
        if active is not None:
            x, y, w = self._spread(active, x), self._spread(active, y), self._spread(active, w)
        state = State(self, t, p, beta, fractions, x, y, status == layout.OK_TWO_LIQUIDS, gamma, w, status == layout.OK_FOUR)
        state.saturated = "VF" in known and beta in (0.0, 1.0) and gamma <= 0.0
        if state.saturated or (feed.size == 1 and beta in (0.0, 1.0)):
            # On the boundary both roots have the same Gibbs energy: the one that was asked for, or has the energy, is taken.
            state.root = layout.VAPOUR if beta == 1.0 else layout.LIQUID
        return state

    def _flash_energy(self, known: Mapping[str, float], guess: float, fractions: Vector, *arrays: Vector) -> tuple[int, float, float, float]:
        """Status, T and the amounts of the phases at P and H or S; shifted volumes move the energy of the whole, by what the temperature says."""
        p, entropy = known["P"], "S" in known
        wanted = known["S"] if entropy else known["H"]
        before: tuple[float, float] | None = None
        for _ in range(40):
            c, slope, _bend = self.shift(guess, fractions)
            target = wanted - p * slope if entropy else wanted + p * (c - guess * slope)
            status, t, beta, gamma = energy.flash_energy(self._code, entropy, p, target, guess, *arrays)
            # The shift moves little with temperature: by how little is known after two, and by Aitken's rule the third has it.
            gain = (t - before[1]) / (guess - before[0]) if before else 1.0
            if not self.translated or status not in _SOLVED or abs(gain * (t - guess)) <= 1e-13 * t:
                break
            before = guess, t
            guess = t + (gain / (1.0 - gain) * (t - guess) if abs(gain) < 0.5 else 0.0)
        return status, t, beta, gamma

    def _searched(self, fractions: Vector, known: Mapping[str, float]) -> State:
        present = [c.critical_temperature for c, z in zip(self.components, fractions, strict=True) if z > 0.0 and not isinstance(c, Solid)]
        return search_state(partial(self.flash, fractions), known, max(present, default=0.0))

    def _spread(self, active: np.ndarray, values: Vector) -> Vector:
        full = np.zeros(len(self.components))
        full[active] = values
        return full

    def _failure(self, status: int, given: Mapping[str, float], fractions: Vector) -> FlashError:
        where = ", ".join(f"{name} = {value:.6g}" for name, value in given.items())
        if status != layout.NO_SUCH_STATE:
            return FlashError("not converged", f"The phase equilibrium at {where} could not be closed.")
        text = f"The mixture has no state with {where}: no liquid and vapour coexist there."
        return FlashError("no such state", text, partial(self._nearest, dict(given), fractions) if "VF" in given else None)

    def _nearest(self, given: dict[str, float], fractions: Vector) -> str:
        """The highest pressure, or temperature, below the one that is given at which the vapour fraction exists, to 1e-6."""
        name = "P" if "P" in given else "T"

        def at(value: float) -> State | None:
            try:
                return self.flash(fractions, **{**given, name: value})
            except FlashError:
                return None

        high, low = given[name], given[name]
        found = None
        for _ in range(40):
            low *= 0.7 if name == "P" else 0.9
            found = at(low)
            if found is not None:
                break
        if found is None:
            return ""
        while high / low - 1.0 > 1e-6:
            middle = float(np.sqrt(low * high))
            state = at(middle)
            low, high, found = (middle, high, state) if state is not None else (low, middle, found)
        return f"The nearest below is at {found.temperature:.5g} K and {found.pressure / 1e5:.5g} bar."

    def flash_many(self, z: np.ndarray, T: np.ndarray, P: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """PT flashes over rows: ``z`` (rows, components) all positive, T (rows,) K, P (rows,) Pa.

        Returns (status, vapour fraction, x, y); status 0 is liquid and vapour or one phase, 3 two liquids (the fraction is that of y). Any other row
        has more phases or was not solved: take :meth:`flash` for it.
        """
        feed = np.ascontiguousarray(z / z.sum(axis=1, keepdims=True), dtype=np.float64)
        status = np.empty(len(feed), dtype=np.int64)
        beta = np.empty(len(feed))
        x, y = np.empty_like(feed), np.empty_like(feed)
        split.flash_tp_many(self._code, np.asarray(T, float), np.asarray(P, float), feed, self.par, self.pairs, status, beta, x, y)
        return status, beta, x, y

    def saturated(self, fractions: Vector, T: float, P: float, *, vapour: bool, other: Vector) -> State:
        """A phase at its boiling or dew point ``T`` (K), ``P`` (Pa), where these and the composition of the ``other`` phase are known.

        >>> model = PropertyModel("ideal", ["benzene", "toluene"])
        >>> found = model.flash([0.5, 0.5], P=101325.0, VF=0.0)
        >>> same = model.saturated(found.fractions, found.temperature, 101325.0, vapour=False, other=found.vapour_fractions)
        >>> same.enthalpy == found.enthalpy
        True
        """
        pair = (other, fractions) if vapour else (fractions, other)
        state = State(self, T, P, 1.0 if vapour else 0.0, fractions, *pair)
        state.saturated = True
        state.root = layout.VAPOUR if vapour else layout.LIQUID
        return state

    def roots_of(self, state: State) -> tuple[int, int]:
        """The volume roots of the heavier and of the lighter phase of a state."""
        if state.root is not None:
            return state.root, state.root
        heavy, light = energy.phase_roots(self._code, state.light_fraction, state.liquid_fractions, state.vapour_fractions)
        return int(heavy), int(light)

    def phases_of(self, state: State) -> tuple[Phase, ...]:
        """The phases of a state with their properties, liquid first."""
        beta, gamma = state.light_fraction, state.second_fraction
        roots = self.roots_of(state)
        found = []
        if beta + gamma < 1.0:
            found.append(self.phase("liquid", state.temperature, state.pressure, state.liquid_fractions, root=roots[0]))
        if beta > 0.0:
            light = "second liquid" if state.two_liquids else "vapour"
            found.append(self.phase(light, state.temperature, state.pressure, state.vapour_fractions, root=roots[1]))
        if gamma > 0.0:
            found.append(self.phase("second liquid", state.temperature, state.pressure, state.second_liquid_fractions, root=layout.LIQUID))
        return tuple(found)

    def phase(self, kind: str, T: float, P: float, fractions: Sequence[float] | Vector, *, root: int | None = None) -> Phase:
        """Properties of a single phase of given composition, stable or not.

        ``kind`` ("liquid", "second liquid" or "vapour") picks the volume root unless ``root`` does.
        """
        if root is None:
            root = layout.VAPOUR if kind == "vapour" else layout.LIQUID
        x = np.ascontiguousarray(fractions, dtype=np.float64)
        work = self.one_phase_work()
        rates.one_phase(self._code, root, T, P, x, *work)
        return self._told(kind, x, work)

    def phase_by_enthalpy(
        self, kind: str, enthalpy: float, P: float, fractions: Vector, guess: float, low: float = 15.0, high: float = 6000.0
    ) -> tuple[float, Phase] | None:
        """Temperature (K) and properties of a single phase of given enthalpy (J/mol), stable or not; None where it has none from low to high.

        >>> model = PropertyModel("peng-robinson", ["propane"])
        >>> hot = model.phase("vapour", 400.0, 1e5, [1.0])
        >>> found = model.phase_by_enthalpy("vapour", hot.enthalpy, 1e5, np.array([1.0]), 300.0)
        >>> round(found[0], 6)
        400.0
        """
        root = layout.VAPOUR if kind == "vapour" else layout.LIQUID
        x, work = np.ascontiguousarray(fractions, dtype=np.float64), self.one_phase_work()
        T = rates.phase_at_enthalpy(self._code, root, enthalpy, P, x, guess, low, high, *work)
        return None if np.isnan(T) else (float(T), self._told(kind, x, work))

    def one_phase_work(self) -> tuple[np.ndarray, ...]:
        """Parameters (3) and room for the kernels of one phase."""
        n = len(self.components)
        shifts = self.shifts if self.translated else _NO_SHIFTS
        return self.par, self.pairs, shifts, self.workspace(), np.empty((3, n)), np.empty((n, n)), np.empty(5), np.empty(5)

    def _told(self, kind: str, x: Vector, work: tuple[np.ndarray, ...]) -> Phase:
        h, s, cp, v, compressibility = work[-1].tolist()
        return Phase(kind, x, h, s, cp, v, compressibility, np.exp(work[4][0]), float(x @ self.molar_masses))

    @cached_property
    def curves(self) -> Curves:
        """Properties of the components over temperature, for transport properties."""
        return Curves(self.components)

    def workspace(self) -> np.ndarray:
        """A workspace of the kernels for all components."""
        return np.empty(activity.context_shape(self._code, len(self.components), self.pairs.shape[1]))

    def activity_coefficients(self, T: float, P: float, fractions: Sequence[float] | Vector) -> Vector:
        """gamma_i of a liquid against the pure liquid at T (K) and P (Pa), shape (components,), for every kind of model.

        >>> model = PropertyModel("margules", ["benzene", "toluene"], {("benzene", "toluene"): {"a12": 0.5, "a21": 0.5}})
        >>> model.activity_coefficients(300.0, 1e5, [0.5, 0.5]).round(4)
        array([1.1331, 1.1331])
        """
        mixed = self.phase("liquid", T, P, fractions).fugacity_coefficients
        pure = [self.phase("liquid", T, P, row).fugacity_coefficients[i] for i, row in enumerate(np.eye(len(self.components)))]
        return np.asarray(mixed / np.array(pure))

    def excess(self, T: float, P: float, fractions: Sequence[float] | Vector) -> Excess:
        """Excess properties of a liquid against its pure liquids at T (K) and P (Pa).

        >>> model = PropertyModel("margules", ["benzene", "toluene"], {("benzene", "toluene"): {"a12": 0.5, "a21": 0.5}})
        >>> round(model.excess(300.0, 1e5, [0.5, 0.5]).gibbs, 1)  # 0.25 x 0.5 R T
        311.8
        """
        x = np.asarray(fractions, dtype=np.float64) / float(np.sum(fractions))
        mixed = self.phase("liquid", T, P, x)
        pure = [self.phase("liquid", T, P, row) for row in np.eye(len(x))]
        enthalpy, entropy, volume = (
            float(getattr(mixed, name) - sum(xi * getattr(p, name) for xi, p in zip(x, pure, strict=True) if xi > 0.0))
            for name in ("enthalpy", "entropy", "molar_volume")
        )
        there = x[x > 0.0]
        entropy += layout.R * float(there @ np.log(there))
        return Excess(enthalpy - T * entropy, enthalpy, entropy, volume)

    def ranges_left(self, state: State) -> list[str]:
        """Sentences on correlations used outside their range in a state of this model."""
        T, fractions = state.temperature, state.fractions
        notes = vapour_notes(self.vapour, T, state.pressure, state.vapour_fractions, self.components) if state.vapour_fraction > 0.0 else []
        wet = not self.equation_of_state and state.vapour_fraction < 1.0  # a vapour alone needs no vapour pressures and no Henry constants
        for i, (c, fraction) in enumerate(zip(self.components, fractions, strict=True)):
            if fraction < 1e-6:
                continue
            cp, ps = c.heat_capacity, c.vapour_pressure
            if self._code != layout.STEAM and not cp.low - 0.5 <= T <= cp.high + 0.5:
                notes.append(f"the heat capacity of {c.name} is known from {cp.low:.0f} to {cp.high:.0f} K and kept constant beyond")
            if i in self.gases:
                notes += self._henry_left(i, T, fractions) if wet else []
            elif wet and ps is not None and not ps.low - 0.5 <= T <= ps.high + 0.5:
                notes.append(f"the vapour pressure of {c.name} is known from {ps.low:.0f} to {ps.high:.0f} K and extrapolated in 1/T beyond")
        if not wet and not self.equation_of_state:
            return notes
        present = np.array([0.0 if i in self.gases else fraction for i, fraction in enumerate(fractions)])
        return notes + self.family.warnings(self.components, T, present)

    def _henry_left(self, gas: int, T: float, fractions: Vector) -> list[str]:
        """Sentences on Henry constants of a gas that are used outside their range; own ones have no range."""
        notes = []
        for (i, j), values in self.pair_values.items():
            solvent = i + j - gas
            if gas not in (i, j) or "ha" not in values or fractions[solvent] < 1e-3:
                continue
            known = henry_constant(self.components[gas], self.components[solvent])
            own = any(known.values[name] != values.get(name, 0.0) for name in HENRY_NAMES)
            if not own and not known.low - 0.5 <= T <= known.high + 0.5:
                names = f"{self.components[gas].name} in {self.components[solvent].name}"
                notes.append(f"the Henry constant of {names} is known from {known.low:.0f} to {known.high:.0f} K and extrapolated beyond")
        return notes


def _pack(components: Sequence[Component]) -> np.ndarray:
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
        par[layout.CP_LOW, i], par[layout.CP_HIGH, i], par[layout.CP_MIDDLE, i] = cp.low, cp.high, cp.middle
        par[layout.CP_ABOVE0 : layout.CP_ABOVE0 + 5, i] = cp.above or 0.0
        par[layout.PS_FORM, i] = ps.form
        par[layout.PS0 : layout.PS0 + 5, i] = ps.coefficients
        par[layout.PS_LOW, i], par[layout.PS_HIGH, i] = ps.low, ps.high
        par[layout.PS_TC, i], par[layout.PS_PC, i] = ps.critical
    return par
