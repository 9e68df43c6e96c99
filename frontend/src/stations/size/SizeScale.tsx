import type { BuildRecord } from '../../app/client';
import { mm } from '../../app/units';
import styles from './size.module.css';

const WIDE = 396;
const TALL = 152;
const LEFT = 34;
const FOOT = 104;

/** Thin places at forty sizes, as soundings over a depth line: the fewer, the deeper the water. */
export function SizeScale({ build }: { build: BuildRecord }) {
  const survey = build.sizes;
  const sizes = survey?.sizes ?? [];
  const [first, last] = [sizes[0], sizes.at(-1)];
  if (!survey || !first || !last || first === last) return null;
  const low = Math.log(first.height);
  const span = Math.log(last.height) - low;
  const most = Math.max(4, ...sizes.map((size) => size.thin));
  const x = (height: number) => LEFT + ((Math.log(height) - low) / span) * (WIDE - LEFT - 22);
  const y = (places: number) => FOOT - (places / most) * (FOOT - 12);
  const now = build.size_mm[2];
  const line = (key: 'thin' | 'stops') =>
    sizes.map((size) => `${x(size.height).toFixed(1)},${y(size[key]).toFixed(1)}`).join(' L');
  const area = (key: 'thin' | 'stops') => `M${LEFT},${FOOT} L${line(key)} L${x(last.height)},${FOOT}Z`;
  const marks = [0, 0.25, 0.5, 0.75, 1].map((share) => Math.exp(low + share * span));
  const { smallest } = survey;
  const says = smallest
    ? `The smallest size at which this prints: ${mm(smallest)} mm tall.`
    : 'At no size up to eight times this one do all its walls print: mend or thicken them.';
  return (
    <>
      <h3>Thin places by size</h3>
      <svg
        viewBox={`0 0 ${WIDE} ${TALL}`}
        className={styles.scale}
        role="img"
        aria-label={`Thin places from ${mm(first.height)} to ${mm(last.height)} mm tall. ${says}`}
      >
        <path d={area('thin')} className={styles.thin} />
        <path d={area('stops')} className={styles.stops} />
        <path d={`M${line('thin')}`} className={styles.contour} />
        <path d={`M${line('stops')}`} className={`${styles.contour} ${styles.heavy}`} />
        <path d={`M${LEFT},${FOOT}H${WIDE - 22}M${LEFT},${FOOT}V8`} className={styles.axis} />
        {marks.map((height) => (
          <g key={height}>
            <path d={`M${x(height)},${FOOT}v4`} className={styles.axis} />
            <text x={x(height)} y={FOOT + 17} textAnchor="middle">
              {mm(height)}
            </text>
          </g>
        ))}
        <text x={LEFT - 5} y={y(most) + 5} textAnchor="end">
          {most}
        </text>
        <text x={LEFT - 5} y={FOOT} textAnchor="end">
          0
        </text>
        <path d={`M${x(now)},${FOOT}V6`} className={styles.now} />
        <text x={x(now) + 4} y={16} className={styles.nowSays}>
          now
        </text>
        {smallest && smallest > first.height && smallest < last.height && (
          <path d={`M${x(smallest)},${FOOT}V6`} className={`${styles.axis} ${styles.dashed}`} />
        )}
        <text x={WIDE - 8} y={TALL - 6} textAnchor="end">
          mm tall
        </text>
        <rect x={LEFT} y={TALL - 15} width={14} height={9} className={styles.thin} />
        <text x={LEFT + 19} y={TALL - 6}>
          thin
        </text>
        <rect x={LEFT + 58} y={TALL - 15} width={14} height={9} className={styles.stops} />
        <text x={LEFT + 77} y={TALL - 6}>
          too thin to print
        </text>
      </svg>
      <p>{says}</p>
    </>
  );
}
