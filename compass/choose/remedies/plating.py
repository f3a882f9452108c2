"""Correction plates: a thin tapered ring between hub and rotor that tilts the rotor back."""

import numpy as np

from compass.choose.remedies.corner_draws import CornerDraws, ranges, ranges_about, trace_mm
from compass.choose.remedies.outcome import Option, Outcome, odds, points
from compass.choose.remedies.turning import other_positions
from compass.evidence.shop import Plate, Shop
from compass.ground.arrays import ComplexArray, FloatArray
from compass.ground.uncertainty import DRAWS, normal_draws

_WORTH_TURNING_MM = 0.002  # TIR a turned rotor must gain beside a plate, or it stays where it was
_TRIED = 6
_REREAD_MM = 0.0015  # sd of the amplitude read again when fitted; our estimate


def fitting(shop: Shop, draws: CornerDraws) -> tuple[Plate, ...]:
    """Return the plates in stock whose holes fit this hub."""
    return tuple(plate for plate in shop.plates if plate.studs == draws.spec.studs)


def tilt(plate: Plate, thin_deg: float, *, radius_mm: float) -> complex:
    """Return what a plate takes out at ``radius_mm``: (c/2)(r_m/r_ref)·e^{iβ}, β its thin side.

    measurement.md#what-remedies-leave
    """
    return complex(plate.tir_at_mm(radius_mm) / 2 * np.exp(1j * np.radians(thin_deg)))


def kit_of(fits: tuple[Plate, ...], *, radius_mm: float) -> tuple[list[tuple[Plate, float]], ComplexArray]:
    """Return every plate in every position of its thin side, and what each takes out (n,), as ``tilt`` has it."""
    kit = [(p, thin_deg) for p in fits for thin_deg in p.angles_deg]
    most_mm = np.array([p.tir_at_mm(radius_mm) / 2 for p, _ in kit])
    return kit, most_mm * np.exp(1j * np.radians([thin_deg for _, thin_deg in kit]))


def plate(draws: CornerDraws, shop: Shop) -> Outcome | None:
    """Return the best taper and position, with the best index where that gains something; None without plates."""
    fits = fitting(shop, draws)
    if not fits:
        return None
    options = plate_options(draws, fits)
    best = next((o for o in options if o.index_deg == 0), options[0])
    if best.runout_mm[1] - options[0].runout_mm[1] > _WORTH_TURNING_MM:
        best = options[0]
    parts = draws.parts
    chosen = next(p for p in fits if p.correction_mm == best.plate_mm)
    taken = tilt(chosen, best.plate_deg or 0.0, radius_mm=draws.spec.measuring_radius_mm)
    back = np.exp(-1j * np.radians(best.index_deg))
    runout = ranges((parts.hub + parts.seating - taken) * back + parts.rotor, draws.higher_mm)
    return Outcome(
        runout_mm=runout,
        variation_mm=draws.variation_mm,
        least_mm=draws.metal.least_mm if draws.metal is not None else None,
        settings={"index_deg": best.index_deg, "plate_mm": chosen.correction_mm, "plate_deg": best.plate_deg or 0.0},
        trace_mm=trace_mm(parts.hub - taken + parts.rotor / back, draws.higher_mm, index_deg=best.index_deg),
        options=tuple(options),
    )


def plate_options(draws: CornerDraws, fits: tuple[Plate, ...]) -> list[Option]:
    """Return the best settings of taper × position × index: all on their mean, the best few drawn; best first."""
    spec, parts = draws.spec, draws.parts
    hub, rotor = complex(parts.hub.mean()), complex(parts.rotor.mean())
    shape = draws.higher_mm.mean(axis=1)
    indices_deg = (0.0, *other_positions(draws))
    kit, taken = kit_of(fits, radius_mm=spec.measuring_radius_mm)
    back = np.exp(-1j * np.radians(indices_deg))
    left = ranges_about(((hub - taken) * back[:, None] + rotor).ravel(), shape)
    order = np.argsort(left, kind="stable")
    stays = order[order < len(kit)][: _TRIED // 2]
    options = []
    for k in dict.fromkeys([*order[:_TRIED].tolist(), *stays.tolist()]):
        turned, set_so = divmod(k, len(kit))
        index_deg, (p, thin_deg) = indices_deg[turned], kit[set_so]
        first = (parts.hub + parts.seating - taken[set_so])[:DRAWS] * back[turned] + parts.rotor[:DRAWS]
        runout = ranges(first, draws.higher_mm)
        within = odds(runout, at_most=spec.max_runout_mm)
        options.append(Option(index_deg, p.correction_mm, thin_deg, points(runout), within))
    return sorted(options, key=lambda o: o.rank)


def best_of_kit(installed: ComplexArray, fits: tuple[Plate, ...], *, radius_mm: float) -> FloatArray:
    """Return TIR (n,) after the plate that suits each installed vector (n,) best, as it is measured when fitted."""
    kit = np.concatenate([[0j], kit_of(fits, radius_mm=radius_mm)[1]])
    noise = normal_draws(2, stream=96, rows=installed.size) * _REREAD_MM
    read = installed.view(np.float64).reshape(-1, 2) + noise
    # |read − kit|² less |read|², which is the same for the whole kit.
    chosen = ((np.abs(kit) ** 2)[None, :] - 2 * read @ np.stack([kit.real, kit.imag])).argmin(axis=1)
    left: FloatArray = 2 * np.abs(installed - kit[chosen])
    return left
