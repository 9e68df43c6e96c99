import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { BuildRecord, Finding, NewStep, StepOf } from '../app/client';

const MAY_BE: readonly string[] = [
  'thin-wall',
  'snap-risk',
  'tips-over',
  'sealed-void',
  'drains-badly',
  'trapped-resin',
  'pocket-thin',
  'cup',
] satisfies StepOf<'accept'>['finding'][];
const SHORTEST = 3;
const LEAST = 1; // print mm about a place that are that place

/** Whether the maker may take what a finding warns of. */
export function acceptable(finding: Finding): boolean {
  return MAY_BE.includes(finding.code) && !finding.accepted;
}

/** The step that lets a finding be, where it is. */
export function acceptance(finding: Finding, reason: string, build: BuildRecord): NewStep {
  const part = build.parts.find(({ facts }) => facts.part === finding.part) ?? build.parts[0];
  return {
    kind: 'accept',
    scope: build.parts.length > 1 ? finding.part : null,
    finding: finding.code as StepOf<'accept'>['finding'],
    reason,
    place: finding.where?.point ?? null,
    within: Math.max(LEAST, (finding.where?.extent ?? 0) / 2) / (part?.facts.factor ?? 1),
  };
}

/** Letting a finding be, with a reason that goes on record: the maker's own, or a proof in which it held. */
export function Accepting({
  accept,
  heldIn = null,
}: {
  accept: (reason: string) => void;
  heldIn?: number | null;
}) {
  const [reason, setReason] = useState('');
  const ready = reason.trim().length >= SHORTEST;
  return (
    <details className="fold">
      <summary>Accept it, with a reason</summary>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          if (ready) accept(reason.trim());
        }}
      >
        <TextField
          size="small"
          label="Why it may stay"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          helperText="It stays in the record and in a release as a note."
          slotProps={{ htmlInput: { maxLength: 300 } }}
        />
        <button className="ruled" type="submit" disabled={!ready}>
          Accept it
        </button>
      </form>
      {heldIn !== null && (
        <button
          className="plain"
          onClick={() => accept(`it held in proof ${heldIn}, which was printed in exactly this form`)}
        >
          <u>it held in proof {heldIn}, in exactly this form</u>
        </button>
      )}
    </details>
  );
}
