"""Carrying a long work out, in a worker: in its workshop, in its language, as who asked for it."""

import logging
from typing import Final

from django.core.exceptions import PermissionDenied
from django.db.models import F
from django.utils import translation

from workshop.long_work.kinds import KINDS, Made, Report, WorkRefusedError, WorkStoppedError
from workshop.models import LongWork
from workshop.models.long_work import UNDER_WAY
from workshop.walls import inside

MOST_TRIES: Final = 3
_log = logging.getLogger("iron-compass.work")


def carry_out_work(pk: int, workshop: int) -> None:
    """Carry a work out. Raises what went wrong where it is worth another try; the queue tries again later."""
    with inside(workshop):
        # A worker that was killed leaves it as running: whoever gets it next goes on.
        if (
            not LongWork.of(None)
            .filter(pk=pk, state__in=UNDER_WAY)
            .update(state=LongWork.State.RUNNING, tries=F("tries") + 1)
        ):
            return
        work = LongWork.of(None).select_related("asked_by").get(pk=pk)
        work.asked_by.be_in(workshop)
        try:
            with translation.override(work.language or None):
                made = KINDS[work.kind].carry_out(work, _report(work))
        except WorkStoppedError:
            return
        except WorkRefusedError as error:
            _end(work, LongWork.State.FAILED, Made(said=tuple(error.said)))
        except PermissionDenied as error:  # allowed when it was asked for, and not any more
            _end(work, LongWork.State.FAILED, Made(said=(str(error),)))
        except Exception:
            if work.tries < MOST_TRIES:
                raise
            _log.exception("%s failed %s times", work, work.tries)
            _end(work, LongWork.State.FAILED, Made())
        else:
            _end(work, LongWork.State.DONE, made)


def _end(work: LongWork, state: str, made: Made) -> None:
    rows = LongWork.of(None).filter(pk=work.pk, state__in=UNDER_WAY)
    rows.update(
        state=state,
        made=made.content,
        made_name=made.name,
        made_type=made.content_type,
        said=list(made.said),
        given=b"" if state == LongWork.State.DONE else work.given,
        about=work.about if made.about is None else made.about,
    )


def _report(work: LongWork) -> Report:
    rows = LongWork.of(None).filter(pk=work.pk, state=LongWork.State.RUNNING)

    def note(done: int, of: int) -> None:
        if not rows.update(steps_done=done, steps=of):
            raise WorkStoppedError

    def leave_behind(name: str) -> None:
        work.behind.append(name)
        # Stopped or not: what was done is not done again.
        LongWork.of(None).filter(pk=work.pk).update(behind=work.behind)

    return Report(note, frozenset(work.behind), leave_behind)
