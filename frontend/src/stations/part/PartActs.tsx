import { useState } from 'react';

import { mm } from '../../app/units';
import { useBench } from '../../bench/useBench';
import { DoIt } from '../../figure/DoIt';
import { anchor, type Pick } from '../../figure/picking';
import type { Change, Sheet } from '../../figure/sheet';
import { anyNumberIn, ChoiceField, NumberField, numberIn } from '../Fields';
import { along, jointSays, LIES, MEASURES, normalOf, reachOf, type Lies } from './part';

/** A plane through the part: where, how it lies, and whether it takes one limb of several. */
export function CutAct({ build, part, acts, picking }: Sheet) {
  const [lies, setLies] = useState<Lies>('level');
  const [picks, setPicks] = useState<Pick[]>([]);
  const [height, setHeight] = useState('');
  const [takes, setTakes] = useState<'all' | 'limb'>('all');
  if (!part) return null;
  const { factor } = part.facts;
  const normal = normalOf(lies, picks);
  const [pick] = picks;
  const said = anyNumberIn(height);
  const reach = normal && lies !== 'limb' ? reachOf(part, normal) : null;
  const offset =
    reach && said !== null
      ? (reach.low + said) / factor
      : normal && pick && lies === 'limb'
        ? along(normal, pick.point)
        : null;
  const wanted = lies === 'limb' ? 2 : 1;
  const near = picks.at(-1);
  const change: Change | null =
    normal && offset !== null && (takes === 'all' || near)
      ? {
          does: 'add',
          says: 'cut in two',
          step: {
            kind: 'cut',
            scope: build.parts.length > 1 ? part.facts.part : null,
            normal,
            offset,
            near: takes === 'limb' && near ? anchor(near, part.source) : null,
          },
        }
      : null;
  const ask = () =>
    picking.ask({
      says:
        lies === 'limb'
          ? 'Click where it is cut, then farther out on the same limb'
          : 'Click where it is cut',
      count: wanted,
      then: (chosen) => {
        setPicks(chosen);
        const [one] = chosen;
        if (one && normal && reach) setHeight(mm(along(normal, one.point) * factor - reach.low));
      },
    });
  return (
    <>
      <div className="fields two">
        <ChoiceField
          label="How the cut lies"
          value={lies}
          options={LIES}
          change={(next) => {
            setLies(next);
            setPicks([]);
            setHeight('');
          }}
        />
        <ChoiceField
          label="What it cuts off"
          value={takes}
          options={{ all: 'all beyond it', limb: 'only what I click' }}
          change={setTakes}
        />
        {reach && (
          <NumberField
            label={`mm ${MEASURES[lies]}, of ${mm(reach.long)}`}
            text={height}
            change={setHeight}
            any
          />
        )}
      </div>
      <p>
        <button className="ruled" onClick={ask}>
          {picks.length ? 'Click elsewhere' : 'Click it on the chart'}
        </button>{' '}
        <span className="soft" role="status">
          {lies === 'limb'
            ? picks.length === 2
              ? 'Two places are chosen.'
              : 'Square to the way from one place to the other.'
            : 'Best under a belt, a cuff or a hair line, and never through a face.'}
        </span>
      </p>
      <DoIt acts={acts} label="Cut it" change={change} />
    </>
  );
}

type Joins = 'peg' | 'pin' | 'magnets' | 'rod';
/** Kinds of bought parts by what holds a joint. */
const BOUGHT: Partial<Record<Joins, string[]>> = { magnets: ['magnet'], rod: ['rod', 'wire', 'dowel'] };

type Shape = 'flat-sided' | 'round' | 'square' | 'tapered';
type Fit = 'glued' | 'press' | 'slide' | 'free';

