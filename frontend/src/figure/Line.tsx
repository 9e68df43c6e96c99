import type { Station, StationView } from '../app/client';
import { MarkCounts } from '../app/Mark';
import { STATION_NAMES } from '../stations/names';

interface Props {
  stations: StationView[];
  here: Station;
  go: (station: Station) => void;
}

/** The graduated border of the sheet: one segment a station, with its open findings. */
export function Line({ stations, here, go }: Props) {
  return (
    <nav aria-label="Stations">
      <ol className="line">
        {stations.map(({ station, surveyed, marks }) => (
          <li key={station} className={`${station === here ? 'here' : ''} ${surveyed ? '' : 'unsurveyed'}`}>
            <button
              className="plain"
              aria-current={station === here ? 'step' : undefined}
              title={surveyed ? undefined : 'Not surveyed yet'}
              onClick={() => go(station)}
            >
              {STATION_NAMES[station]}
              <MarkCounts marks={marks} />
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}
