import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { BuildRecord, FieldsOf, Material, MeetingRecord, PartRecord, StepOf } from '../app/client';
import { FORMS, type Form } from '../app/forms';
import { mm } from '../app/units';
import { seat, type Pick, type Picking } from '../figure/picking';
import type { FigureActs } from '../figure/useFigure';
import { drawnCurve } from './drawnCurve';
import { NumberField, numberIn } from './Fields';
import { StampTools } from './StampTools';
import { StrokeTools } from './StrokeTools';

interface Props {
  number: number;
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
  part: PartRecord | undefined;
  material: Material | undefined;
}

const MOST_PLACES = 30;

/** The few acts by which a figure comes together: forms stood on it, parts joined, stamps pressed, its surface touched up. */
export function Making(props: Props) {
  return (
    <details className="fold">
      <summary>Putting it together: forms, joins, stamps, strokes</summary>
      <AddForm {...props} />
      {props.build.parts.length > 1 && <JoinParts {...props} />}
      <StampTools {...props} />
      <StrokeTools {...props} />
    </details>
  );
}

function AddForm({ acts, picking, part }: Props) {
  const [form, setForm] = useState<Form>('sphere');
  const [name, setName] = useState('');
  const [texts, setTexts] = useState({
    wide: '5',
    deep: '5',
    tall: '8',
    sunk: '1',
    copies: '1',
    places: '4',
  });
  const [pair, setPair] = useState<'one' | 'pair' | 'handed'>('one');
  const factor = part?.facts.factor ?? 1;
  const set = (key: keyof typeof texts) => (text: string) => setTexts({ ...texts, [key]: text });
  const sizes = FORMS[form];
  const number = (key: keyof typeof texts, zero = false) => numberIn(texts[key], zero);
  const copies = number('copies');
  const places = number('places');
  const ready =
    sizes.every((key) => number(key) !== null) &&
    number('sunk', true) !== null &&
    copies !== null &&
    Number.isInteger(copies) &&
    (form !== 'tube' || (places !== null && places >= 2 && places <= MOST_PLACES));
  const called = name.trim() || form;
  const add = (where: FieldsOf<StepOf<'add-form'>>) =>
    acts.addStep(`added ${called}`, {
      kind: 'add-form',
      name: called,
      form,
      ...Object.fromEntries(sizes.map((key) => [key, (number(key) ?? 1) / factor])),
      copies: copies ?? 1,
      pair: pair !== 'one',
      handed: pair === 'handed',
      ...where,
    });
  const pick = () =>
    picking.ask({
      says: 'Pick where it stands',
      count: 1,
      then: ([place]) =>
        place && add({ rests_on: seat(place, part), sunk: (number('sunk', true) ?? 0) / factor }),
    });
  const along = () =>
    picking.ask({
      says: 'Pick the places it goes through',
      count: Math.round(places ?? 2),
      then: (picks) => add({ curve: picks.map((place) => lifted(place, number('sunk', true) ?? 0, factor)) }),
    });
  const drawn = () =>
    picking.ask({
      says: 'Draw its curve over the figure',
      brush: {
        live: null,
        ended: (picks) => {
          picking.leave();
          add({ curve: drawnCurve(picks, places ?? 2, (number('sunk', true) ?? 0) / factor) });
        },
      },
    });
  return (
    <>
      <h3>A first form</h3>
      <div className="fields">
        <div className="fields two">
          <TextField
            select
            size="small"
            label="Form"
            value={form}
            onChange={(e) => setForm(e.target.value as Form)}
          >
            {Object.keys(FORMS).map((key) => (
              <MenuItem key={key} value={key}>
                {key}
              </MenuItem>
            ))}
          </TextField>
          <TextField size="small" label="Name of it" value={name} onChange={(e) => setName(e.target.value)} />
          {sizes.map((key) => (
            <NumberField key={key} label={`${key}, mm`} text={texts[key]} change={set(key)} />
          ))}
          <NumberField zero label="Sunk into the skin, mm" text={texts.sunk} change={set('sunk')} />
          {form === 'tube' ? (
            <NumberField label="Places of its curve" text={texts.places} change={set('places')} />
          ) : (
            <NumberField label="Times round the upright" text={texts.copies} change={set('copies')} />
          )}
          <TextField
            select
            size="small"
            label="Of it"
            value={pair}
            onChange={(event) => setPair(event.target.value as typeof pair)}
          >
            <MenuItem value="one">this one</MenuItem>
            <MenuItem value="pair">and its mirror image</MenuItem>
            <MenuItem value="handed">and another, the right way round</MenuItem>
          </TextField>
        </div>
        <button
          className="ruled"
          disabled={acts.busy || acts.stale || !ready}
          onClick={form === 'tube' ? along : pick}
        >
          {form === 'tube' ? 'Pick its curve on the figure' : 'Pick where it stands'}
        </button>
        {form === 'tube' && (
          <button className="ruled" disabled={acts.busy || acts.stale || !ready} onClick={drawn}>
            Draw its curve on the figure
          </button>
        )}
        {form !== 'tube' && (
          <button className="ruled" disabled={acts.busy || acts.stale || !ready} onClick={() => add({})}>
            Stand it on the ground, in the middle
          </button>
        )}
      </div>
    </>
  );
}

