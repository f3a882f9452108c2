"""A day of the workshop: places as rows, jobs as blocks along the hours."""

from dataclasses import dataclass
from typing import Final

from drawing.svg import Element, element, path, picture, text

WIDTH: Final = 1240.0
_ROW: Final = 30.0
_LEFT: Final = 62.0
_TOP: Final = 20.0
_OPENS: Final = 7.0
_SHUTS: Final = 18.0


@dataclass(frozen=True, slots=True)
class Block:
    """A booking: row, first and last hour of the day, label, who has it, and where it leads."""

    row: str
    first_hour: float
    last_hour: float
    label: str
    who: str
    href: str


def draw_day(blocks: list[Block], rows: list[tuple[str, str]], *, now_hour: float | None, title: str) -> str:
    """Return the SVG; hours before opening and after closing are added where something is booked then."""
    opens = min(_OPENS, *(float(int(b.first_hour)) for b in blocks))
    shuts = max(_SHUTS, *(b.last_hour for b in blocks))
    height = _TOP + _ROW * len(rows) + 2

    def at(hour: float) -> float:
        return _LEFT + (hour - opens) / (shuts - opens) * (WIDTH - _LEFT - 4)

    drawn: list[Element] = []
    for hour in range(int(opens), int(shuts) + 1):
        drawn.append(path([(at(hour), _TOP - 4), (at(hour), height)], class_="day-hour"))
        drawn.append(text(f"{hour}", at(hour) + 3, 9, class_="day-label"))
    tops = {code: _TOP + _ROW * k for k, (code, _name) in enumerate(rows)}
    for code, name in rows:
        drawn.append(text(name, 0, tops[code] + _ROW / 2, class_="day-place"))
        drawn.append(path([(_LEFT, tops[code]), (WIDTH, tops[code])], class_="day-row"))
    for block in blocks:
        x, y, wide = at(block.first_hour), tops[block.row] + 3, at(block.last_hour) - at(block.first_hour)
        room = int(wide / 7.5)
        words = (
            f"{block.label} · {block.who}"
            if block.who and len(block.label) + len(block.who) + 3 <= room
            else block.label
        )
        inside = [
            element("title", f"{block.label}, {block.who}"),
            element("rect", x=x, y=y, width=max(wide - 2, 4), height=_ROW - 6, class_=f"day-block {block.row}"),
            text(words[:room], x + 6, y + _ROW / 2 - 3, class_="day-name"),
        ]
        drawn.append(element("a", *inside, href=block.href))
    if now_hour is not None and opens <= now_hour <= shuts:
        drawn.append(path([(at(now_hour), _TOP - 8), (at(now_hour), height)], class_="day-now"))
    return picture(WIDTH, height, drawn, title=title, role="group", aria_label=title, class_="day")
