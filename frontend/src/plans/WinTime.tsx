import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type JobView, type WonTold } from '../app/client';
import { JobLine } from '../app/JobLine';
import { ended } from '../app/jobs';
import { duration } from '../app/units';
import { dayClock } from './days';
import styles from './plans.module.css';

type Won = WonTold['tried'][number];

/** What would win time: changes to the plan, each tried and told in hours and days. */
export function WinTime() {
  const [job, setJob] = useState<JobView | null>(null);
  const tried = useMutation({
    mutationFn: async () => {
      const begun = await dataOf<JobView>(api.POST('/api/plan/won'));
      setJob(begun);
      const done = await ended(begun);
      setJob(null);
      if (done.state !== 'done') throw new Error(done.error || 'Trying was stopped; the plan is as it was.');
      const name = String(done.made.won);
      return dataOf<WonTold>(api.GET('/api/plans/{name}/won', { params: { path: { name } } }));
    },
  });
  return (
    <>
      <h2>What would win time</h2>
      {job && <JobLine job={job} />}
      <ErrorLine says={tried.error?.message} />
      {tried.data ? (
        <ul className={styles.won} aria-label="What would win time">
          {tried.data.tried.map((one) => (
            <li key={one.says}>
              <span>
                {one.says}
                {one.roughly && <span className="soft"> ({one.roughly})</span>}
              </span>
              <span className="soft">{wonSays(one)}</span>
            </li>
          ))}
        </ul>
      ) : (
        !job && (
          <p className={styles.turns}>
            <span className="soft">
              Leaving one out, other settings and printers, smaller, hollow: each is packed and planned.
            </span>
            <button className="ruled" disabled={tried.isPending} onClick={() => tried.mutate()}>
              Try what would win time
            </button>
          </p>
        )
      )}
    </>
  );
}

function wonSays(one: Won): string {
  if (one.unfit > 0) return `${one.unfit} would fit no plate`;
  const parts = [by(one.printing_s, 'printing'), by(one.hands_min * 60, 'hands')].filter(Boolean);
  const sooner = one.sooner_min ?? 0;
  if (one.ready && Math.abs(sooner) >= 15)
    parts.push(
      `ready ${dayClock(one.ready)}, ${duration(Math.abs(sooner) * 60)} ${sooner > 0 ? 'sooner' : 'later'}`,
    );
  return parts.join(', ') || 'wins nothing';
}

function by(seconds: number, of: string): string {
  if (Math.abs(seconds) < 60) return '';
  return `${duration(Math.abs(seconds))} ${seconds > 0 ? 'less' : 'more'} ${of}`;
}
