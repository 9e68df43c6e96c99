import { useState } from 'react';

import type { Finding } from '../app/client';
import { mm } from '../app/units';

interface Props {
  finding: Finding;
  spot: number;
  choose: (spot: number) => void;
}

/** The places that a finding gathers, as a list of soundings; the one in focus is ringed on the chart. */
export function Places({ finding, spot, choose }: Props) {
  const { places, count } = finding;
  if (places.length < 2) return null;
  return (
    <section className="places">
      <h3>
        Place {spot + 1} of {places.length}
        {places.length === MOST && count > MOST && ', the widest'} <kbd>,</kbd>
        <kbd>.</kbd>
      </h3>
      <ol aria-label="Places">
        {places.map((place, k) => (
          <li key={k}>
            <button className="plain" aria-pressed={k === spot} onClick={() => choose(k)}>
              {place.extent == null ? 'a place' : `${mm(place.extent)} mm`}
              <span className="soft">{shown(place.shows)}</span>
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}

const MOST = 100;

function shown(shows: boolean | null | undefined): string {
  if (shows == null) return '';
  return shows ? 'shows' : 'does not show';
}

/** Which place of each finding is in focus, the first until another is; `chooseAt` is of another finding. */
export function useSpot(
  key: string,
  most: number,
): [number, (spot: number) => void, (key: string, spot: number) => void] {
  const [spots, setSpots] = useState<Record<string, number>>({});
  const spot = Math.min(spots[key] ?? 0, Math.max(most - 1, 0));
  const chooseAt = (other: string, to: number) => setSpots((before) => ({ ...before, [other]: to }));
  return [spot, (to) => chooseAt(key, Math.max(0, Math.min(most - 1, to))), chooseAt];
}
