import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { DoIt } from '../../figure/DoIt';
import { anchor, type Pick } from '../../figure/picking';
import type { Change, Sheet } from '../../figure/sheet';
import { NumberField, numberIn } from '../Fields';

/** A place, such as a face, that no cut is to go through. */
export function KeepAct({ build, part, acts, picking }: Sheet) {
  const [name, setName] = useState('');
  const [radius, setRadius] = useState('3');
  const [pick, setPick] = useState<Pick | null>(null);
  if (!part) return null;
  const wide = numberIn(radius);
  const change: Change | null =
    pick && wide && name.trim()
      ? {
          does: 'add',
          says: `keeps ${name.trim()} whole`,
          step: {
            kind: 'keep-whole',
            name: name.trim(),
            radius: wide / part.facts.factor,
            scope: build.parts.length > 1 ? part.facts.part : null,
            places: [anchor(pick, part.source)],
          },
        }
      : null;
  const ask = () =>
    picking.ask({
      says: 'Click the middle of what stays whole',
      count: 1,
      then: ([one]) => setPick(one ?? null),
    });
  return (
    <>
      <div className="fields two">
        <TextField
          size="small"
          label="What stays whole, such as a face"
          value={name}
          slotProps={{ htmlInput: { maxLength: 80 } }}
          onChange={(event) => setName(event.target.value)}
        />
        <NumberField label="Within so many mm of the place" text={radius} change={setRadius} />
      </div>
      <p>
        <button className="ruled" onClick={ask}>
          {pick ? 'Click elsewhere' : 'Click its middle on the chart'}
        </button>{' '}
        <span className="soft" role="status">
          {pick ? 'A place is chosen.' : 'A cut that goes through it will be told.'}
        </span>
      </p>
      <DoIt acts={acts} label="Keep it whole" change={change} />
    </>
  );
}
