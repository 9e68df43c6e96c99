import type { Finding, Marks, Station, StationView, Unseen } from '../app/client';
import { MarkCounts } from '../app/Mark';
import { STATION_NAMES } from '../stations/names';
import type { Checking } from './SoFar';

interface Props {
  stations: StationView[];
  /** Open findings, of the last finished check. */
  findings: Finding[];
  unseen: Unseen[];
  /** How far the check under way is. */
  checking: Checking | null;
  here: Station;
  go: (station: Station) => void;
}

/** The graduated border of the sheet: one segment a station, with its open findings. */
export function StationLine({ stations, findings, unseen, checking, here, go }: Props) {
  const done = checking?.seen.map(({ station }) => station) ?? [];
  const isOld = ({ station }: { station: Station }) => !done.includes(station);
  const marks = marksByStation([
    ...findings.filter(isOld),
    ...(checking?.seen.flatMap((one) => one.findings) ?? []),
  ]);
  const gaps = [...unseen.filter(isOld), ...(checking?.seen.flatMap((one) => one.unseen) ?? [])];
  return (
    <nav aria-label="Stations">
      <ol className="line">
        {stations.map(({ station }) => (
          <li key={station} className={station === here ? 'here' : undefined}>
            <button
              className="plain"
              aria-current={station === here ? 'step' : undefined}
              onClick={() => go(station)}
            >
              {STATION_NAMES[station]}
              <MarkCounts marks={marks.get(station)} />
              {gaps.some((gap) => gap.station === station) && <i className="soft"> not seen</i>}
              {checking?.toCome.includes(station) && (
                <i className="soft" title="Being checked">
                  {' '}
                  …
                </i>
              )}
            </button>
          </li>
        ))}
      </ol>
    </nav>
  );
}

function marksByStation(findings: Finding[]): Map<Station, Marks> {
  const marks = new Map<Station, Marks>();
  for (const { station, severity } of findings) {
    const open = marks.get(station) ?? { stop: 0, caution: 0, note: 0 };
    marks.set(station, { ...open, [severity]: open[severity] + 1 });
  }
  return marks;
}
