"""A formula as MathML: written in Python's way, set with fractions, indices, powers, roots and Greek letters."""

from __future__ import annotations

import ast
from functools import cache

from markupsafe import Markup, escape

GREEK = {"tau": "τ", "rho": "ρ", "mu": "μ", "sigma": "σ", "Phi": "Φ", "beta": "β"}
SIGNS = {ast.Add: "+", ast.Sub: "−", ast.Mult: "·"}
STRENGTH = {ast.Add: 1, ast.Sub: 1, ast.Mult: 2, ast.Div: 3, ast.Pow: 4}


@cache
def typeset(formula: str) -> Markup:
    """“R = (U_s - U_f) / I” as MathML. SyntaxError where it is no formula."""
    left, _, right = formula.partition(" = ")
    sides = [_set(ast.parse(side.strip(), mode="eval").body, 0) for side in (left, right) if side.strip()]
    return Markup('<math display="block"><mrow>{}</mrow></math>').format(Markup("<mo>=</mo>").join(sides))


def _name(name: str) -> Markup:
    letter, _, index = name.partition("_")
    said = Markup("<mi>{}</mi>").format(GREEK.get(letter, letter))
    if not index:
        return said
    return Markup("<msub>{}<mi>{}</mi></msub>").format(said, GREEK.get(index, index))


def _set(one: ast.expr, around: int) -> Markup:
    match one:
        case ast.Name(id=name):
            return _name(name)
        case ast.Constant(value=value):
            return Markup("<mn>{}</mn>").format(value)
        case ast.UnaryOp(op=ast.USub(), operand=of):
            return Markup("<mo>−</mo>{}").format(_set(of, 2))
        case ast.BinOp(left=left, op=ast.Div(), right=right):
            return Markup("<mfrac><mrow>{}</mrow><mrow>{}</mrow></mfrac>").format(_set(left, 0), _set(right, 0))
        case ast.BinOp(left=left, op=ast.Pow(), right=right):
            return Markup("<msup><mrow>{}</mrow><mrow>{}</mrow></msup>").format(_set(left, 4), _set(right, 0))
        case ast.BinOp(left=left, op=op, right=right):
            strength = STRENGTH[type(op)]
            inner = Markup("{}<mo>{}</mo>{}").format(
                _set(left, strength), SIGNS[type(op)], _set(right, strength + isinstance(op, ast.Sub))
            )
            return _in(inner) if strength < around else inner
        case ast.Call(func=ast.Name(id="sqrt"), args=[of]):
            return Markup("<msqrt>{}</msqrt>").format(_set(of, 0))
        case ast.Call(func=ast.Name(id="exp"), args=[of]):
            return Markup("<msup><mi>e</mi><mrow>{}</mrow></msup>").format(_set(of, 0))
        case ast.Call(func=ast.Name(id=name), args=[of]):
            return Markup("{}{}").format(_name(name), _in(_set(of, 0)))
    raise SyntaxError(f"no formula: {escape(ast.dump(one))}")


def _in(inner: Markup) -> Markup:
    return Markup("<mrow><mo>(</mo>{}<mo>)</mo></mrow>").format(inner)
