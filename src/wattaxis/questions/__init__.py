"""What is asked of a solved plant: variants side by side, balances over a border, units under other conditions, what matters, what could be freed,
scaling, laying out; and of a reaction that is being written."""

from wattaxis.questions.column_specifications import ColumnSpecifications, column_specifications
from wattaxis.questions.column_study import ColumnQuestion, ColumnStudy, column_study_of, set_columns_apart, study_column
from wattaxis.questions.comparison import Comparison, compare
from wattaxis.questions.compression import CompressionLayout, CompressionQuestion, lay_out_compression
from wattaxis.questions.conditions import Apart, Case, Condition, ConditionsQuestion, calculate_apart, set_apart, under_conditions
from wattaxis.questions.envelope import EnvelopeBalance, envelope_balance
from wattaxis.questions.formulas import formula_values
from wattaxis.questions.freeing import Proposal, Proposals, propose_free
from wattaxis.questions.influence import AssumptionInfluence, Influence, assumption_influence, pair_influence
from wattaxis.questions.reaction_look import ReactionLook, ReactionQuestion, look_at_reaction
from wattaxis.questions.scaling import Scaling, scale_to_production
from wattaxis.questions.stage_path import stage_paths

__all__ = [
    "Apart",
    "AssumptionInfluence",
    "Case",
    "ColumnQuestion",
    "ColumnSpecifications",
    "ColumnStudy",
    "Comparison",
    "CompressionLayout",
    "CompressionQuestion",
    "Condition",
    "ConditionsQuestion",
    "EnvelopeBalance",
    "Influence",
    "Proposal",
    "Proposals",
    "ReactionLook",
    "ReactionQuestion",
    "Scaling",
    "assumption_influence",
    "calculate_apart",
    "column_specifications",
    "column_study_of",
    "compare",
    "envelope_balance",
    "formula_values",
    "lay_out_compression",
    "look_at_reaction",
    "pair_influence",
    "propose_free",
    "scale_to_production",
    "set_apart",
    "set_columns_apart",
    "stage_paths",
    "study_column",
    "under_conditions",
]  # fmt: skip
