"""The work under way: what comes next, what is opened again, what a reading means; and the order of work in time."""

import random
from unittest import TestCase, mock

from compass.do.ladder import falls_away, next_step, opened_again, rung, skipped
from compass.do.order import Order, Task, order_work, plain_order
from compass.do.procedures import ONCE
from compass.do.reading import Outcome, hold_reading
from compass.do.step_times import PAUSE_MINUTES, Press, minutes_by_part
from compass.do.steps import Work
from compass.do.tasks import tasks_of
from compass.do.work import CornerWork, Part, PlacedStep, vehicle_work
from compass.ground.errors import EvidenceError

AXLE = ("FL", "FR")


def work(remedy: str = "on_vehicle_cut", *, passes: tuple[int, ...] = (1, 2), **more: object) -> list[CornerWork]:
    figures = {"after_pass": (26.28, 26.30), "stop": 26.0, "runout_before": (0.09, 0.11), "runout_after": (0.01, 0.03)}
    return [CornerWork(p, Work(remedy, first=p == "FL", **more), figures, passes) for p in AXLE]


def find(parts: tuple[Part, ...], code: str, *, position: str = "FL", number: int | None = None) -> PlacedStep:
    return next(
        step
        for part in parts
        for step in part.steps
        if step.step.code == code and step.position in ("", position) and number in (None, step.pass_number)
    )


def until(parts: tuple[Part, ...], at: PlacedStep) -> set[tuple[str, str]]:
    """Return what is done when the plain order has come to ``at``."""
    return {rung(step) for part in parts for step in part.steps if step.number < at.number}


