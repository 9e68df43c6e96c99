import type { BuildRecord, TrialResult } from '../app/client';
import { duration, money } from '../app/units';

type Takes = NonNullable<TrialResult['takes']>;

/** What a figure takes as it is, beside what it would take in other ways. */
export function TakesTable({
  build,
  ways,
}: {
  build: BuildRecord;
  ways: readonly { says: string; takes: Takes }[];
}) {
  const now = takenNow(build);
  if (!now || !ways.length) return null;
  const columns = [{ says: 'as it is', takes: now }, ...ways];
  return (
    <table className="limbs">
      <thead>
        <tr>
          <th scope="col">estimate</th>
          {columns.map(({ says }) => (
            <th key={says} scope="col" style={WRAPPED}>
              {says}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {ROWS.map(([what, of]) => (
          <tr key={what}>
            <th scope="row">{what}</th>
            {columns.map(({ says, takes }) => (
              <td key={says} style={WHOLE}>
                {of(takes)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const WRAPPED = { whiteSpace: 'normal', verticalAlign: 'bottom' } as const;
const WHOLE = { whiteSpace: 'nowrap' } as const;

type Taken = Omit<Takes, 'grams'> & { grams: number | null };

const ROWS: readonly (readonly [string, (takes: Taken) => string])[] = [
  ['resin, ml', ({ estimate }) => estimate.material_ml.toFixed(1)],
  ['weight, g', ({ grams }) => grams?.toFixed(1) ?? 'not told'],
  ['cost', ({ estimate }) => money(estimate.money)],
  ['time', ({ estimate }) => duration(estimate.seconds)],
  ['largest layer, mm²', ({ estimate }) => estimate.peak_area_mm2.toFixed(0)],
  ['tips over from', ({ tip_angle_deg: degrees }) => angle(degrees)],
  ['openings to close', ({ openings }) => String(openings)],
];

function takenNow({ estimate, gauge, parts }: BuildRecord): Taken | null {
  if (!estimate) return null;
  const openings = parts.reduce((sum, part) => sum + part.openings.length, 0);
  return { estimate, grams: gauge.mass_g, tip_angle_deg: gauge.tip_angle_deg, openings };
}

function angle(degrees: number | null): string {
  return degrees === null ? 'not told' : degrees > 0 ? `${degrees.toFixed(0)}°` : 'falls over';
}
