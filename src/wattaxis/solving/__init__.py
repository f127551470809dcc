"""From a document to its results: checking, planning, calculating, balances, findings."""

from wattaxis.solving.checking import check
from wattaxis.solving.influence import Influence, pair_influence
from wattaxis.solving.memory import Memory
from wattaxis.solving.results import Balance, SolveResult, StreamResult, UnitState
from wattaxis.solving.sequential import solve

__all__ = ["Balance", "Influence", "Memory", "SolveResult", "StreamResult", "UnitState", "check", "pair_influence", "solve"]
