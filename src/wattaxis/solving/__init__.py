"""From a document to its results: checking, planning, calculating, balances, findings."""

from wattaxis.solving.aims import Proposal, Proposals
from wattaxis.solving.checking import check
from wattaxis.solving.comparison import Comparison, compare
from wattaxis.solving.compression import CompressionLayout, CompressionQuestion, lay_out_compression
from wattaxis.solving.envelope import EnvelopeBalance, envelope_balance
from wattaxis.solving.influence import AssumptionInfluence, Influence, assumption_influence, pair_influence
from wattaxis.solving.memory import Memory
from wattaxis.solving.results import AimResult, Balance, SolveResult, StreamResult, UnitState
from wattaxis.solving.scaling import Scaling, scale_to_production
from wattaxis.solving.sequential import propose_free, solve

__all__ = [
    "AimResult",
    "AssumptionInfluence",
    "Balance",
    "Comparison",
    "CompressionLayout",
    "CompressionQuestion",
    "EnvelopeBalance",
    "Influence",
    "Memory",
    "Proposal",
    "Proposals",
    "Scaling",
    "SolveResult",
    "StreamResult",
    "UnitState",
    "assumption_influence",
    "check",
    "compare",
    "envelope_balance",
    "lay_out_compression",
    "pair_influence",
    "propose_free",
    "scale_to_production",
    "solve",
]