class Ladder(TestCase):
    """Steps of both sides of an axle that is matched on the vehicle."""

    def setUp(self) -> None:
        self.parts = vehicle_work(work())

    def test_the_vehicle_is_opened_and_left_once_with_both_corners_between(self) -> None:
        names = [(part.position, part.name) for part in self.parts]
        self.assertEqual((names[0], names[-1]), (("", "lift"), ("", "leaving")))
        self.assertEqual([names.count(("", name)) for name in ONCE], [1, 1])
        self.assertEqual(len({rung(s) for part in self.parts for s in part.steps}), self.parts[-1].steps[-1].number)
        self.assertEqual(
            [
                p
                for p in AXLE
                for part in self.parts
                for s in part.steps
                if s.position == p and s.step.code == "side_first"
            ],
            ["FL"],
        )

    def test_the_next_step_follows_the_order_of_work(self) -> None:
        self.assertEqual(next_step(self.parts, set()).step.code, "chock")
        lifted = {rung(step) for step in self.parts[0].steps}
        other_first = next_step(self.parts, lifted, [self.parts[0].key, "FR:opening:1"])
        self.assertEqual((other_first.position, other_first.part), ("FR", "opening"))
        everything = {rung(step) for part in self.parts for step in part.steps}
        self.assertIsNone(next_step(self.parts, everything))
        leaving = self.parts[-1]
        turned_up = everything - {rung(step) for step in leaving.steps} - {rung(find(self.parts, "wash"))}
        self.assertEqual(next_step(self.parts, turned_up, [leaving.key]).step.code, "wash")  # shut, and not left yet

    def test_what_is_skipped_is_named_at_its_own_place_and_everywhere_before_leaving(self) -> None:
        wash = find(self.parts, "wash", position="FR")
        self.assertIn("lift", {step.step.code for step in skipped(self.parts, set(), wash)})
        self.assertEqual({step.position for step in skipped(self.parts, set(), wash)}, {"", "FR"})
        pump = find(self.parts, "pump")
        left = skipped(self.parts, until(self.parts, pump) - {rung(wash)}, pump)
        self.assertEqual([rung(step) for step in left], [rung(wash)])

    def test_going_back_opens_what_lies_between_but_never_a_pass_that_was_read(self) -> None:
        patch = find(self.parts, "dark_patch")
        codes = [key.split(":")[2] for _position, key in opened_again(self.parts, patch, "compensate")]
        self.assertEqual((codes[0], codes[-1]), ("compensate", "dark_patch"))
        self.assertFalse({"pass", "read_pass"} & set(codes))
        broken = opened_again(self.parts, find(self.parts, "stay", number=2), "compensate")
        self.assertEqual({key for _p, key in broken if ":pass:" in key}, {"cut:1:pass:2"})
        read = opened_again(self.parts, find(self.parts, "read_pass", number=1), "zero", read=True)
        self.assertEqual([key.split(":")[2] for _p, key in read], ["zero", "motor_off"])
        self.assertEqual(opened_again(self.parts, patch, "nowhere"), ())

    def test_another_choice_keeps_what_it_goes_through_without_a_gap(self) -> None:
        plate = vehicle_work(work("plate"))
        done = until(self.parts, find(self.parts, "adapter"))
        gone = falls_away(plate, done)
        self.assertEqual({key.split(":")[0] for _p, key in gone}, {"clamp", "sweep first", "adapter"})
        shut = done | {("FL", "closing:1:wash")}
        self.assertIn(("FL", "opening:1:caliper_off"), falls_away(plate, shut))  # it has to be opened again
        self.assertIn(("", "lift:1:chock"), falls_away(plate, shut))
        open_yet = falls_away(plate, shut | {("FR", "opening:1:wheel_off")})
        self.assertEqual({position for position, _key in open_yet}, {"FL"})  # the vehicle is up for the other corner
        # A nut of a closed corner was not torqued after all: it is torqued, and nothing is cut a second time for it.
        cut = {rung(step) for part in self.parts for step in part.steps}
        bracket = next(one for one in sorted(cut) if one[1].endswith(":bracket"))
        self.assertEqual(falls_away(self.parts, cut - {bracket}), ())
        clamp = next(one for one in sorted(cut) if one[1].endswith(":clamp"))
        for same, falls in (((), True), (("FL", "FR"), False)):  # a pass stays made where the same is gone on with
            again = falls_away(self.parts, cut - {clamp}, same=same)
            self.assertIn((clamp[0], "opening:1:caliper_off"), again)
            self.assertEqual(any(":pass:" in key or ":read_pass:" in key for _p, key in again), falls)
        # Another axle's work comes to one that is done: what is done there stands, the vehicle is lifted anew.
        whole = {rung(step) for part in plate for step in part.steps}
        more = vehicle_work([*work("plate"), CornerWork("RL", Work("plate"), work("plate")[0].figures, ())])
        self.assertEqual({position for position, _key in falls_away(more, whole)}, {""})
        self.assertEqual(falls_away(plate, whole), ())


class Readings(TestCase):
    """What a reading at a step is beside what was expected."""

    def held(self, code: str, mm: float, *, limit: float | None = 0.05) -> tuple[Outcome, bool]:
        held = hold_reading(find(vehicle_work(work()), code), mm, limit_mm=limit)
        return held.outcome, held.passes

    def test_before_a_cut_it_must_be_what_it_was(self) -> None:
        self.assertEqual(self.held("sweep_first", 0.1), (Outcome.EXPECTED, True))
        self.assertEqual(self.held("sweep_first", 0.01), (Outcome.BELOW, False))  # cleaning has cured it: no metal
        self.assertEqual(self.held("sweep_first", 0.2), (Outcome.ABOVE, False))

    def test_after_the_work_less_is_better_and_the_limit_holds(self) -> None:
        self.assertEqual(self.held("sweep_again", 0.005), (Outcome.BELOW, True))
        self.assertEqual(self.held("sweep_again", 0.04), (Outcome.ABOVE, True))
        self.assertEqual(self.held("sweep_again", 0.06), (Outcome.OVER_LIMIT, False))
        self.assertEqual(self.held("sweep_again", 0.04, limit=None), (Outcome.ABOVE, False))

    def test_a_micrometer_after_a_pass_is_a_fact(self) -> None:
        for mm, outcome in (
            (26.29, Outcome.EXPECTED),
            (26.2, Outcome.BELOW),
            (26.4, Outcome.ABOVE),
            (25.9, Outcome.UNDER_STOP),
        ):
            self.assertEqual(self.held("read_pass", mm), (outcome, True))

    def test_nothing_to_hold_it_against_passes(self) -> None:
        self.assertEqual(self.held("compensate", 0.3), (Outcome.UNHELD, True))  # no lathe said what it leaves


