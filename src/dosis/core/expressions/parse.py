"""From text to tree: a small operator-precedence parser that knows only what is on its list."""

import math
import re
from dataclasses import dataclass
from functools import reduce

from dosis.core.expressions.tree import (
    ALIASES,
    COLUMN_FUNCTIONS,
    FUNCTIONS,
    Binary,
    Call,
    Expression,
    Name,
    Node,
    Number,
)

MAX_LENGTH = 2_000
MAX_DEPTH = 60
CONSTANTS = {"pi": math.pi}
PRECEDENCE = {"<": 1, "<=": 1, ">": 1, ">=": 1, "=": 1, "+": 2, "-": 2, "*": 3, "/": 3, "^": 5}
UNARY_MINUS = 4  # −x^2 is −(x^2)

_TOKEN = re.compile(
    r"""\s*(?:(?P<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)
        |\{(?P<braced>[^{}]+)\}
        |(?P<name>[^\W\d]\w*)
        |(?P<operator><=|>=|[-+*/^(),<>=]))""",
    re.VERBOSE,
)
_SPELLING = str.maketrans({"−": "-", "–": "-", "×": "*", "·": "*", "÷": "/"})


class ExpressionError(ValueError):
    """An expression that cannot be understood; `position` is where, counted from 0."""

    def __init__(self, message: str, position: int) -> None:
        super().__init__(message)
        self.position = position


@dataclass(frozen=True, slots=True)
class Token:
    """A piece of the text: its kind (number, name, operator or end), what it says, and where."""

    kind: str
    text: str
    position: int


def parse(text: str, *, columns: bool = False) -> Expression:
    """Parse an expression: + − * / ^ and parentheses, comparisons, functions, pi, names (with spaces in braces).

    With `columns` the names stand for columns: mean, min, max, first and last of a whole column are then known, and
    lookup(table, x). Of several values min, max and mean are taken row by row.

    Raises
    ------
    ExpressionError : at the place where it stops making sense, saying what is expected there.
    """
    if len(text) > MAX_LENGTH:
        raise ExpressionError(f"The expression is longer than {MAX_LENGTH} characters.", MAX_LENGTH)
    parser = _Parser(_tokens(text.translate(_SPELLING)), columns=columns)
    root = parser.expression(0, 0)
    token = parser.peek()
    if token.kind != "end":
        raise ExpressionError(f"“{token.text}” is not expected here; is an operator missing before it?", token.position)
    return Expression(text, root)


def _tokens(text: str) -> list[Token]:
    tokens, position = [], 0
    while position < len(text.rstrip()):
        match = _TOKEN.match(text, position)
        if match is None:
            at = position + len(text[position:]) - len(text[position:].lstrip())
            raise ExpressionError(f"“{text[at]}” has no meaning in an expression.", at)
        kind = str(match.lastgroup)
        tokens.append(Token("name" if kind == "braced" else kind, match[kind].strip(), match.start(kind)))
        position = match.end()
    tokens.append(Token("end", "", len(text)))
    return tokens


class _Parser:
    def __init__(self, tokens: list[Token], *, columns: bool) -> None:
        self._tokens, self._columns = tokens, columns
        self._at = 0

    def peek(self) -> Token:
        return self._tokens[self._at]

    def take(self) -> Token:
        token = self._tokens[self._at]
        self._at += 1
        return token

    def expression(self, least: int, depth: int) -> Node:
        if depth > MAX_DEPTH:
            raise ExpressionError("The expression is nested too deeply.", self.peek().position)
        left = self._operand(depth)
        while (token := self.peek()).kind == "operator" and PRECEDENCE.get(token.text, -1) >= least:
            precedence = PRECEDENCE[token.text]
            self.take()
            # a − b − c is (a − b) − c, but a^b^c is a^(b^c)
            right = self.expression(precedence if token.text == "^" else precedence + 1, depth + 1)
            left = Binary(token.text, left, right)
        return left

    def _operand(self, depth: int) -> Node:
        token = self.take()
        if token.kind == "number":
            return Number(float(token.text))
        if token.kind == "operator" and token.text in "+-":
            operand = self.expression(UNARY_MINUS, depth + 1)
            return operand if token.text == "+" else Binary("*", Number(-1.0), operand)
        if token.kind == "operator" and token.text == "(":
            inner = self.expression(0, depth + 1)
            self._expect(")", token)
            return inner
        if token.kind == "name":
            if self.peek().text == "(" and self.peek().kind == "operator":
                return self._call(token, depth)
            return Number(CONSTANTS[token.text]) if token.text in CONSTANTS else Name(token.text)
        said = "The expression ends" if token.kind == "end" else f"“{token.text}” stands"
        raise ExpressionError(f"{said} where a number, a name or “(” is expected.", token.position)

    def _call(self, name: Token, depth: int) -> Node:
        function = ALIASES.get(name.text, name.text)
        known = {*FUNCTIONS, *(COLUMN_FUNCTIONS if self._columns else ()), "mean"}
        if function not in known:
            listed = ", ".join(sorted(known))
            raise ExpressionError(f"There is no function “{name.text}”. Known functions: {listed}.", name.position)
        opening = self.take()
        arguments = [self.expression(0, depth + 1)]
        while self.peek().text == ",":
            self.take()
            arguments.append(self.expression(0, depth + 1))
        self._expect(")", opening)
        return self._applied(function, arguments, name)

    def _applied(self, function: str, arguments: list[Node], name: Token) -> Node:
        count = len(arguments)
        if self._columns and function in COLUMN_FUNCTIONS and COLUMN_FUNCTIONS[function].arity == count:
            return Call(function, tuple(arguments), column=True)
        if function in ("min", "max") and count > 2:
            return Call(function, (self._applied(function, arguments[:-1], name), arguments[-1]))
        if function == "mean" and count > 1:
            return Binary("/", reduce(lambda a, b: Binary("+", a, b), arguments), Number(float(count)))
        arity = FUNCTIONS[function].arity if function in FUNCTIONS else COLUMN_FUNCTIONS[function].arity
        if function not in FUNCTIONS or count != arity:
            need = "1 value" if arity == 1 else f"{arity} values"
            need = "2 values or more" if function == "mean" else need
            here = f"here {'is 1' if count == 1 else f'are {count}'}"
            raise ExpressionError(f"{name.text}() takes {need}; {here}.", name.position)
        return Call(function, tuple(arguments))

    def _expect(self, text: str, opening: Token) -> None:
        token = self.peek()
        if token.text != text:
            raise ExpressionError(f"The “{opening.text}” is not closed with “{text}”.", opening.position)
        self.take()
