"""A safe expression language in ordinary mathematical notation, with exact derivatives. Never evaluated as Python."""

from dosis.core.expressions.parse import ExpressionError, parse
from dosis.core.expressions.tree import Expression

__all__ = ["Expression", "ExpressionError", "parse"]
