"""From a document to its results: checking, planning, calculating, balances, findings."""

from wattaxis.solving.checking import check
from wattaxis.solving.memory import Memory
from wattaxis.solving.results import AimResult, Balance, SolveResult, StreamResult, UnitState
from wattaxis.solving.sequential import solve

__all__ = ["AimResult", "Balance", "Memory", "SolveResult", "StreamResult", "UnitState", "check", "solve"]
