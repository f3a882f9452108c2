"""Rows by the hundred thousand: jobs of ten years in one workshop, and other workshops beside it."""

from collections.abc import Callable
from typing import Final

from django.db import connection

from workshop.models import User, Vehicle, Workshop

_BATCH: Final = 20  # workshops at a time
_FLEET: Final = 6  # vehicles in each of the others
_MANY: Final = 1000
_PARTS: Final = 5
_OPEN: Final = 200  # jobs of a workshop that are not closed, at most

# As many jobs in each of these workshops, over its own vehicles; what was judged is copied from the demo.
_JOBS: Final = """
insert into jobs_job (workshop_id, vehicle_id, complaint, odometer_km, state, closing_reason, case_rest, story, road_test, found_cause, judgement, base_rates, figures, decided, created_by_id, created_at, changed_at, version, closed_by_id)
select v.workshop_id, v.id, 'Pulses at ' || (40 + n %% 70) || ', job card ' || n, n, case when n > least(%(open)s, %(of)s / 20) then 'closed' else 'open' end, '', '{}', '{}', '{}', '', d.judgement, '{}', '{}', '{}', p.id, now() - n * interval '50 minutes', now(), 1, p.id
from generate_series(%(from)s, %(to)s, -1) n join (
    select id, workshop_id, row_number() over (partition by workshop_id order by id) - 1 as k, count(*) over (partition by workshop_id) as c
    from workshop_vehicle where workshop_id = any(%(workshops)s)
) v on v.k = n %% v.c
join (select workshop_id, min(id) as id from workshop_user where role = 'lead' group by workshop_id) p on p.workshop_id = v.workshop_id
cross join (select judgement from jobs_job where judgement <> '{}' order by id limit 1) d
"""
_CORNERS: Final = """
insert into jobs_corner (workshop_id, job_id, position, place, verdict, episode, after, works, remedy)
select j.workshop_id, j.id, p.position, p.place, coalesce(d.verdict, '{}'), 0, '{}', '{}', '' from jobs_job j
cross join (values ('FL', 0), ('FR', 1), ('RL', 2), ('RR', 3)) p(position, place)
left join (select position, verdict from jobs_corner where verdict <> '{}' and position in ('FL', 'FR') order by id limit 2) d
on d.position = p.position
where j.workshop_id = any(%(workshops)s)
and j.id not in (select job_id from jobs_corner where workshop_id = any(%(workshops)s))
"""
# What the jobs above were closed as: two corners each, one in thirty back, one in twenty not seen again yet.
_CLOSINGS: Final = """
insert into jobs_closing (workshop_id, job_id, vehicle_id, model, at, by_id, proven, reason, found_cause, odometer_km, judged_by, part_minutes, stands, due_on, due_km, due_why, chance, rung, rung_note, seen_again_id, seen_km, comeback, comeback_by_id)
select j.workshop_id, j.id, j.vehicle_id, v.model, j.created_at, j.created_by_id, true, '', 'rotor_runout', j.id %% 90000, '{}', '{"opening": [7.5, 8.5]}', true, j.created_at::date + 365, j.id %% 90000 + 20000, 'latest', 0.02, '', '',
case when j.id %% 20 = 0 then null else j.id end, case when j.id %% 20 = 0 then null else j.id %% 90000 + 500 + j.id %% 19000 end, case when j.id %% 20 = 0 then null else j.id %% 30 = 1 end, case when j.id %% 20 = 0 then null else j.created_by_id end
from jobs_job j join workshop_vehicle v on v.id = j.vehicle_id
where j.workshop_id = any(%(workshops)s) and j.state = 'closed'
and j.id not in (select job_id from jobs_closing where workshop_id = any(%(workshops)s))
"""
_WORKS: Final = """
insert into jobs_cornerworked (workshop_id, closing_id, stands, "on", month, vehicle_id, odometer_km, model, back, gone_km, position, axle, leads, root_cause, remedy, against, needless, spared, decided_by_id, done_by_id, lathe_id, supplier, price, minutes_said, minutes_taken, runout_before_mm, variation_before_mm, hub_mm, rotor_mm, hub_share, foretold_low_mm, foretold_mm, foretold_high_mm, odds_within, comeback_odds, runout_mm, runout_expanded_mm, variation_mm, variation_expanded_mm, within, came, new_rotor_mm, new_rotor_u_mm, seating)
select c.workshop_id, c.id, c.stands, c.at::date, date_trunc('month', c.at)::date, c.vehicle_id, c.odometer_km, c.model, c.comeback, c.seen_km - c.odometer_km, p.position, 'F', p.leads, (array['rotor_runout', 'hub_face_runout', 'hub_and_rotor_together', 'joint_contamination', 'none_found'])[1 + c.id %% 5], (array['index', 'plate', 'on_vehicle_cut', 'new_rotors', 'clean_and_torque'])[1 + c.id %% 5],
false, false, c.id %% 5 <> 3, c.by_id, c.by_id, case when c.id %% 5 = 2 then l.id end, case when c.id %% 5 = 3 then 'Skerry' else '' end, 300, 40, 35 + c.id %% 30, 0.09, 0.01, 0.06, 0.04, random(), 0.01, 0.02, 0.03, 0.5 + random() / 2, random() / 3,
0.01 + random() * 0.05, 0.004, 0.004, 0.002, c.id %% 12 <> 0, case when c.id %% 9 = 0 then 'worse' else 'inside' end, case when c.id %% 5 = 3 then random() * 0.03 end, 0.001, case when c.id %% 7 = 0 then array_fill(-random(), array[121]) else '{}' end
from jobs_closing c cross join (values ('FL', true), ('FR', false)) p(position, leads)
left join (select workshop_id, min(id) as id from workshop_lathe group by workshop_id) l on l.workshop_id = c.workshop_id
where c.workshop_id = any(%(workshops)s) and c.judged_by = '{}'
and c.id not in (select closing_id from jobs_cornerworked where workshop_id = any(%(workshops)s))
"""


