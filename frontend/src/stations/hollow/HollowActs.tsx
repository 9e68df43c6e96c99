import { useState } from 'react';

import { mm } from '../../app/units';
import { useBench } from '../../bench/useBench';
import { DoIt } from '../../figure/DoIt';
import { anchor, type Pick } from '../../figure/picking';
import type { Change, Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { hollowOf, scopeOf } from './hollow';

const WALL = '2';
const NARROWEST = '2';
const OPENING = '2';

/** The wall of the shell, and how narrow the inside may get; openings are sought for it. */
export function HollowAct({ build, part, acts }: Sheet) {
  const now = hollowOf(build, part);
  const [wall, setWall] = useState(now ? String(now.wall) : WALL);
  const [narrowest, setNarrowest] = useState(now ? String(now.narrowest) : NARROWEST);
  const [openings, setOpenings] = useState<'both ends' | 'none'>('both ends');
  const [wide, setWide] = useState(OPENING);
  if (!part) return null;
  const opened = part.openings.length > 0;
  return (
    <>
      <div className="fields two">
        <NumberField label="Wall, mm" text={wall} change={setWall} />
        <NumberField label="Narrowest inside, mm" text={narrowest} change={setNarrowest} />
        {!opened && (
          <>
            <ChoiceField
              label="Openings"
              value={openings}
              options={{ 'both ends': 'at plate end and film end', none: 'none yet' }}
              change={setOpenings}
            />
            {openings !== 'none' && <NumberField label="Each so wide, mm" text={wide} change={setWide} />}
          </>
        )}
      </div>
      <p className="soft">
        Limbs narrower inside stay solid. 1.5 to 2.5 mm of wall are usual in resin; openings of 1.5 mm, 3 mm
        in large spaces.
      </p>
      <DoIt acts={acts} label="Hollow it" change={change()} />
    </>
  );

  function change(): Change | null {
    const values = { wall: numberIn(wall), narrowest: numberIn(narrowest), diameter: numberIn(wide) };
    if (!part || values.wall === null || values.narrowest === null || values.diameter === null) return null;
    const scope = scopeOf(build, part);
    const hollow = {
      kind: 'hollow' as const,
      values: { scope, wall: values.wall, narrowest: values.narrowest, on: true },
    };
    const drain = {
      kind: 'drain' as const,
      values: { scope, places: [], diameter: values.diameter, on: true },
    };
    return {
      does: 'set',
      says: `hollowed to ${mm(values.wall)} mm`,
      steps: opened || openings === 'none' ? [hollow] : [hollow, drain],
    };
  }
}

/** A ball about a place in which the inside is solid, or its wall thicker. */
export function RegionAct({ build, part, acts, picking }: Sheet) {
  const step = hollowOf(build, part);
  const [pick, setPick] = useState<Pick | null>(null);
  const [radius, setRadius] = useState('5');
  const [wall, setWall] = useState('');
  if (!step || !part) return null;
  const reach = numberIn(radius);
  const thick = wall.trim() === '' ? null : numberIn(wall);
  const wrong = wall.trim() !== '' && thick === null;
  const change: Change | null =
    pick && reach !== null && !wrong
      ? {
          does: 'fields',
          says: thick === null ? 'a region left solid' : 'a region made thicker',
          step,
          values: {
            regions: [
              ...step.regions,
              { place: anchor(pick, part.source), radius: reach / part.facts.factor, wall: thick },
            ],
          },
        }
      : null;
  return (
    <>
      <PickPlace picking={picking} pick={pick} set={setPick} says="Click the middle of the region" />
      <div className="fields two">
        <NumberField label="Radius, mm at print size" text={radius} change={setRadius} />
        <NumberField label="Wall there, mm; empty for solid" text={wall} change={setWall} optional />
      </div>
      <DoIt acts={acts} label="Set the region" change={change} />
    </>
  );
}

/** An opening at a place that is clicked. */
export function OpenHere({ build, part, acts, picking }: Sheet) {
  const [pick, setPick] = useState<Pick | null>(null);
  const [wide, setWide] = useState(OPENING);
  const [plug, setPlug] = useState<'no' | 'yes'>('no');
  const [into, setInto] = useState<'drain' | 'vent'>(part?.spaces.length ? 'drain' : 'vent');
  if (!part) return null;
  const diameter = numberIn(wide);
  const change: Change | null =
    pick && diameter !== null
      ? {
          does: 'add',
          says: into === 'drain' ? 'opened a space' : 'drilled through a wall',
          step: {
            kind: into,
            scope: scopeOf(build, part),
            places: [anchor(pick, part.source)],
            diameter,
            plug: plug === 'yes',
          },
        }
      : null;
  return (
    <>
      <PickPlace picking={picking} pick={pick} set={setPick} says="Click where it is to be opened" />
      <div className="fields two">
        <ChoiceField
          label="It leads"
          value={into}
          options={{ drain: 'into a space, for resin', vent: 'through a wall, for air' }}
          change={setInto}
        />
        <NumberField label="Opening, mm wide" text={wide} change={setWide} />
        <ChoiceField
          label="Plug"
          value={plug}
          options={{ no: 'none', yes: 'a part of its own' }}
          change={setPlug}
        />
      </div>
      <DoIt acts={acts} label="Open it" change={change} />
    </>
  );
}

type Pole = 'none' | 'north' | 'south';

/** A pocket for something from the bench. */
export function PocketAct({ build, part, acts, picking }: Sheet) {
  const { bench, failed } = useBench();
  const [chosen, setChosen] = useState('');
  const [pick, setPick] = useState<Pick | null>(null);
  const [fit, setFit] = useState('0.1');
  const [deep, setDeep] = useState('');
  const [pole, setPole] = useState<Pole>('none');
  const things = bench?.lists
    .find(({ place }) => place === 'bought_parts')
    ?.things.filter((one) => !one.retired);
  if (failed) return <p className="error">{failed}</p>;
  if (!part || !things) return <p className="soft">Looking at the bench …</p>;
  const thing = things.find(({ id }) => id === chosen);
  const values = thing && boughtPart(thing);
  const depth = values && (deep.trim() === '' ? values.length : numberIn(deep));
  const gap = numberIn(fit, true);
  const whole = values?.kind === 'magnet' || values?.kind === 'screw';
  const change: Change | null =
    thing && values && pick && depth && gap !== null
      ? {
          does: 'add',
          says: `a pocket for ${thing.name}`,
          step: {
            kind: 'pocket',
            scope: scopeOf(build, part),
            places: [anchor(pick, part.source)],
            item: thing.id,
            name: thing.name,
            diameter: values.diameter,
            density: values.density,
            depth,
            length: whole ? null : depth,
            fit: gap,
            pole: values.kind === 'magnet' && pole !== 'none' ? pole : null,
          },
        }
      : null;
  return (
    <>
      <div className="fields two">
        <ChoiceField
          label="Bought part"
          value={chosen}
          options={things.map(({ id, name }) => [id, name] as const)}
          change={setChosen}
        />
        <NumberField label="Fit, mm of air a side" text={fit} change={setFit} zero />
        <NumberField
          label={values ? `Depth, mm; empty for ${mm(values.length)}` : 'Depth, mm'}
          text={deep}
          change={setDeep}
          optional
        />
        {values?.kind === 'magnet' && (
          <ChoiceField
            label="Pole that looks outward"
            value={pole}
            options={{ none: 'not marked', north: 'north: a sunk cross', south: 'south: a sunk bar' }}
            change={setPole}
          />
        )}
      </div>
      <PickPlace picking={picking} pick={pick} set={setPick} says="Click where it goes in" />
      {values?.kind === 'magnet' && (
        <p className="soft">
          Small magnets are dangerous if swallowed: glue them in, and keep them from children.
        </p>
      )}
      <DoIt acts={acts} label="Make the pocket" change={change} />
    </>
  );
}

type Thing = NonNullable<ReturnType<typeof useBench>['bench']>['lists'][number]['things'][number];

/** What a pocket has to know of a bought part, mm and g/cm³. */
function boughtPart(thing: Thing) {
  const of = (path: string) => thing.values.find((row) => row.path === path)?.value ?? null;
  const number = (path: string) => Number(of(path) ?? 0);
  return {
    kind: String(of('kind')),
    diameter: Number(of('measured') ?? of('diameter')),
    length: number('length'),
    density: number('density'),
  };
}

/** Asks for a place on the chart, and says whether there is one. */
function PickPlace({
  picking,
  pick,
  set,
  says,
}: {
  picking: Sheet['picking'];
  pick: Pick | null;
  set: (pick: Pick) => void;
  says: string;
}) {
  return (
    <p>
      <button
        className="ruled"
        onClick={() => picking.ask({ says, count: 1, then: ([one]) => one && set(one) })}
      >
        {pick ? 'Click another place' : 'Click a place on the chart'}
      </button>{' '}
      <span className="soft" role="status">
        {pick ? 'A place is chosen.' : 'None is chosen yet.'}
      </span>
    </p>
  );
}