def faults(order: Order, tasks: list[Task], *, people: int, bays: int, inside: frozenset[str]) -> list[str]:
    """Walk an order minute by minute, by the rules of the bay alone: what is wrong with it."""
    slots = {slot.task.key: slot for slot in order.slots}
    wrong = sorted({t.key for t in tasks} ^ set(slots))
    for task in tasks:
        own = slots[task.key]
        wrong += [f"{key} after {task.key}" for key in task.after if slots[key].end > own.start]
        if task.minutes and len(own.who) != min(task.people, people):
            wrong.append(f"hands of {task.key}")
    for minute in range(order.finish):
        at = [slot for slot in order.slots if slot.start <= minute < slot.end]
        hands = [k for slot in at for k in slot.who]
        wrong += [f"{minute}: one hand twice"] if len(set(hands)) < len(hands) else []
        inside = [
            name
            for name in {t.vehicle for t in tasks}
            if (0 if name in inside else min(s.start for s in order.slots if s.task.vehicle == name))
            <= minute
            < max(s.end for s in order.slots if s.task.vehicle == name)
        ]
        wrong += [f"{minute}: {len(inside)} vehicles"] if len(inside) > bays else []
        for lathe in {t.lathe for t in tasks} - {""}:
            places = set()
            for vehicle, place in {(t.vehicle, t.place) for t in tasks if t.lathe == lathe}:
                own_slots = [
                    s for s in order.slots if (s.task.vehicle, s.task.place, s.task.lathe) == (vehicle, place, lathe)
                ]
                if min(s.start for s in own_slots) <= minute < max(s.end for s in own_slots):
                    places.add((vehicle, place))
            wrong += [f"{minute}: {lathe} at {places}"] if len(places) > 1 else []
    return wrong


def random_day(rng: random.Random) -> tuple[list[Task], dict[str, object]]:
    """Return the tasks of one to four vehicles, and people, bays, the vehicles inside: some work is begun already."""
    tasks: list[Task] = []
    bays, inside = rng.randint(1, 2), set[str]()
    for number in range(rng.randint(1, 4)):
        remedy = rng.choice(["on_vehicle_cut", "bench_cut", "plate", "new_rotors", "hub_unit", "clean_and_torque"])
        kind = rng.choice(["car", "van", "trailer", "motorcycle"])
        corners = work(remedy, vehicle=kind, driven=rng.choice([True, False, None]), leaves_lathe=rng.random() < 0.5)
        parts = vehicle_work(corners[: rng.randint(1, 2)])
        steps = [step for part in parts for step in part.steps]
        begun = {rung(step) for step in steps[: rng.randint(1, len(steps) - 1)]} if rng.random() < 0.4 else set()
        if begun and len(inside) < bays:
            inside.add(f"job {number}")
        tasks += tasks_of(f"job {number}", parts, corners, done=begun)
    return tasks, {"people": rng.randint(1, 3), "bays": bays, "inside": frozenset(inside)}


