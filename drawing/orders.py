"""Shake over the orders of the wheel: braked and not, with orders 1 and 2 marked."""

from typing import Final

import numpy as np

from compass.ground.arrays import FloatArray
from drawing.svg import Element, path, picture, text

WIDTH: Final = 560.0
HEIGHT: Final = 180.0
_BOTTOM: Final = 140.0
_MOST_ORDER: Final = 4.0


def draw_orders(
    orders: FloatArray, braked: FloatArray | None, free: FloatArray | None, *, labels: tuple[str, str, str], title: str
) -> str:
    """Return the SVG; ``labels`` name the braked line, the other one, and the axis."""
    shown = orders <= _MOST_ORDER
    curves = [c[shown] for c in (braked, free) if c is not None]
    top = max((float(c.max()) for c in curves), default=1.0) or 1.0
    x = orders[shown] / _MOST_ORDER * (WIDTH - 20) + 10
    drawn: list[Element] = [path([(10, _BOTTOM), (WIDTH - 10, _BOTTOM)], class_="orders-axis")]
    for order in (1, 2, 3, 4):
        at = order / _MOST_ORDER * (WIDTH - 20) + 10
        drawn.append(path([(at, 12), (at, _BOTTOM + 5)], class_=f"orders-mark{' wheel' if order < 3 else ''}"))
        drawn.append(text(str(order), at, _BOTTOM + 17, class_="orders-label"))
    for curve, kind in ((free, "free"), (braked, "braked")):
        if curve is None:
            continue
        y = _BOTTOM - curve[shown] / top * (_BOTTOM - 18)
        drawn.append(path(list(zip(np.asarray(x).tolist(), y.tolist(), strict=True)), class_=f"orders-line {kind}"))
    for k, (kind, label) in enumerate((("braked", labels[0]), ("free", labels[1]))):
        drawn.append(path([(WIDTH - 150, 16 + 18 * k), (WIDTH - 120, 16 + 18 * k)], class_=f"orders-line {kind}"))
        drawn.append(text(label, WIDTH - 112, 16 + 18 * k, class_="orders-name"))
    drawn.append(text(labels[2], 12, HEIGHT - 9, class_="orders-name"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="orders")
