import { useState } from 'react';

import type { BuildRecord, MeetingRecord, Setup } from '../../app/client';
import { mm } from '../../app/units';
import { DoIt } from '../../figure/DoIt';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, NumberField, numberIn } from '../Fields';

interface Props {
  build: BuildRecord;
  acts: FigureActs;
  setup: Setup | undefined;
}

function meetingOf({ meetings }: BuildRecord, bit: string, host: string): MeetingRecord | undefined {
  const both = (one: MeetingRecord, a: string, b: string) => one.bit === a && one.host === b;
  return meetings.find((one) => both(one, bit, host) || both(one, host, bit));
}

/** How two parts would hold together, before they are joined. */
function Meets({ meeting, setup }: { meeting: MeetingRecord | undefined; setup: Setup | undefined }) {
  if (!meeting) return <p className="soft">They do not reach into each other, as far as can be told.</p>;
  const { overlap, neck, neck_width: thick, sealed } = meeting;
  return (
    <p>
      As they stand they reach <b>{mm(overlap)} mm</b> into each other; the neck is <b>{mm(thick)} mm</b>{' '}
      thick, {mm(neck)} mm²
      {setup && `, and ${setup.material.name.toLowerCase()} wants ${mm(setup.setting.walls.pin.caution)} mm`}.
      {sealed > 0 && ` A cavity of ${mm(sealed)} mm³ would be sealed in.`}
    </p>
  );
}

/** One part joined to another, whose name stays. */
export function JoinParts({ build, acts, setup }: Props) {
  const names = build.parts.map(({ facts }) => facts.part);
  const [host, setHost] = useState(names[0] ?? '');
  const [bit, setBit] = useState(names[1] ?? '');
  const [blend, setBlend] = useState('0.5');
  const [how, setHow] = useState<'solid' | 'overlapping'>('solid');
  const round = numberIn(blend, true);
  const there = names.includes(host) && names.includes(bit) && host !== bit;
  const choose = (label: string, value: string, set: (name: string) => void) => (
    <ChoiceField
      label={label}
      value={names.includes(value) ? value : ''}
      options={names.map((name) => [name, name] as const)}
      change={set}
    />
  );
  return (
    <>
      <div className="fields">
        <div className="fields two">
          {choose('Part to join', bit, setBit)}
          {choose('Joined to, whose name stays', host, setHost)}
          <ChoiceField
            label="Joined into"
            value={how}
            options={{ solid: 'one clean solid', overlapping: 'one part, left overlapping' }}
            change={setHow}
          />
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
        {there && <Meets meeting={meetingOf(build, bit, host)} setup={setup} />}
        <DoIt
          acts={acts}
          label="Join them"
          change={
            there && round !== null
              ? {
                  does: 'add',
                  says: `joined ${bit} to ${host}`,
                  step: {
                    kind: 'join-parts',
                    host,
                    bit,
                    ...(how === 'solid' ? { blend: round } : { overlapping: true }),
                  },
                }
              : null
          }
        />
      </div>
    </>
  );
}
