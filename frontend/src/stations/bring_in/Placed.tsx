import TextField from '@mui/material/TextField';
import { useEffect, useRef, useState } from 'react';

import type { BuildRecord, PartRecord, StepOf } from '../../app/client';
import type { HandlesAsked, Proposal } from '../../chart/handles';
import { DoIt } from '../../figure/DoIt';
import { seat, type Picking } from '../../figure/picking';
import { fieldsChange } from '../../figure/sheet';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, anyNumberIn, NumberField } from '../Fields';

interface Props {
  build: BuildRecord;
  /** The part that is drawn, on whose skin is picked. */
  part: PartRecord | undefined;
  acts: FigureActs;
  picking: Picking;
  showHandles: (handles: HandlesAsked | null) => void;
  drawPart: (part: string) => void;
}

/** A bit or a form as its step places it; lengths in figure mm. */
type Standing = StepOf<'add-bit'> | StepOf<'add-form'>;

function listed(name: string, group: string, on: boolean) {
  return name + (group && `, in ${group}`) + (on ? '' : ', switched off');
}

/** Where bits and forms stand: by numbers, by handles on the chart, or on the skin of another part; and their groups. */
export function Placed({ build, part, acts, picking, showHandles, drawPart }: Props) {
  const placed = standings(build);
  const [name, setName] = useState('');
  const chosen = placed.find((one) => one.name === name) ?? placed[0];
  const bit = build.parts.find(({ facts }) => facts.part === chosen?.name);
  const host = build.parts.find((part) => part !== bit)?.facts.part;
  const factor = build.parts[0]?.facts.factor ?? 1;
  const free = !acts.stale && !acts.busy && chosen && bit;
  const shown = free ? JSON.stringify([build.key, chosen, part?.facts.part]) : '';
  useEffect(() => {
    showHandles(free ? handlesOf(chosen, bit, part, acts) : null);
    return () => showHandles(null);
    // What is shown changes with the standing of the chosen one, with what is drawn and with the build, as the key says.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shown]);
  // Its handles are drawn over what it stands on.
  const first = useRef(host);
  useEffect(() => {
    if (first.current) drawPart(first.current);
  }, [drawPart]);
  if (!chosen) return null;
  const choose = (next: string) => {
    setName(next);
    const other = build.parts.find(({ facts }) => facts.part !== next);
    if (other) drawPart(other.facts.part);
  };
  const sit = () =>
    picking.ask({
      says: `Pick where ${chosen.name} sits`,
      count: 1,
      then: ([place]) =>
        place &&
        acts.setFields(`${chosen.name} put on the skin`, chosen, {
          rests_on: seat(place, part),
          x: 0,
          y: 0,
          z: 0,
        }),
    });
  const busy = acts.busy || acts.stale;
  return (
    <>
      <div className="fields">
        <ChoiceField
          label="Bit or form"
          value={chosen.name}
          options={placed.map(({ name, group, on }) => [name, listed(name, group, on)] as const)}
          change={choose}
        />
        <p className="soft">
          {bit
            ? 'Drag its handles on the chart, or type. The middle one sits it on the skin of what lies under it.'
            : 'It is joined, or switched off: it has no handles, and moves by its numbers.'}
        </p>
        <Numbers key={JSON.stringify(chosen)} {...{ chosen, factor, acts }} />
        <button className="ruled" disabled={busy || !host} onClick={sit}>
          Pick where it sits on the skin
        </button>
        {chosen.rests_on && (
          <button
            className="ruled"
            disabled={busy}
            onClick={() => acts.setFields(`${chosen.name} taken off the skin`, chosen, freed(chosen))}
          >
            Stand it upright by itself
          </button>
        )}
      </div>
    </>
  );
}

/** The groups that bits and forms are in. */
export function groupsOf(build: BuildRecord): string[] {
  return [...new Set(standings(build).map(({ group }) => group))].filter(Boolean);
}

/** Groups, each switched or moved as one. */
export function Groups({ build, acts }: { build: BuildRecord; acts: FigureActs }) {
  const factor = build.parts[0]?.facts.factor ?? 1;
  return groupsOf(build).map((group) => (
    <Group
      key={group}
      members={standings(build).filter((one) => one.group === group)}
      busy={acts.busy || acts.stale}
      {...{ group, factor, acts }}
    />
  ));
}

/** A group: what is in it, switched or moved as one. */
function Group({
  group,
  members,
  factor,
  busy,
  acts,
}: {
  group: string;
  members: Standing[];
  factor: number;
  busy: boolean;
  acts: FigureActs;
}) {
  const [by, setBy] = useState(['0', '0', '0']);
  const on = members.some((one) => one.on);
  const numbers = by.map(anyNumberIn);
  const usable = numbers.every((one) => one !== null) && numbers.some((one) => one !== 0);
  const far = (k: number) => (numbers[k] ?? 0) / factor;
  return (
    <section aria-label={`Group ${group}`}>
      <p>
        <b>{group}</b>: {members.map((one) => one.name).join(', ')}{' '}
        <button className="plain" disabled={busy} onClick={() => acts.switchGroup(group, !on)}>
          <u>switch {on ? 'off' : 'on'}</u>
        </button>
      </p>
      <div className="fields three">
        {['Across by, mm', 'Deep by, mm', 'Up by, mm'].map((label, k) => (
          <NumberField
            any
            key={label}
            label={label}
            text={by[k] ?? ''}
            change={(text) => setBy(by.map((old, j) => (j === k ? text : old)))}
          />
        ))}
      </div>
      <button
        className="ruled"
        disabled={busy || !usable}
        onClick={() => {
          acts.moveGroup(group, [far(0), far(1), far(2)]);
          setBy(['0', '0', '0']);
        }}
      >
        Move the group
      </button>
    </section>
  );
}

/** As many as the core takes. */
const MOST_COPIES = 200;
const LENGTHS = [
  ['x', 'Across, mm'],
  ['y', 'Deep, mm'],
  ['z', 'Up, mm'],
  ['sunk', 'Sunk, mm'],
] as const;
const ANGLES = [
  ['turn', 'Turned, °'],
  ['tip', 'Tipped forward, °'],
  ['roll', 'Rolled sideways, °'],
] as const;

function Numbers({ chosen, factor, acts }: { chosen: Standing; factor: number; acts: FigureActs }) {
  const lengths = LENGTHS.filter(([field]) => field !== 'sunk' || chosen.rests_on);
  const start = Object.fromEntries([
    ...lengths.map(([field]) => [field, spoken(chosen[field] * factor)]),
    ...[...ANGLES, ['grow'] as const, ['copies'] as const].map(([field]) => [field, spoken(chosen[field])]),
  ]) as Record<string, string>;
  const [texts, setTexts] = useState(start);
  const [group, setGroup] = useState(chosen.group);
  const [way, setWay] = useState(chosen.mirrored ? 'mirrored' : 'as it is');
  const [handed, setHanded] = useState(chosen.handed ? 'handed' : 'free');
  const [pair, setPair] = useState(chosen.pair ? 'pair' : 'one');
  const number = (field: string) => anyNumberIn(texts[field] ?? '');
  const copies = number('copies') ?? 0;
  const usable =
    Object.keys(start).every((field) => number(field) !== null) &&
    (number('grow') ?? 0) > 0 &&
    Number.isInteger(copies) &&
    copies >= 1 &&
    copies <= MOST_COPIES;
  const field = (key: string, label: string) => (
    <NumberField
      any
      key={key}
      label={label}
      text={texts[key] ?? ''}
      change={(text) => setTexts({ ...texts, [key]: text })}
    />
  );
  const moved = () =>
    fieldsChange(`moved ${chosen.name}`, chosen, {
      ...Object.fromEntries(
        // A number that was not touched keeps all its digits.
        Object.keys(start)
          .filter((key) => texts[key] !== start[key])
          .map((key) => [key, (number(key) ?? 0) / (lengths.some(([own]) => own === key) ? factor : 1)]),
      ),
      mirrored: way === 'mirrored',
      handed: handed === 'handed',
      pair: pair === 'pair',
      group: group.trim(),
    });
  return (
    <>
      <div className="fields two">
        {lengths.map(([key, label]) => field(key, label))}
        {ANGLES.map(([key, label]) => field(key, label))}
        {field('grow', 'Grown, times')}
        {field('copies', 'Times round the upright')}
        <ChoiceField
          label="How many of it"
          value={pair}
          options={{ one: 'one', pair: 'one and its mirror image' }}
          change={setPair}
        />
        <ChoiceField
          label="Way round"
          value={way}
          options={{ 'as it is': 'as it is', mirrored: 'mirrored' }}
          change={setWay}
        />
        <ChoiceField
          label="Has a hand, a mark or text"
          value={handed}
          options={{ free: 'no, may be mirrored', handed: 'yes, stays the right way round' }}
          change={setHanded}
        />
        <TextField
          size="small"
          label="Group"
          value={group}
          onChange={(event) => setGroup(event.target.value.slice(0, 80))}
        />
      </div>
      <DoIt acts={acts} label="Stand it so" change={usable ? moved() : null} />
    </>
  );
}

/** The bits and forms of the record. */
export function standings(build: BuildRecord): Standing[] {
  return build.steps.flatMap(({ step }) =>
    step.kind === 'add-bit' || step.kind === 'add-form' ? [step] : [],
  );
}

function handlesOf(
  chosen: Standing,
  bit: PartRecord,
  host: PartRecord | undefined,
  acts: FigureActs,
): HandlesAsked {
  return {
    name: chosen.name,
    display: bit.display,
    factor: bit.facts.factor,
    done: (proposal) =>
      acts.setFields(
        proposal.seat ? `${chosen.name} put on the skin` : `moved ${chosen.name}`,
        chosen,
        proposed(chosen, proposal, host),
      ),
  };
}

/** Fields of a step after what the handles propose. */
function proposed(chosen: Standing, { by, turn, grow, seat: on }: Proposal, host: PartRecord | undefined) {
  if (on) return { rests_on: seat(on, host), x: 0, y: 0, z: 0 };
  return {
    x: chosen.x + by[0],
    y: chosen.y + by[1],
    z: chosen.z + by[2],
    turn: (chosen.turn + turn) % 360,
    ...(grow === 1 ? {} : { grow: chosen.grow * grow }),
  };
}

/** A seated bit let go: it stands upright at the place it was put on. */
function freed({ rests_on }: Standing) {
  const [x, y, z] = rests_on?.point ?? [0, 0, 0];
  return { rests_on: null, sunk: 0, x, y, z };
}

function spoken(value: number): string {
  return String(Math.round(value * 1000) / 1000);
}
