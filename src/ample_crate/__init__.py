"""Ample Crate: plans, makes, proves and hands over deliverables to a written spec."""

__version__ = "0.1.0"
