import type { BuildRecord, StepKind } from '../app/client';
import type { FigureActs } from '../figure/useFigure';

/** The sentences of one kind in the record, each of which can be taken out. */
export function StepSentences({
  build,
  acts,
  kind,
  label,
  none,
}: {
  build: BuildRecord;
  acts: FigureActs;
  kind: StepKind;
  label: string;
  none: string;
}) {
  const kept = build.steps.filter(({ step }) => step.kind === kind);
  return (
    <ul className="plain-list" aria-label={label}>
      {kept.map(({ step, sentence }) => (
        <li key={step.id}>
          {sentence.join('')}{' '}
          <button className="plain" disabled={acts.busy} onClick={() => acts.removeStep(step.id)}>
            <u>take out</u>
          </button>
        </li>
      ))}
      {kept.length === 0 && <li className="soft">{none}</li>}
    </ul>
  );
}
