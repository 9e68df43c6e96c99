import type { Finding } from '../app/client';
import { mm } from '../app/units';

const WIDTH = 396;
/** Where the end of a measured value's words may be at the least, so that their beginning is not cut off. */
const LEAST = 52;
/** Units in which a value and its limit are drawn on a scale. */
const MEASURES = ['mm', 'N', '°'];

/** The measured value on a scale against its limit, with the limit's origin. */
export function Scale({ finding, material }: { finding: Finding; material: string }) {
  const { measured, limit, unit } = finding;
  if (!MEASURES.includes(unit) || limit <= 0) return <Counted finding={finding} />;
  const most = Math.max(measured, limit) * 1.35;
  const x = (value: number) => (value / most) * WIDTH;
  const wants = measured < limit ? 'wanted' : 'allowed';
  const low = Math.min(measured, limit);
  const crowded = Math.abs(x(limit) - x(measured)) < 104;
  return (
    <svg
      width="100%"
      viewBox={`0 0 ${WIDTH} 56`}
      role="img"
      aria-label={`${mm(measured)} is, ${mm(limit)} ${unit} ${wants}`}
    >
      <rect x={0} y={18} width={x(measured)} height={7} fill="var(--shoal)" />
      <rect
        x={x(low)}
        y={18}
        width={Math.abs(x(limit) - x(measured))}
        height={7}
        fill="none"
        stroke="var(--mark)"
        strokeDasharray="3 2"
      />
      <path
        d={
          `M0 25H${WIDTH}` +
          Array.from({ length: 11 }, (_, k) => `M${(k * WIDTH) / 10} 25v${k % 5 ? 5 : 9}`).join('')
        }
        stroke="var(--ink)"
        strokeWidth="0.9"
      />
      <text
        x={crowded && measured > limit ? x(measured) : Math.max(x(measured), LEAST)}
        y={13}
        fontSize="12.5"
        textAnchor={crowded && measured > limit ? 'start' : 'end'}
        fill="var(--ink)"
      >
        {mm(measured)} is
      </text>
      <text
        x={
          Math.max(x(limit), crowded && measured < limit ? LEAST : 0) +
          (crowded ? (measured > limit ? -6 : 6) : 0)
        }
        y={13}
        fontSize="12.5"
        textAnchor={crowded && measured < limit ? 'start' : 'end'}
        fill="var(--mark)"
      >
        {mm(limit)} {unit} {wants}
      </text>
      <text x={WIDTH} y={49} fontSize="12" textAnchor="end" fill="var(--soft)">
        {finding.code === 'thin-wall' ? `${material}, ` : ''}
        {finding.limit_origin}
      </text>
    </svg>
  );
}

/** A finding that counts, or whose limit is nothing: said in words, since a scale would show only its end. */
function Counted({ finding }: { finding: Finding }) {
  const { measured, limit, unit, limit_origin: origin } = finding;
  const value = unit.startsWith('mm') ? mm(measured) : measured.toLocaleString('en');
  return (
    <p className="soft" style={{ textAlign: 'right', margin: '6px 0' }}>
      <b>{value}</b> {unit === 'mm' ? 'mm of open rim' : measured === 1 ? unit.replace(/s$/, '') : unit}
      {limit === 0 && ', none allowed'}
      {unit === 'mm²' && ` at once, told from ${limit} mm² on`}, {origin}
    </p>
  );
}