def fill(*, jobs: int, workshops: int, jobs_each: int, progress: Callable[[int, int], None]) -> None:
    """Put ``jobs`` into the first workshop, and ``jobs_each`` into each of ``workshops`` others.

    ``progress`` is called with the rows of jobs made and those to be made. The connection is the owner's.
    """
    total = jobs + workshops * jobs_each
    opened: list[int] = []
    for begun in range(0, workshops, _BATCH):
        opened += _open(range(begun, min(begun + _BATCH, workshops)))
    made = 0
    for part in range(_PARTS):  # the years go by for all of them at once
        made += _insert([Workshop.FIRST], jobs, part)
        for begun in range(0, workshops, _BATCH):
            made += _insert(opened[begun : begun + _BATCH], jobs_each, part)
            progress(made, total)
    progress(total, total)
    with connection.cursor() as cursor:
        cursor.execute("analyze")


def _insert(workshops: list[int], of: int, part: int) -> int:
    """Make a part of ``of`` jobs in each workshop, the oldest first; return how many in all."""
    begin, end = of * part // _PARTS, of * (part + 1) // _PARTS
    told = {"workshops": workshops, "of": of, "open": _OPEN, "from": of - begin, "to": of - end + 1}
    with connection.cursor() as cursor:
        cursor.execute("set work_mem = '256MB'")  # to hold what is there already
        for statement in (_JOBS, _CORNERS, _CLOSINGS, _WORKS):
            cursor.execute(statement, told)
            if end - begin > _MANY:  # the next statement is planned by how many rows there are now
                cursor.execute("analyze")
    return (end - begin) * len(workshops)


def _open(numbers: range) -> list[int]:
    """Open workshops with a lead and a small fleet each."""
    rows = Workshop.objects.bulk_create(Workshop(name=f"Workshop {n + 2}") for n in numbers)
    User.objects.bulk_create(
        User(workshop_id=row.pk, username=f"lead-{row.pk}", role=User.Role.LEAD, password="!")  # noqa: S106
        for row in rows
    )
    Vehicle.objects.bulk_create(
        Vehicle(workshop_id=row.pk, label=f"Bus {k + 1}", model="Skua 2", rolling_circumference_mm=2100)
        for row in rows
        for k in range(_FLEET)
    )
    return [row.pk for row in rows]
