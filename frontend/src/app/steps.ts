import type { BuildRecord, Step, StepKind, StepOf } from './client';

/** The steps of one kind in a build's record, in its order. */
export function stepsOf<K extends StepKind>(build: BuildRecord, kind: K): StepOf<K>[] {
  return build.steps.flatMap(({ step }) => (isOf(step, kind) ? [step] : []));
}

function isOf<K extends StepKind>(step: Step, kind: K): step is StepOf<K> {
  return step.kind === kind;
}

/** Hash of the source that a figure is made from, on which its places are picked. */
export function sourceOf(build: BuildRecord): string {
  const first = build.steps[0]?.step;
  return first?.kind === 'bring-in' ? first.source : '';
}
