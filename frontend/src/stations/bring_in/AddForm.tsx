import TextField from '@mui/material/TextField';
import { useState } from 'react';

import type { BuildRecord, FieldsOf, NewStep, PartRecord, StepOf } from '../../app/client';
import { FORMS, type Form } from '../../app/forms';
import { DoIt } from '../../figure/DoIt';
import { seat, type Pick, type Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { drawnCurve } from './drawnCurve';

interface Props {
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
  part: PartRecord | undefined;
}

const MOST_PLACES = 30;

/** A first form, stood on the figure where it is picked, or on the ground. */
export function AddForm({ acts, picking, part }: Props) {
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
  const says = `added ${called}`;
  const stands = (where: FieldsOf<StepOf<'add-form'>>): NewStep => ({
    kind: 'add-form',
    name: called,
    form,
    ...Object.fromEntries(sizes.map((key) => [key, (number(key) ?? 1) / factor])),
    copies: copies ?? 1,
    pair: pair !== 'one',
    handed: pair === 'handed',
    ...where,
  });
  const add = (where: FieldsOf<StepOf<'add-form'>>) => acts.addStep(says, stands(where));
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
      <div className="fields">
        <div className="fields two">
          <ChoiceField
            label="Form"
            value={form}
            options={(Object.keys(FORMS) as Form[]).map((key) => [key, key] as const)}
            change={setForm}
          />
          <TextField
            size="small"
            label="Name of the form"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          {sizes.map((key) => (
            <NumberField key={key} label={`${key}, mm`} text={texts[key]} change={set(key)} />
          ))}
          <NumberField zero label="Sunk into the skin, mm" text={texts.sunk} change={set('sunk')} />
          {form === 'tube' ? (
            <NumberField label="Places of its curve" text={texts.places} change={set('places')} />
          ) : (
            <NumberField label="Times round the upright" text={texts.copies} change={set('copies')} />
          )}
          <ChoiceField
            label="How many of it"
            value={pair}
            options={{
              one: 'one',
              pair: 'one and its mirror image',
              handed: 'one and another, the right way round',
            }}
            change={setPair}
          />
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
          <DoIt
            acts={acts}
            label="Stand it on the ground, in the middle"
            change={ready ? { does: 'add', says, step: stands({}) } : null}
          />
        )}
      </div>
    </>
  );
}

/** A place of a tube's curve: as deep under the skin as asked. */
function lifted({ point, normal }: Pick, sunk: number, factor: number): Pick['point'] {
  return [0, 1, 2].map((k) => (point[k] ?? 0) - ((normal[k] ?? 0) * sunk) / factor) as Pick['point'];
}
