import TextField from '@mui/material/TextField';
import { useState } from 'react';

import { count } from '../../app/units';
import { useKeys } from '../../app/useKeys';
import { anchor, type Pick as PickedPlace } from '../../figure/picking';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { changePlan, GROWS, planOf, rolesOf, type Region } from './plan';

/** Places that a region begins at, at most. */
const MOST_PLACES = 200;

/** Gives a region a colour: grown from touches, round them, a band, or the whole part. */
export function RegionAct({
  build,
  acts,
  busy,
  part,
  picking,
}: Pick<Sheet, 'build' | 'acts' | 'busy' | 'part' | 'picking'>) {
  const plan = planOf(build);
  const [role, setRole] = useState('');
  const [grows, setGrows] = useState<Region['grows'] & string>('edges');
  const [fold, setFold] = useState('30');
  const [within, setWithin] = useState('3');
  const [low, setLow] = useState('0');
  const [high, setHigh] = useState('10');
  const [mirrored, setMirrored] = useState(false);
  const [touched, setTouched] = useState<PickedPlace[]>([]);
  const factor = part?.facts.factor ?? 1;
  const print = (text: string) => (numberIn(text, true) ?? 0) / factor;
  const touches = grows === 'edges' || grows === 'round';
  const degrees = numberIn(fold);
  const sound =
    (grows !== 'edges' || (degrees !== null && degrees >= 5 && degrees <= 170)) &&
    (grows !== 'round' || numberIn(within) !== null) &&
    (grows !== 'band' || print(high) > print(low));
  const can = !busy && !!part && role.trim() !== '' && sound && (!touches || touched.length > 0);
  const keep = () => {
    if (!can) return;
    const region: Region = {
      role: role.trim(),
      grows,
      part: grows === 'band' ? '' : part.facts.part,
      places: touches ? touched.map((one) => anchor(one, part.source)) : [],
      fold: degrees ?? 30,
      within: print(within) || 1,
      low: grows === 'band' ? print(low) : 0,
      high: grows === 'band' ? print(high) : 0,
      mirrored,
    };
    changePlan({ build, acts }, `${role.trim()} coloured`, { regions: [...(plan?.regions ?? []), region] });
    setTouched([]);
  };
  const touch = () =>
    picking.ask({
      says: 'Touch where the colour goes',
      count: 1,
      then: (picks) => setTouched([...touched, ...picks]),
    });
  const brushed = (picks: PickedPlace[]) =>
    setTouched((before) => {
      const all = [...before, ...picks];
      const every = Math.ceil(all.length / MOST_PLACES);
      return all.filter((_, k) => k % every === 0);
    });
  const brush = () =>
    picking.ask({
      says: 'Draw where the colour goes; beside the figure, a drag turns it',
      brush: { live: null, ended: brushed },
    });
  useKeys({ a: keep });
  const roles = rolesOf(plan);
  return (
    <>
      <div className="fields">
        <TextField
          size="small"
          label="What it is called"
          placeholder="robe, feather, punt"
          value={role}
          slotProps={{ htmlInput: { maxLength: 60 } }}
          onChange={(event) => setRole(event.target.value)}
        />
      </div>
      {roles.length > 0 && (
        <p>
          <span className="soft">one of those that are there: </span>
          {roles.map((one) => (
            <button key={one} className="plain" onClick={() => setRole(one)}>
              <u>{one}</u>{' '}
            </button>
          ))}
        </p>
      )}
      <div className="fields two">
        <ChoiceField label="How far the colour goes" value={grows} options={GROWS} change={setGrows} />
        {grows === 'edges' && <NumberField label="Edges turn by, degrees" text={fold} change={setFold} />}
        {grows === 'round' && (
          <NumberField label="As far as, mm of the print" text={within} change={setWithin} />
        )}
        {grows === 'band' && <NumberField label="From, mm up" text={low} change={setLow} zero />}
        {grows === 'band' && <NumberField label="To, mm up" text={high} change={setHigh} />}
      </div>
      {touches && (
        <p>
          <button className="ruled" onClick={picking.asked ? picking.leave : touch}>
            {picking.asked ? 'Leave it' : touched.length ? 'Touch another place' : 'Touch the figure'}
          </button>{' '}
          {grows === 'round' && !picking.asked && (
            <button className="ruled" onClick={brush}>
              Draw strokes
            </button>
          )}{' '}
          {touched.length > 0 && !picking.asked && (
            <button className="plain" onClick={() => setTouched([])}>
              <u>forget the places</u>
            </button>
          )}{' '}
          <span className="soft">{touched.length > 0 && `${count(touched.length, 'place')} touched`}</span>
        </p>
      )}
      {touches && (
        <p>
          <label>
            <input type="checkbox" checked={mirrored} onChange={() => setMirrored(!mirrored)} /> left and
            right alike
          </label>
        </p>
      )}
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={keep}>
          Colour it
        </button>
      </div>
    </>
  );
}
