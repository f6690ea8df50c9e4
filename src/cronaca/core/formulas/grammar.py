"""The grammar of formulas: operators as in arithmetic and in plain words, functions, inputs by their
names."""

from __future__ import annotations

from functools import lru_cache
from typing import Any, Final

from lark import Lark, Token, Transformer, UnexpectedCharacters, UnexpectedInput, UnexpectedToken, v_args

from cronaca.core.errors import InvalidInput
from cronaca.core.formulas.functions import FUNCTIONS
from cronaca.core.formulas.nodes import Call, Input, Node, Number

LONGEST: Final = 1000
FIELD: Final = "formula"
SECONDS: Final = {"ms": 0.001, "s": 1.0, "min": 60.0, "h": 3600.0, "d": 86_400.0}
_DEEPEST: Final = 60
_GRAMMAR: Final = r"""
    ?start: either
    ?either: both | either "or"i both -> either
    ?both: negation | both "and"i negation -> both
    ?negation: comparison | "not"i negation -> negated
    ?comparison: sum | sum COMPARED sum -> compared
    ?sum: product | sum ADDED product -> calculated
    ?product: signed | product MULTIPLIED signed -> calculated
    ?signed: power | "-" signed -> minus | "+" signed
    ?power: atom | atom "^" signed -> power
    ?atom: NUMBER -> number
        | DURATION -> duration
        | "true"i -> true
        | "false"i -> false
        | NAME "(" [either ("," either)*] ")" -> call
        | NAME -> input
        | "(" either ")"
    COMPARED: "<=" | ">=" | "<>" | "!=" | "==" | "=" | "<" | ">"
    ADDED: "+" | "-"
    MULTIPLIED: "*" | "/" | "%"
    DURATION.2: /\d+(?:\.\d+)?\s*(?:ms|min|s|h|d)(?![A-Za-z0-9_])/
    NUMBER: /(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?/i
    NAME: /[a-z_][a-z0-9_]*/i
    %ignore /\s+/
"""
_SAME: Final = {"==": "=", "<>": "!="}


@v_args(inline=True)
class _Nodes(Transformer[Token, Node]):
    """From the parser's tree to nodes."""

    def number(self, token: Token) -> Node:
        return Number(float(token))

    def duration(self, token: Token) -> Node:
        unit = token.lstrip("0123456789.").strip()
        return Number(float(token[: -len(unit)]) * SECONDS[unit])

    def true(self) -> Node:
        return Number(1.0)

    def false(self) -> Node:
        return Number(0.0)

    def input(self, token: Token) -> Node:
        return Input(str(token))

    def either(self, a: Node, b: Node) -> Node:
        return Call("or", (a, b))

    def both(self, a: Node, b: Node) -> Node:
        return Call("and", (a, b))

    def negated(self, a: Node) -> Node:
        return Call("not", (a,))

    def minus(self, a: Node) -> Node:
        return Call("negative", (a,))

    def power(self, a: Node, b: Node) -> Node:
        return Call("^", (a, b))

    def calculated(self, a: Node, sign: Token, b: Node) -> Node:
        return Call(str(sign), (a, b))

    def compared(self, a: Node, sign: Token, b: Node) -> Node:
        return Call(_SAME.get(sign, str(sign)), (a, b))

    def call(self, name: Token, *arguments: Node | None) -> Node:
        operands = tuple(argument for argument in arguments if argument is not None)
        _check_call(name, operands)
        return Call(name.lower(), operands)


def _check_call(name: Token, arguments: tuple[Node, ...]) -> None:
    function = FUNCTIONS.get(name.lower())
    at = f"at character {name.column}: "
    if function is None or not function.named:
        raise InvalidInput(
            FIELD,
            "no-function",
            "{at}there is no function {name!r}",
            "{near}",
            at=at,
            name=str(name),
            near=_near(name.lower()),
        )
    if not function.least <= len(arguments) <= function.most:
        raise InvalidInput(
            FIELD,
            "grammar-arguments",
            "{at}{name} has {arguments} arguments",
            "Write {signature}.",
            at=at,
            name=name,
            arguments=len(arguments),
            signature=function.signature,
        )
    for i in function.durations:
        if i < len(arguments):
            duration = arguments[i]
            if not isinstance(duration, Number) or duration.value <= 0:
                raise InvalidInput(
                    FIELD,
                    "wants-length-time",
                    "{at}{name} needs a duration",
                    "Write {signature}, e.g. 10 min.",
                    at=at,
                    name=name,
                    signature=function.signature,
                )


def _near(name: str) -> str:
    alike = [
        function.name for function in FUNCTIONS.values() if function.named and function.name[:2] == name[:2]
    ]
    return f"Did you mean {alike[0]}?" if alike else "The list of functions stands beside the formula."


@lru_cache(maxsize=1)
def _parser() -> Lark:
    return Lark(_GRAMMAR, parser="lalr", maybe_placeholders=False)


def parse_formula(text: str) -> Node:
    """A formula as a tree. Raises InvalidInput with the position of what is wrong, and the remedy."""
    if not text.strip():
        raise InvalidInput(FIELD, "grammar-empty", "it is empty", "Write one, for instance a * b.")
    if len(text) > LONGEST:
        raise InvalidInput(
            FIELD,
            "grammar-characters",
            "it has {text} characters",
            "Write at most {longest}.",
            text=len(text),
            longest=LONGEST,
        )
    try:
        node: Node = _Nodes().transform(_parser().parse(text))
    except UnexpectedInput as exc:
        raise _wrong(text, exc) from exc
    except Exception as exc:
        refused = _refusal(exc)
        if refused is None:
            raise
        raise refused from exc
    if _depth(node, 0) > _DEEPEST:
        raise InvalidInput(
            FIELD, "nested-too-deeply", "it is nested too deeply", "Split it over several calculated tags."
        )
    return node


def _refusal(exc: BaseException) -> InvalidInput | None:
    """What a node refused: the parser wraps what its callbacks raise."""
    inner: Any = getattr(exc, "orig_exc", exc)
    if isinstance(inner, InvalidInput):
        return inner.at(inner.field)
    if isinstance(inner, RecursionError):
        return InvalidInput(
            FIELD, "nested-too-deeply", "it is nested too deeply", "Split it over several calculated tags."
        )
    return None


def _wrong(text: str, exc: UnexpectedInput) -> InvalidInput:
    at_end = isinstance(exc, UnexpectedToken) and exc.token.type == "$END"
    if at_end:
        return InvalidInput(
            FIELD, "ends-too-early", "it ends too early", "Complete it: a value or a bracket is missing."
        )
    column = exc.column
    if isinstance(exc, UnexpectedCharacters):
        sign = text[exc.pos_in_stream or 0]
        return InvalidInput(
            FIELD,
            "character-means-nothing-here",
            "at character {column}: {sign!r} means nothing here",
            "Remove it.",
            column=column,
            sign=sign,
        )
    token = str(exc.token) if isinstance(exc, UnexpectedToken) else ""
    return InvalidInput(
        FIELD,
        "character-cannot-stand-here",
        "at character {column}: {token!r} cannot stand here",
        "An operator is missing before it, or a value: write a * b, (a + b) / 2, if(a > 5, b, c).",
        column=column,
        token=token,
    )


def _depth(node: Node, above: int) -> int:
    if above > _DEEPEST or not isinstance(node, Call):
        return above
    return max([above, *(_depth(argument, above + 1) for argument in node.arguments)])
