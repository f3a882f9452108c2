"""What the queue of this machine's workers knows: long works, and those whose worker was killed."""

from typing import Any, Final

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

_SILENT_S: Final = 30  # without a word of a worker its work is another's


@app.task(queue="long", retry=RetryStrategy(max_attempts=2, wait=3))
def carry_out(work: int, workshop: int) -> None:
    """Carry out one long work."""
    from workshop.long_work.carrying import carry_out_work  # asked for by whoever asks for work, too

    carry_out_work(work, workshop)


@app.periodic(cron="* * * * *")
@app.task(queue="long", queueing_lock="stalled", pass_context=True)
async def take_over(context: Any, timestamp: int) -> None:
    """Put back into the queue what a worker had in hand when it was killed."""
    for job in await context.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_SILENT_S):
        await context.app.job_manager.retry_job(job)
