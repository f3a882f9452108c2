"""The metal of a disc as a gauge: nominal, now, after, machine-to, discard."""

from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, element, path, picture, text

GAUGE_WIDTH: Final = 200.0
GAUGE_HEIGHT: Final = 66.0
_A_LETTER: Final = 6.0  # of a label's face, on average


def _label_x(labels: dict[str, str], x: float, width: float) -> float:
    """Return where the label of the least metal has its middle: at ``x``, clear of the edge and of the other label."""
    half = _A_LETTER * len(labels["least"]) / 2
    return max(min(x, width - _A_LETTER * (len(labels["new"]) + 1) - half), half)


@dataclass(frozen=True, slots=True)
class Gauge:
    """A disc's metal, mm: new, now, after (5, 50, 95 %), machine-to (if told) and discard."""

    nominal: float
    now: float | None
    after: tuple[float, float, float] | None
    machine_to: float | None
    discard: float


def draw_gauge(gauge: Gauge, *, labels: dict[str, str], title: str, width: float = GAUGE_WIDTH) -> str:
    """Return the SVG: discard hatched, down to machine-to pale, then what stays; a mark where it is now."""
    low = gauge.discard - 0.35 * (gauge.nominal - gauge.discard)
    high = max(gauge.nominal, gauge.now or 0.0) + 0.04 * (gauge.nominal - low)

    def x(mm: float) -> float:
        return max((mm - low) / (high - low), 0.0) * width

    top, tall = 24.0, 17.0
    drawn: list[Element] = [
        element("rect", x=0, y=top, width=x(gauge.discard), height=tall, class_="gone"),
    ]
    pale = gauge.machine_to if gauge.machine_to is not None else gauge.discard
    drawn.append(
        element("rect", x=x(gauge.discard), y=top, width=x(pale) - x(gauge.discard), height=tall, class_="reserve")
    )
    stays = gauge.after[1] if gauge.after is not None else gauge.now
    if stays is not None and stays > pale:
        drawn.append(element("rect", x=x(pale), y=top, width=x(stays) - x(pale), height=tall, class_="metal-left"))
    if gauge.after is not None and gauge.now is not None and gauge.now > gauge.after[1]:
        drawn.append(
            element(
                "rect", x=x(gauge.after[1]), y=top, width=x(gauge.now) - x(gauge.after[1]), height=tall, class_="taken"
            )
        )
    if gauge.after is not None:
        drawn.append(
            path([(x(gauge.after[0]), top + tall + 3), (x(gauge.after[2]), top + tall + 3)], class_="spread-line")
        )
    if gauge.now is not None:
        drawn.append(path([(x(gauge.now), top - 5), (x(gauge.now), top + tall + 5)], class_="now"))
    drawn.append(path([(x(gauge.nominal), top - 2), (x(gauge.nominal), top + tall + 2)], class_="new"))
    if stays is not None:
        drawn.append(text(labels["after"], min(max(x(stays), 26), width - 26), 11, class_="gauge-after"))
    drawn.append(text(labels["least"], _label_x(labels, x(pale), width), 58, class_="gauge-label"))
    drawn.append(text(labels["new"], width, 58, class_="gauge-label end"))
    return picture(width, GAUGE_HEIGHT, drawn, title=title, class_="gauge")