class OrderOfWork(TestCase):
    """The solver's orders and the plain one, held against rules that are checked minute by minute."""

    def test_two_hundred_random_days_are_valid_and_never_worse_than_plain(self) -> None:
        rng = random.Random(2613)
        shorter = 0
        for day in range(200):
            tasks, shop = random_day(rng)
            plain = plain_order(tasks, **shop)
            order = order_work(tasks, **shop, seconds=0.06)
            self.assertEqual(faults(plain, tasks, **shop), [], day)
            self.assertEqual(faults(order, tasks, **shop), [], day)
            self.assertLessEqual((order.finish, order.walks), (plain.finish, plain.walks), day)
            shorter += (order.finish, order.walks) < (plain.finish, plain.walks)
        self.assertGreater(shorter, 20)  # it earns its keep

    def test_the_checker_sees_what_is_wrong(self) -> None:
        tasks = [Task("a", "v", "FL", 5, lathe="l"), Task("b", "v", "FR", 5, lathe="l", after=("a",))]
        right = plain_order(tasks, people=1)
        self.assertEqual(faults(right, tasks, people=1, bays=1, inside=frozenset()), [])
        at_once = Order((right.slots[0], type(right.slots[1])(tasks[1], 0, (0,))), solved=True)
        self.assertEqual(
            len(faults(at_once, tasks, people=1, bays=1, inside=frozenset())), 11
        )  # the order, and hand and lathe a minute

    def test_a_lathe_left_to_itself_saves_the_time_of_its_passes(self) -> None:
        finish = {}
        for leaves in (False, True):
            corners = work(leaves_lathe=leaves, driven=True)
            parts = vehicle_work(corners)
            finish[leaves] = order_work(tasks_of("j", parts, corners), people=1, seconds=1.0).finish
        self.assertLess(finish[True], finish[False])

    def test_driven_axles_hubs_and_leaving_come_in_their_order(self) -> None:
        corners = work(driven=True)
        tasks = {task.key: task for task in tasks_of("j", vehicle_work(corners), corners)}
        self.assertIn("j|FR:opening:1", tasks["j|FL:adapter:1"].after)
        self.assertEqual(set(tasks["j|:leaving:1"].after), {"j|:lift:1", "j|FL:closing:1", "j|FR:closing:1"})
        free = work(driven=False)
        tasks = {task.key: task for task in tasks_of("j", vehicle_work(free), free)}
        self.assertNotIn("j|FR:opening:1", tasks["j|FL:adapter:1"].after)
        hub = [CornerWork("FL", Work("on_vehicle_cut", driven=False), {}), CornerWork("RL", Work("hub_unit"), {})]
        tasks = {task.key: task for task in tasks_of("j", vehicle_work(hub), hub)}
        self.assertIn("j|RL:hub:1", tasks["j|FL:adapter:1"].after)

    def test_a_wheel_with_two_discs_is_out_once_with_both_calipers_off(self) -> None:
        on = {"vehicle": "motorcycle", "shares_wheel": True, "features": frozenset({"floating"})}
        corners = [CornerWork(p, Work("new_rotors", first=p == "FL", **on), {}) for p in AXLE]
        parts = vehicle_work(corners)
        codes = [(s.position, s.step.code) for part in parts for s in part.steps]
        out, back = codes.index(("FL", "motorcycle_wheel")), codes.index(("FL", "wheel_in"))
        self.assertEqual([code for _p, code in codes].count("motorcycle_wheel"), 1)
        self.assertEqual([code for _p, code in codes].count("wheel_in"), 1)
        for p in AXLE:
            before, inside, after = codes.index((p, "caliper_off")), codes.index((p, "disc_off")), (p, "caliper_on")
            self.assertTrue(before < out < inside < codes.index((p, "wash")) < back < codes.index(after), p)
        alone = [CornerWork(p, Work("new_rotors", vehicle="motorcycle", features=on["features"]), {}) for p in AXLE]
        apart = {s.step.code for part in vehicle_work(alone) for s in part.steps}
        self.assertEqual({code for _p, code in codes}, apart)  # no step is lost
        order = order_work(tasks_of("j", parts, corners), people=2)
        starts = {slot.task.key: (slot.start, slot.end) for slot in order.slots}
        for earlier, later in (("FR:caliper off", "FL:wheel out"), ("FL:wheel out", "FR:disc off"),
                               ("FR:disc washed", "FL:wheel in"), ("FL:wheel in", "FR:caliper on")):  # fmt: skip
            self.assertLessEqual(starts[f"j|{earlier}:1"][1], starts[f"j|{later}:1"][0])
        one = vehicle_work([CornerWork("FL", Work("index", vehicle="motorcycle", beside_a_disc=True), {})])
        beside = [s.step.code for part in one for s in part.steps]
        for before, after in (("other_caliper_off", "motorcycle_wheel"), ("wheel_in", "other_caliper_on")):
            self.assertLess(beside.index(before), beside.index(after))
        self.assertNotIn("other_caliper_off", apart)
        done = {rung(s) for part in parts for s in part.steps}
        other = [CornerWork(c.position, Work("clean_and_torque", first=c.work.first, **on), {}) for c in corners]
        self.assertIn(("FR", "caliper off:1:caliper_off"), falls_away(vehicle_work(other), done))  # it is shut

    def test_the_workshops_own_minutes_stretch_a_corner(self) -> None:
        (corner, _other) = work()
        slow = CornerWork("FL", corner.work, corner.figures, corner.passes, minutes=120.0)
        left = tasks_of("j", vehicle_work([slow]), [slow])
        self.assertAlmostEqual(sum(task.minutes for task in left if task.place), 120, delta=len(left))

    def test_a_parts_own_minutes_move_the_others_of_its_corner(self) -> None:
        (corner, _other) = work()
        slow = CornerWork("FL", corner.work, corner.figures, corner.passes, minutes=120.0)
        plain, here = (
            {t.key.split(":")[1]: t.minutes for t in tasks_of("j", vehicle_work([slow]), [slow], minutes_here=own)}
            for own in ({}, {"adapter": 48.0, "lift": 12.0})
        )
        self.assertGreater(here["adapter"], 2 * plain["adapter"])
        self.assertLess(here["cut"], plain["cut"])
        self.assertEqual((plain["lift"], here["lift"]), (6, 12))  # once a vehicle: no corner's minutes stretch it

    def test_presses_say_how_long_each_part_took(self) -> None:
        """Two people, a meal in the middle of one part, a clock set back, and a cut of two passes."""
        parts = vehicle_work(work(passes=(1, 2)))
        at, pressed = {"a": 100.0, "b": 100.0}, {}
        for part in parts:
            who = "b" if part.position == "FR" else "a"
            for placed in part.steps:
                at[who] += 2.0
                if (part.position, part.name) == ("FL", "cleaning") and placed is part.steps[1]:
                    at[who] += PAUSE_MINUTES
                if (part.position, part.name) == ("FR", "adapter") and placed is part.steps[-1]:
                    at[who] -= 60
                pressed[rung(placed)] = Press(who, at[who])
        taken = minutes_by_part(parts, pressed, began={"a": 100.0})
        steps = {part.key: len(part.steps) for part in parts}
        self.assertEqual(taken["lift"], [2.0 * steps[":lift:1"]])
        self.assertEqual(taken["opening"], [2.0 * steps["FL:opening:1"]])  # b came later: the first press begins
        self.assertEqual(taken["cleaning"], [2.0 * steps["FR:cleaning:1"]])
        self.assertEqual(taken["adapter"], [2.0 * steps["FL:adapter:1"]])
        # Two passes take 3 + 2 × 7 of our minutes, one takes 10.
        self.assertAlmostEqual(taken["cut"][0], 2.0 * steps["FL:cut:1"] * 10 / 17)
        del pressed[rung(parts[0].steps[0])]
        self.assertNotIn("lift", minutes_by_part(parts, pressed, began={"a": 100.0}))

    def test_without_a_solver_the_plain_order_stands(self) -> None:
        corners = work()
        tasks = tasks_of("j", vehicle_work(corners), corners)
        with mock.patch.dict("sys.modules", {"ortools.sat.python": None}):
            self.assertEqual(order_work(tasks, people=1), plain_order(tasks, people=1))

    def test_circles_and_nobody_are_refused(self) -> None:
        with self.assertRaises(EvidenceError):
            plain_order([Task("a", "v", "", 1, after=("b",)), Task("b", "v", "", 1, after=("a",))], people=1)
        with self.assertRaises(EvidenceError):
            plain_order([Task("a", "v", "", 1)], people=0)
        with self.assertRaises(EvidenceError):
            plain_order([Task("a", "v", "", 1)], people=1, inside={"v", "w"})
