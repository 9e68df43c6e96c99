import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { BuildRecord, PartRecord } from '../../app/client';
import { sourceOf } from '../../app/steps';
import { anchor, type Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { StepSentences } from '../StepSentences';
import { ChoiceField } from '../Fields';

const HOWS = {
  straight: ['point to point', 2],
  surface: ['along the surface', 2],
  diameter: ['across, by three picks', 3],
  angle: ['an angle: its arm, its corner, its other arm', 3],
  girth: ['round about, level', 1],
} as const;
type How = keyof typeof HOWS;

interface Props {
  build: BuildRecord;
  part: PartRecord | undefined;
  acts: FigureActs;
  picking: Picking;
}

/** What was measured. */
export function Measured({ build, acts }: { build: BuildRecord; acts: FigureActs }) {
  return (
    <>
      <h3>Measured on the figure</h3>
      <StepSentences build={build} acts={acts} kind="measure" label="Measurements" none="Nothing yet." />
    </>
  );
}

/** Measurements, which have a name, are kept, and follow the figure. */
export function Measures({ build, part, acts, picking }: Props) {
  const [how, setHow] = useState<How>('straight');
  const [name, setName] = useState('');
  const source = sourceOf(build);
  const [, picks] = HOWS[how];
  const measure = () =>
    picking.ask({
      says: `Pick ${picks === 1 ? 'a place' : `${picks} places, one after the other,`} on the figure`,
      count: picks,
      then: (got) => {
        acts.addStep(`measured ${name.trim()}`, {
          kind: 'measure',
          scope: build.parts.length > 1 ? (part?.facts.part ?? null) : null,
          name: name.trim(),
          how,
          places: got.map((pick) => anchor(pick, source)),
        });
        setName('');
      },
    });
  return (
    <>
      <div className="fields two">
        <TextField
          size="small"
          label="Name of the measurement"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <ChoiceField
          label="What is measured"
          value={how}
          options={(Object.keys(HOWS) as How[]).map((key) => [key, HOWS[key][0]] as const)}
          change={setHow}
        />
      </div>
      <button className="ruled" disabled={acts.busy || acts.stale || !name.trim()} onClick={measure}>
        Pick on the figure
      </button>
    </>
  );
}
