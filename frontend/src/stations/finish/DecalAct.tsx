import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { useKeys } from '../../app/useKeys';
import { anchor, type Pick as PickedPlace } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { NumberField, numberIn } from '../Fields';
import { changePlan, planOf, type Decal } from './plan';

/** Says where a decal goes and how large it is, so that it is known beforehand whether it lies flat there. */
export function DecalAct({
  build,
  acts,
  busy,
  part,
  picking,
}: Pick<Sheet, 'build' | 'acts' | 'busy' | 'part' | 'picking'>) {
  const [name, setName] = useState('');
  const [wide, setWide] = useState('6');
  const [high, setHigh] = useState('4');
  const [place, setPlace] = useState<PickedPlace | null>(null);
  const decals = planOf(build)?.decals ?? [];
  const [across, up] = [numberIn(wide), numberIn(high)];
  const can = !busy && !!part && !!place && name.trim() !== '' && across !== null && up !== null;
  const keep = () => {
    if (!can) return;
    const decal: Decal = {
      name: name.trim(),
      part: part.facts.part,
      place: anchor(place, part.source),
      wide: across,
      high: up,
    };
    changePlan({ build, acts }, `decal ${decal.name}`, { decals: [...decals, decal] });
    setPlace(null);
    setName('');
  };
  const touch = () =>
    picking.ask({
      says: 'Touch where the middle of the decal goes',
      count: 1,
      then: ([pick]) => setPlace(pick ?? null),
    });
  useKeys({ a: keep });
  return (
    <>
      <div className="fields two">
        <TextField
          size="small"
          label="What the decal shows"
          placeholder="heron, boat's number"
          value={name}
          slotProps={{ htmlInput: { maxLength: 60 } }}
          onChange={(event) => setName(event.target.value)}
        />
        <NumberField label="Width of the decal, mm of the print" text={wide} change={setWide} />
        <NumberField label="Height of the decal, mm of the print" text={high} change={setHigh} />
      </div>
      <p>
        <button className="ruled" onClick={picking.asked ? picking.leave : touch}>
          {picking.asked ? 'Leave it' : place ? 'Touch another place' : 'Touch the figure'}
        </button>{' '}
        <span className="soft">{place ? 'its place is known' : 'no place yet'}</span>
      </p>
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={keep}>
          Put the decal there
        </button>
      </div>
    </>
  );
}
