import type { PartRecord } from '../../app/client';
import { mm } from '../../app/units';
import styles from '../histogram.module.css';

/** The points of the scan by their distance from the surface. */
export function Captured({
  captured,
  factor,
}: {
  captured: NonNullable<PartRecord['captured']>;
  factor: number;
}) {
  const most = Math.max(...captured.counts, 1);
  const wide = 380 / captured.counts.length;
  const far = (captured.edges.at(-1) ?? 0) * factor;
  const says =
    `Captured points lie ${(captured.mean * factor).toFixed(3)} mm off on average, 95 in a hundred within ` +
    `${(captured.most * factor).toFixed(3)} mm.`;
  return (
    <>
      <h3>Against what was captured</h3>
      <svg viewBox="0 0 396 86" className={styles.histogram} role="img" aria-label={says}>
        {captured.counts.map((number, k) => (
          <rect
            key={k}
            x={8 + k * wide}
            width={wide - 1.5}
            y={64 - (60 * number) / most}
            height={(60 * number) / most}
          />
        ))}
        <path d="M4 64.5H392M198 64V70" />
        <text x="8" y="80">
          {mm(-far).replace('-', '−')} mm, inside
        </text>
        <text x="388" y="80" textAnchor="end">
          {mm(far)} mm, outside
        </text>
      </svg>
      <p>
        {says} {Math.round(captured.invented * factor * factor).toLocaleString('en')} mm² of the surface
        nobody saw: dark on the chart, and invented.
      </p>
    </>
  );
}
