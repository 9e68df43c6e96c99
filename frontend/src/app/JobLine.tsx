import { api, type JobView } from './client';
import { isOver, useJob } from './jobs';
import { duration } from './units';

/** A job under way: what it does, how long it will take, and a way to stop it. */
export function JobLine({ job: given }: { job: JobView | null | undefined }) {
  const job = useJob(given);
  if (!job || isOver(job)) return null;
  const left = job.seconds_left;
  return (
    <span className="job" role="status">
      <progress max={1} value={job.share} aria-label={job.says} />
      {job.says}: {job.doing}
      {left !== null && `, about ${duration(left)} left`}
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
