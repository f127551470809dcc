"""Correlations of real hardware: what passes a valve, what a pipe costs in pressure. Plain functions of numbers in SI, without units of operation."""
