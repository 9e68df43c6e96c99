import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { BuildRecord, Finding, NewStep } from '../app/client';

const LEAST = 1; // print mm about a place that go by its name

/** The step that names the place of a finding; it holds in every version after it. */
export function nameOf(finding: Finding, name: string, build: BuildRecord): NewStep {
  const part = build.parts.find(({ facts }) => facts.part === finding.part) ?? build.parts[0];
  const { point, normal, extent } = finding.where ?? { point: [0, 0, 0] };
  return {
    kind: 'name-place',
    scope: build.parts.length > 1 ? finding.part : null,
    name,
    places: [{ point, normal: normal ?? null, source: part?.source ?? '' }],
    within: Math.max(LEAST, (extent ?? 0) / 2) / (part?.facts.factor ?? 1),
  };
}

/** Giving a place a name of one's own. */
export function Naming({ at, rename }: { at: string; rename: (name: string) => void }) {
  const [name, setName] = useState('');
  const given = name.trim();
  return (
    <details className="fold">
      <summary>Name this place</summary>
      <form
        className="fields"
        onSubmit={(event) => {
          event.preventDefault();
          if (given) rename(given);
        }}
      >
        <TextField
          size="small"
          label={`Instead of “${at}”`}
          value={name}
          onChange={(event) => setName(event.target.value)}
          helperText="Whatever is found here goes by it, in later versions too."
          slotProps={{ htmlInput: { maxLength: 60 } }}
        />
        <button className="ruled" type="submit" disabled={!given}>
          Name it
        </button>
      </form>
    </details>
  );
}
