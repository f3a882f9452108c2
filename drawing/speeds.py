"""A speed as a band on a scale: where in the drive the complaint is felt."""

from typing import Final

from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 560.0
HEIGHT: Final = 40.0
_RULE: Final = 26.0


def draw_speeds(low: float, high: float, *, per_step: float, steps: int, unit: str, title: str) -> str:
    """Return the SVG of a scale of ``steps`` steps of ``per_step``, with the band from ``low`` to ``high`` filled."""
    most = per_step * steps

    def at(speed: float) -> float:
        return 8 + min(max(speed, 0.0), most) / most * (WIDTH - 66)

    width = max(at(high) - at(low), 5.0)
    drawn: list[Element] = [element("rect", x=at(low), y=_RULE - 8, width=width, height=8, class_="speed-band")]
    drawn.append(path([(8, _RULE), (WIDTH - 58, _RULE)], class_="speed-rule"))
    for step in range(steps + 1):
        x = at(step * per_step)
        drawn.append(path([(x, _RULE), (x, _RULE + 5)], class_="speed-rule"))
        drawn.append(text(f"{step * per_step:g}", x, 8, class_="speed-label"))
    drawn.append(text(unit, WIDTH - 50, _RULE, class_="speed-unit"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="speeds")
