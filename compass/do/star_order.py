"""The order in which wheel nuts are torqued: across and across, never round."""

from typing import Final

# Ordinary star orders: each nut as far from the one before as the circle allows.
_ORDERS: Final = {
    3: (1, 2, 3),
    4: (1, 3, 2, 4),
    5: (1, 3, 5, 2, 4),
    6: (1, 4, 2, 5, 3, 6),
    8: (1, 5, 3, 7, 2, 6, 4, 8),
    10: (1, 6, 3, 8, 5, 10, 7, 2, 9, 4),
}


def star_order(studs: int) -> tuple[int, ...]:
    """Return stud numbers (from 1) in the order in which they are torqued; other counts step as near half round."""
    if studs in _ORDERS:
        return _ORDERS[studs]
    order, left = [1], set(range(2, studs + 1))
    while left:
        last = order[-1]
        order.append(max(left, key=lambda s: (min((s - last) % studs, (last - s) % studs), -s)))
        left.remove(order[-1])
    return tuple(order)
