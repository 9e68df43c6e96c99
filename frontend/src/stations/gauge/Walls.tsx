import type { Gauge, Setup } from '../../app/client';
import { originOf } from '../../app/origins';
import { mm } from '../../app/units';
import styles from '../histogram.module.css';

const [WIDE, FOOT, LEFT] = [380, 78, 8];

/** How much of the surface is how thin, with the limits of free-standing walls. */
export function WallShares({ walls, setup }: { walls: Gauge['walls']; setup: Setup | undefined }) {
  if (!walls) return <p className="soft">Walls were not measured.</p>;
  const upto = walls.upto_mm;
  const far = upto.at(-1) ?? 1;
  const most = Math.max(...walls.shares, 1e-9);
  const step = WIDE / upto.length;
  const x = (wall: number) => LEFT + (WIDE * wall) / far;
  const limits: [number, string, number][] = setup
    ? [
        [setup.setting.walls.free_standing.stop, 'stops', walls.stops],
        [setup.setting.walls.free_standing.caution, 'wants care', walls.wants_care],
      ]
    : [];
  const shares = [
    ...limits.map(([limit, , share]) => `${percent(share)} under ${mm(limit)} mm`),
    `${percent(walls.beyond)} over ${mm(far)} mm`,
  ];
  const says = `Of the surface ${shares.join(', ')}.`;
  return (
    <>
      <svg viewBox="0 0 396 96" className={styles.histogram} role="img" aria-label={says}>
        {walls.shares.map((share, k) => (
          <rect
            key={k}
            x={LEFT + k * step}
            width={step - 1.5}
            y={FOOT - (56 * share) / most}
            height={(56 * share) / most}
          />
        ))}
        <path d={`M4 ${FOOT + 0.5}H392`} />
        {limits.map(([limit, word], k) => (
          <g key={word} className={styles.limit}>
            <path d={`M${x(limit)} ${12 + 12 * k}V${FOOT}`} />
            <text x={x(limit) + 4} y={14 + 12 * k}>
              {mm(limit)} {word}
            </text>
          </g>
        ))}
        <text x={LEFT} y={92}>
          0
        </text>
        <text x={LEFT + WIDE / 2} y={92} textAnchor="middle">
          {mm(far / 2)}
        </text>
        <text x={LEFT + WIDE} y={92} textAnchor="end">
          {mm(far)} mm
        </text>
      </svg>
      <p className="soft">{says}</p>
    </>
  );
}

const KINDS = {
  held: 'a wall held on both sides',
  free_standing: 'a free-standing wall, an edge',
  pin: 'a pin',
} as const;

/** What each kind of wall has to have in a material, and where that comes from. */
export function WallLimits({ setup }: { setup: Setup | undefined }) {
  if (!setup) return null;
  return (
    <details>
      <summary>
        What walls have to have in {setup.material.name.toLowerCase()}, printed in {setup.material.process}
      </summary>
      <table className="limbs">
        <thead>
          <tr>
            <th scope="col">kind</th>
            <th scope="col">stops under, mm</th>
            <th scope="col">wants care under, mm</th>
            <th scope="col">from</th>
          </tr>
        </thead>
        <tbody>
          {(Object.keys(KINDS) as (keyof typeof KINDS)[]).map((kind) => (
            <tr key={kind}>
              <th scope="row">{KINDS[kind]}</th>
              <td>{mm(setup.setting.walls[kind].stop)}</td>
              <td>{mm(setup.setting.walls[kind].caution)}</td>
              <td>{originOf(setup.setting, `walls.${kind}.stop`)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function percent(share: number): string {
  return share > 0 && share < 0.001 ? 'under 0.1 %' : `${(100 * share).toFixed(1)} %`;
}
