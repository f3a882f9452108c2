"""The drills: what is weak returns, what is firm rests, a press counts once."""

from datetime import timedelta
from unittest import mock

from django.test import SimpleTestCase, TestCase
from django.urls import reverse
from django.utils import timezone

from practice.drills.actions import A_SITTING, due, say
from practice.drills.pictures import NAMES, picture_of
from practice.drills.statements import DRILLS, TOPICS
from practice.models import DrillAnswer, DrillCard
from workshop.tests.base import client_of, person


class Drills(TestCase):
    """A month of five minutes a day."""

    def test_a_month_of_days_weak_ones_return_and_firm_ones_rest(self) -> None:
        learner = person("trainee")
        start = timezone.now().replace(hour=6)
        weak = "worn-shape"
        lengths = []
        for day in range(31):
            now = start + timedelta(days=day)
            said = 0
            while waiting := due(learner, now=now):
                drill = waiting[0]
                wrong = "neither" if drill.right != "neither" else "both"
                right = drill.code != weak or said % 3 == 2
                say(learner, drill, drill.right if right else (wrong if not drill.choices else "4"), now=now)
                said += 1
                now += timedelta(seconds=12)
                self.assertLess(said, 200, "a day ends")
            lengths.append(said)
        cards = {row.code: row for row in DrillCard.objects.filter(person=learner)}
        self.assertGreater(len(cards), 80)
        firm = [row.seen for row in cards.values() if not row.missed]
        self.assertGreater(cards[weak].seen, 2 * max(firm))
        self.assertLessEqual(max(lengths), 3 * A_SITTING)
        self.assertLess(sum(lengths[20:]) / 11, A_SITTING)
        self.assertEqual(DrillAnswer.objects.filter(person=learner).count(), sum(lengths))

    def test_a_statement_is_answered_once_however_often_it_is_sent(self) -> None:
        learner = person("trainee")
        client = client_of(learner)
        page = client.get(reverse("practice:drills"))
        code = page.context["drill"].code
        told = {"code": code, "said": page.context["drill"].right, "once": "a" * 32}
        for _press in range(2):
            answered = client.post(reverse("practice:drill-answer"), told, follow=True)
        self.assertContains(answered, "Right:")
        self.assertEqual(DrillAnswer.objects.count(), 1)
        for wrong in ({"code": "nothing", "said": "one"}, {"code": code, "said": "17"}, {}):
            self.assertEqual(client.post(reverse("practice:drill-answer"), wrong).status_code, 302)
        self.assertEqual(DrillAnswer.objects.count(), 1)
        DrillCard.objects.update(due=timezone.now() + timedelta(days=2))
        with mock.patch("practice.drills.actions.NEW_A_DAY", 0):
            self.assertContains(client.get(reverse("practice:drills")), "Done for now")


class Statements(SimpleTestCase):
    """The cards themselves."""

    def test_every_card_is_whole_and_its_picture_drawn(self) -> None:
        self.assertGreaterEqual(len(DRILLS), 80)
        self.assertEqual(len({one.code for one in DRILLS}), len(DRILLS))
        self.assertEqual({str(one.topic) for one in DRILLS}, {str(topic) for topic in TOPICS})
        for one in DRILLS:
            allowed = {str(k) for k in range(1, len(one.choices) + 1)} or {"one", "other", "both", "neither"}
            self.assertIn(one.right, allowed, one.code)
            self.assertEqual(len(one.says), 1 if one.choices else 2, one.code)
        self.assertEqual({one.picture for one in DRILLS}, NAMES)
        for name in NAMES:
            self.assertIn("<svg", picture_of(name).svg, name)
