import { useQuery } from '@tanstack/react-query';

import {
  api,
  dataOf,
  type JobView,
  type Station,
  type StationFindings,
  type StationView,
} from '../app/client';
import { isOver } from '../app/jobs';
import { Mark } from '../app/Mark';
import { count } from '../app/units';
import { STATION_NAMES } from '../stations/names';

/** How far the check of a figure is: what was seen at the stations that are done, and which are still to come. */
export interface Checking {
  seen: StationFindings[];
  toCome: Station[];
}

/** How far the check is that a job makes; null where none is under way. */
export function useChecking(job: JobView | null, stations: StationView[]): Checking | null {
  const underWay = job !== null && job.kind === 'build' && !isOver(job);
  const done = underWay ? job.seen : [];
  const { data: seen = [] } = useQuery({
    queryKey: ['seen', job?.id, done.length],
    queryFn: () =>
      dataOf<StationFindings[]>(
        api.GET('/api/jobs/{number}/seen', { params: { path: { number: job?.id ?? 0 } } }),
      ),
    enabled: done.length > 0,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  if (!underWay) return null;
  const toCome = stations.flatMap(({ station, checked }) =>
    checked && !done.includes(station) ? [station] : [],
  );
  return { seen: seen.filter(({ station }) => done.includes(station)), toCome };
}

/** What the check under way has found at this station, before the whole is done. */
export function SoFar({ here, checking: { seen, toCome } }: { here: Station; checking: Checking }) {
  const found = seen.find(({ station }) => station === here);
  return (
    <section className="so-far" aria-label="Seen so far">
      {found && (
        <>
          <h3>
            {STATION_NAMES[here]}:{' '}
            {found.findings.length ? count(found.findings.length, 'finding') : 'nothing found'}
          </h3>
          <ol>
            {found.findings.slice(0, MOST).map((finding, k) => (
              <li key={k}>
                <Mark severity={finding.severity} /> {finding.title}
              </li>
            ))}
          </ol>
          {found.findings.length > MOST && <p className="soft">and more; all stand here when it is done.</p>}
          {found.unseen.map((gap) => (
            <p key={gap.part + gap.why} className="error">
              {gap.why}
            </p>
          ))}
        </>
      )}
      <p className="soft">
        {found
          ? 'Drawings and ways out come with the rest.'
          : 'Being measured; findings come station by station.'}
        {toCome.length > 0 &&
          ` Still to come: ${toCome.map((station) => STATION_NAMES[station]).join(', ')}.`}
      </p>
    </section>
  );
}

/** Findings that are listed while the rest is measured; the rest of them stands there when that is done. */
const MOST = 12;
