import { useEffect, useState } from 'react';

import { api, type JobView } from './client';
import { isOver, useJob } from './jobs';
import { duration } from './units';

/** A job under way: what it does, how long it will take, and a way to stop it. */
export function JobLine({ job: given }: { job: JobView | null | undefined }) {
  const job = useJob(given);
  if (!job || isOver(job)) return null;
  return (
    <span className="job" role="status">
      <progress max={1} value={job.share} aria-label={job.says} />
      <span>
        {job.says}: {job.doing}
        {/* It counts down by the second, which is not to be read out each time. */}
        <span aria-live="off">
          <TimeLeft key={`${job.id} ${job.doing} ${job.seconds_left}`} seconds={job.seconds_left} />
        </span>
      </span>
      <button
        className="plain"
        style={{ textDecoration: 'underline' }}
        onClick={() => void api.DELETE('/api/jobs/{number}', { params: { path: { number: job.id } } })}
      >
        Stop
      </button>
    </span>
  );
}

/** What is left of some seconds, counted down from when they were told; silent when nobody knows. */
function TimeLeft({ seconds }: { seconds: number | null }) {
  const [gone, setGone] = useState(0);
  useEffect(() => {
    const begun = Date.now();
    const clock = window.setInterval(() => setGone((Date.now() - begun) / 1000), 1000);
    return () => window.clearInterval(clock);
  }, []);
  if (seconds === null) return null;
  return seconds > gone ? `, about ${duration(seconds - gone)} left` : ', longer than expected';
}
