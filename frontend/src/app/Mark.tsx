import type { Finding, Marks } from './client';

export type Severity = Finding['severity'];

const NAMES: Record<Severity, string> = { stop: 'stops', caution: 'cautions', note: 'notes' };

/** The mark of a severity: stop a filled diamond, caution an open triangle, note a dotted ring. */
export function Mark({ severity, size = 11 }: { severity: Severity; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 12 12" aria-hidden>
      {severity === 'stop' && <path d="M6 .4 11 6 6 11.6 1 6Z" fill="var(--mark)" />}
      {severity === 'caution' && (
        <path d="M6 1.6 11 10.6H1Z" fill="none" stroke="var(--mark)" strokeWidth="1.5" />
      )}
      {severity === 'note' && (
        <circle
          cx="6"
          cy="6"
          r="4.6"
          fill="none"
          stroke="var(--ink)"
          strokeWidth="1.3"
          strokeDasharray="1.6 1.5"
        />
      )}
    </svg>
  );
}

/** Open findings as marks with numbers. */
export function MarkCounts({ marks }: { marks: Marks | undefined }) {
  if (!marks) return null;
  const open = (['stop', 'caution', 'note'] as const).filter((severity) => marks[severity] > 0);
  if (!open.length) return null;
  return (
    <span className="marks">
      {open.map((severity) => (
        <span key={severity} aria-label={`${marks[severity]} ${NAMES[severity]}`}>
          <Mark severity={severity} />
          {marks[severity].toLocaleString('en')}
        </span>
      ))}
    </span>
  );
}
