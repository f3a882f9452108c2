"""How long works hold: the share not back over the distance, stepwise, with its range."""

from dataclasses import dataclass
from typing import Final

from compass.ground.arrays import FloatArray
from compass.words.figures import twentieths_text
from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 560.0
HEIGHT: Final = 300.0
_LEFT, _RIGHT, _TOP, _FOOT = 62.0, 470.0, 18.0, 262.0


@dataclass(frozen=True, slots=True, eq=False)
class HoldingLine:
    """One curve: the share not back after ``km`` (n,), its range (n,) or None; ``style`` 0 to 3 tells it apart."""

    name: str
    km: FloatArray
    share: FloatArray
    low: FloatArray | None
    high: FloatArray | None
    style: int


def draw_holding(
    lines: list[HoldingLine], *, over_km: float, marks: list[tuple[float, str]], least: float, title: str
) -> str:
    """Return the SVG; ``marks`` are distances with their words, ``least`` the share at the foot of the scale."""

    def at(km: float, share: float) -> tuple[float, float]:
        across = _LEFT + min(km / over_km, 1.0) * (_RIGHT - _LEFT)
        return across, _TOP + (1 - max(share, least)) / (1 - least) * (_FOOT - _TOP)

    def steps(km: FloatArray, share: FloatArray) -> list[tuple[float, float]]:
        points, level = [at(0.0, 1.0)], 1.0
        for distance, value in zip(km.tolist(), share.tolist(), strict=True):
            if distance > over_km:
                break
            points += [at(distance, level), at(distance, value)]
            level = value
        return [*points, at(min(float(km[-1]), over_km), level)]  # beyond the last that was followed it says nothing

    drawn: list[Element] = []
    for share in (least, (1 + least) / 2, 1.0):
        drawn.append(path([at(0, share), at(over_km, share)], class_="plot-grid"))
        drawn.append(text(twentieths_text(round(share * 20)), _LEFT - 8, at(0, share)[1], class_="plot-name"))
    for km, words in marks:
        drawn.append(text(words, at(km, 0)[0], _FOOT + 20, class_="plot-scale"))
    for line in lines:
        if line.low is not None and line.high is not None:
            band = [*steps(line.km, line.high), *reversed(steps(line.km, line.low))]
            drawn.append(path(band, closed=True, class_="plot-band"))
    taken: list[float] = []
    for line in lines:
        points = steps(line.km, line.share)
        drawn.append(path(points, class_=f"plot-line style-{line.style}"))
        y = points[-1][1]
        while any(abs(y - other) < 17 for other in taken):
            y += 17
        taken.append(y)
        drawn.append(text(line.name, _RIGHT + 6, y, class_="plot-beside"))
    drawn.append(element("rect", x=_LEFT, y=_TOP, width=_RIGHT - _LEFT, height=_FOOT - _TOP, class_="plot-frame"))
    return picture(WIDTH, HEIGHT, drawn, title=title, class_="plot")
