"""In which parameters an expression is linear, read off its tree."""

from itertools import combinations

from dosis.core.expressions.tree import Binary, Call, Expression, Name, Node

FREE, LINEAR, OTHER = 0, 1, 2  # without the names, linear in them, or anything else
MOST = 12  # parameters of which every choice is looked at


def linear_names(expression: Expression, parameters: tuple[str, ...]) -> tuple[str, ...]:
    """The largest choice of parameters in which the expression is linear, all at once, when the others are held.

    Example: ``linear_names(parse("b1 + b2*exp(-b3*x)"), ("b1", "b2", "b3")) == ("b1", "b2")``.
    """
    alone = [name for name in parameters if degree(expression.root, frozenset((name,))) <= LINEAR]
    for size in range(len(alone), 0, -1) if len(alone) <= MOST else ():
        for chosen in combinations(alone, size):
            if degree(expression.root, frozenset(chosen)) <= LINEAR:
                return chosen
    return ()


def degree(node: Node, names: frozenset[str]) -> int:
    """How a part depends on the names together: `FREE` of them, `LINEAR` with an offset, or `OTHER`."""
    if not node.names() & names:
        return FREE
    if isinstance(node, Name):
        return LINEAR
    if isinstance(node, Binary):
        return _of_both(node.operator, degree(node.left, names), degree(node.right, names))
    if isinstance(node, Call) and node.function == "if" and degree(node.arguments[0], names) == FREE:
        return max(degree(argument, names) for argument in node.arguments[1:])
    return OTHER


def _of_both(operator: str, left: int, right: int) -> int:
    if operator in ("+", "-"):
        return max(left, right)
    if operator == "*":
        return min(left + right, OTHER)
    return left if operator == "/" and right == FREE else OTHER
