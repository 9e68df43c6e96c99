import type { BuildRecord } from '../app/client';
import type { FigureActs } from '../figure/useFigure';

/** The sentences of one kind in the record, each of which can be taken out. */
export function Kept({
  build,
  acts,
  kind,
  label,
  none,
}: {
  build: BuildRecord;
  acts: FigureActs;
  kind: string;
  label: string;
  none: string;
}) {
  const kept = build.steps.flatMap((step, place) => (step.kind === kind ? [{ step, place }] : []));
  return (
    <ul className="plain-list" aria-label={label}>
      {kept.map(({ step, place }) => (
        <li key={place}>
          {step.sentence.join('')}{' '}
          <button className="plain" disabled={acts.busy} onClick={() => acts.removeStep(place)}>
            <u>take out</u>
          </button>
        </li>
      ))}
      {kept.length === 0 && <li className="soft">{none}</li>}
    </ul>
  );
}