function meetingOf({ meetings }: BuildRecord, bit: string, host: string): MeetingRecord | undefined {
  const both = (one: MeetingRecord, a: string, b: string) => one.bit === a && one.host === b;
  return meetings.find((one) => both(one, bit, host) || both(one, host, bit));
}

/** How two parts would hold together, before they are joined. */
function Meets({
  meeting,
  material,
}: {
  meeting: MeetingRecord | undefined;
  material: Material | undefined;
}) {
  if (!meeting) return <p className="soft">They do not reach into each other, as far as can be told.</p>;
  const { overlap, neck, neck_width: thick, sealed } = meeting;
  return (
    <p>
      As they stand they reach <b>{mm(overlap)} mm</b> into each other; the neck is <b>{mm(thick)} mm</b>{' '}
      thick, {mm(neck)} mm²
      {material && `, and ${material.name.toLowerCase()} wants ${mm(material.walls.pin.caution)} mm`}.
      {sealed > 0 && ` A cavity of ${mm(sealed)} mm³ would be sealed in.`}
    </p>
  );
}

/** A place of a tube's curve: as deep under the skin as asked. */
function lifted({ point, normal }: Pick, sunk: number, factor: number): Pick['point'] {
  return [0, 1, 2].map((k) => (point[k] ?? 0) - ((normal[k] ?? 0) * sunk) / factor) as Pick['point'];
}

function JoinParts({ build, acts, material }: Props) {
  const names = build.parts.map(({ facts }) => facts.part);
  const [host, setHost] = useState(names[0] ?? '');
  const [bit, setBit] = useState(names[1] ?? '');
  const [blend, setBlend] = useState('0.5');
  const [how, setHow] = useState<'solid' | 'overlapping'>('solid');
  const there = names.includes(host) && names.includes(bit) && host !== bit;
  const choose = (label: string, value: string, set: (name: string) => void) => (
    <TextField
      select
      size="small"
      label={label}
      value={names.includes(value) ? value : ''}
      onChange={(e) => set(e.target.value)}
    >
      {names.map((name) => (
        <MenuItem key={name} value={name}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
  return (
    <>
      <h3>Join two parts</h3>
      <div className="fields">
        <div className="fields two">
          {choose('This part', bit, setBit)}
          {choose('to this, whose name stays', host, setHost)}
          <TextField
            select
            size="small"
            label="Into"
            value={how}
            onChange={(event) => setHow(event.target.value as typeof how)}
          >
            <MenuItem value="solid">one clean solid</MenuItem>
            <MenuItem value="overlapping">one part, left overlapping</MenuItem>
          </TextField>
          {how === 'solid' && (
            <NumberField zero label="Round in the corner, mm" text={blend} change={setBlend} />
          )}
        </div>
        {how === 'overlapping' && (
          <p className="soft">
            Nothing of either is changed and slicing merges them; but what is inside stays, and resin, walls
            and hollows are reckoned as if both were whole.
          </p>
        )}
        {there && <Meets meeting={meetingOf(build, bit, host)} material={material} />}
        <button
          className="ruled"
          disabled={acts.busy || acts.stale || !there || numberIn(blend, true) === null}
          onClick={() =>
            acts.addStep(`joined ${bit} to ${host}`, {
              kind: 'join-parts',
              host,
              bit,
              ...(how === 'solid' ? { blend: numberIn(blend, true) ?? 0 } : { overlapping: true }),
            })
          }
        >
          Join them
        </button>
      </div>
    </>
  );
}