/** Keys of a joint: what kind, how they fit, how many and how large. */
export function KeyAct({ build, part, acts }: Sheet) {
  const { bench } = useBench();
  const joints = build.assembly.joints ?? [];
  const here = joints.findIndex((joint) => joint.parts.includes(part?.facts.part ?? ''));
  const [which, setWhich] = useState(String(Math.max(here, 0)));
  const [joins, setJoins] = useState<Joins>('peg');
  const [shape, setShape] = useState<Shape>('flat-sided');
  const [fit, setFit] = useState<Fit>('glued');
  const [painted, setPainted] = useState<'no' | 'yes'>('no');
  const [many, setMany] = useState('');
  const [wide, setWide] = useState('');
  const [thing, setThing] = useState('');
  const joint = joints[Number(which)];
  const bought = joins === 'magnets' || joins === 'rod';
  const things =
    bench?.lists
      .find(({ place }) => place === 'bought_parts')
      ?.things.filter(
        (one) =>
          !one.retired &&
          one.values.some(({ path, value }) => path === 'kind' && BOUGHT[joins]?.includes(String(value))),
      ) ?? [];
  const chosen = things.find(({ id }) => id === thing);
  const of = (path: string) => Number(chosen?.values.find((row) => row.path === path)?.value ?? 0);
  const number = many.trim() === '' ? null : numberIn(many);
  const size = wide.trim() === '' ? null : numberIn(wide);
  const wrong = (many.trim() !== '' && number === null) || (wide.trim() !== '' && size === null);
  const change: Change | null =
    joint && !wrong && (!bought || chosen)
      ? {
          does: 'add',
          says: `keys between ${jointSays(build, joint)}`,
          step: {
            kind: 'key',
            cut: joint.cut,
            between: joint.parts,
            joins,
            shape,
            fit,
            painted: painted === 'yes',
            number,
            size: bought ? of('measured') || of('diameter') : size,
            ...(bought &&
              chosen && {
                item: chosen.id,
                name: chosen.name,
                deep: joins === 'magnets' ? of('length') : null,
                density: of('density'),
              }),
          },
        }
      : null;
  return (
    <>
      <div className="fields two">
        <ChoiceField
          label="Joint"
          value={which}
          options={joints.map(
            (one, k) => [String(k), `${jointSays(build, one)}, ${one.area_mm2.toFixed(0)} mm²`] as const,
          )}
          change={setWhich}
        />
        <ChoiceField
          label="What holds it"
          value={joins}
          options={{
            peg: 'a peg on one side',
            pin: 'a pin of its own',
            rod: 'a bought rod or wire',
            magnets: 'a magnet on each side',
          }}
          change={(next) => {
            setJoins(next);
            setThing('');
          }}
        />
        {bought ? (
          <ChoiceField
            label={joins === 'rod' ? 'Rod or wire' : 'Magnet'}
            value={thing}
            options={things.map(({ id, name }) => [id, name] as const)}
            change={setThing}
          />
        ) : (
          <ChoiceField
            label="Outline"
            value={shape}
            options={{
              'flat-sided': 'round with a flat side',
              round: 'round',
              square: 'square',
              tapered: 'round, tapered',
            }}
            change={setShape}
          />
        )}
        <ChoiceField
          label="Fit"
          value={fit}
          options={{ glued: 'glued', press: 'pressed in', slide: 'sliding', free: 'turning freely' }}
          change={setFit}
        />
        <ChoiceField
          label="Faces painted first"
          value={painted}
          options={{ no: 'no', yes: 'yes: room for both coats' }}
          change={setPainted}
        />
        <NumberField label="Keys; empty for as many as fit" text={many} change={setMany} optional />
        {!bought && (
          <NumberField label="Width, mm; empty for what fits" text={wide} change={setWide} optional />
        )}
      </div>
      {joins === 'magnets' && (
        <p className="soft">
          Small magnets are dangerous if swallowed: glue them in, and keep them from children.
        </p>
      )}
      <DoIt acts={acts} label="Set the keys" change={change} />
    </>
  );
}

/** Boxes as large as a printer's room, and where they begin. */
export function BoxesAct({ build, part, acts, setup, showBox }: Sheet) {
  const { volume = NO_ROOM, edge = 0 } = setup?.printer ?? {};
  const room = volume.map((side, axis) => (axis < 2 ? side - 2 * edge : side));
  const [sides, setSides] = useState(room.map((side) => mm(side)));
  const [begin, setBegin] = useState(['0', '0', '0']);
  if (!part) return null;
  const size = sides.map((side) => numberIn(side));
  const offset = begin.map((side) => anyNumberIn(side));
  const whole = [...size, ...offset].every((value) => value !== null);
  const change: Change | null = whole
    ? {
        does: 'add',
        says: 'cut by boxes',
        step: {
          kind: 'cut-boxes',
          scope: build.parts.length > 1 ? part.facts.part : null,
          size: size as [number, number, number],
          offset: offset as [number, number, number],
        },
      }
    : null;
  const show = () => {
    const low = part.facts.low_mm.map((value, axis) => (value + (offset[axis] ?? 0)) / part.facts.factor);
    const high = low.map((value, axis) => value + (size[axis] ?? 0) / part.facts.factor);
    showBox([low as [number, number, number], high as [number, number, number]]);
  };
  const fits = part.facts.size_mm.every((side, axis) => side + (offset[axis] ?? 0) <= (size[axis] ?? 0));
  return (
    <>
      <div className="fields three">
        {['Wide', 'Deep', 'Tall'].map((name, axis) => (
          <NumberField
            key={name}
            label={`${name}, mm`}
            text={sides[axis] ?? ''}
            change={(text) => setSides(sides.map((old, k) => (k === axis ? text : old)))}
          />
        ))}
        {['to the right', 'back', 'up'].map((name, axis) => (
          <NumberField
            key={name}
            label={`Moved ${name}, mm`}
            text={begin[axis] ?? ''}
            change={(text) => setBegin(begin.map((old, k) => (k === axis ? text : old)))}
            any
          />
        ))}
      </div>
      <p>
        <button className="ruled" disabled={!whole} onClick={show}>
          Show the first box
        </button>{' '}
        <span className="soft" role="status">
          {fits ? 'It fits one box as it stands.' : 'It is larger than one box as it stands.'}
        </span>
      </p>
      <DoIt acts={acts} label="Cut it by boxes" change={change} />
    </>
  );
}

/** A box where no printer is known, mm. */
const NO_ROOM: [number, number, number] = [100, 100, 100];

/** A name of one's own for a part. */
export function NameAct({ part, acts }: Sheet) {
  const [title, setTitle] = useState('');
  if (!part) return null;
  const change: Change | null = title.trim()
    ? {
        does: 'add',
        says: `called a part ${title.trim()}`,
        step: { kind: 'name-part', scope: part.facts.part, title: title.trim() },
      }
    : null;
  return (
    <>
      <label className="named">
        What the {part.facts.called} is called{' '}
        <input value={title} maxLength={60} onChange={(event) => setTitle(event.target.value)} />
      </label>
      <DoIt acts={acts} label="Call it that" change={change} />
    </>
  );
}
