import { useEffect, useRef, useState } from 'react';

import type { BuildRecord, PartRecord } from '../../app/client';
import { sourceOf } from '../../app/steps';
import { anchor, type Pick, type Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, NumberField, numberIn } from '../Fields';

const TOOLS = {
  raise: ['raise', 'By, mm at a time', '0.1'],
  lower: ['lower', 'By, mm at a time', '0.1'],
  smooth: ['smooth', 'By, percent of the way', '50'],
  flatten: ['flatten', 'By, percent of the way', '50'],
  crease: ['crease', 'By, mm at a time', '0.1'],
  thicken: ['thicken the wall', 'To, mm', '1.0'],
} as const;
type Tool = keyof typeof TOOLS;

interface Props {
  number: number;
  build: BuildRecord;
  acts: FigureActs;
  picking: Picking;
  part: PartRecord | undefined;
}

/** Strokes that touch the surface up, one step each. */
export function StrokeTools({ number, build, acts, picking, part }: Props) {
  const [tool, setTool] = useState<Tool>('smooth');
  const [radius, setRadius] = useState('2');
  const [amount, setAmount] = useState<string>(TOOLS.smooth[2]);
  const [mirrored, setMirrored] = useState(false);
  const source = sourceOf(build);
  const byShare = tool === 'smooth' || tool === 'flatten';
  const [wide, much] = [numberIn(radius), numberIn(amount)];
  const usable = wide !== null && much !== null && (!byShare || much <= 100);
  const ready = usable && !acts.busy && !acts.stale;
  const stroke = {
    kind: 'stroke' as const,
    scope: build.parts.length > 1 ? (part?.facts.part ?? null) : null,
    tool,
    radius: wide ?? 0,
    ...(byShare ? { share: (much ?? 50) / 100 } : { amount: much ?? 0 }),
    mirrored,
  };
  const add = (picks: Pick[]) =>
    acts.addStep(`a stroke to ${tool}`, { ...stroke, places: picks.map((place) => anchor(place, source)) });
  const takeUp = () =>
    picking.ask({
      says: 'Draw on the figure; beside it, a drag turns it',
      brush: {
        live: {
          figure: number,
          build: build.key,
          part: part?.facts.part ?? '',
          stroke,
          place: (pick) => anchor(pick, source),
        },
        ended: add,
      },
    });
  // A brush in hand follows what is set here.
  const inHand = !!picking.brush?.live;
  const set = JSON.stringify(stroke);
  const taken = useRef(set);
  useEffect(() => {
    if (inHand && usable && taken.current !== set) takeUp();
    taken.current = set;
  });
  const choose = (next: Tool) => {
    setTool(next);
    setAmount(TOOLS[next][2]);
  };
  return (
    <>
      <div className="fields">
        <div className="fields two">
          <ChoiceField
            label="Brush"
            value={tool}
            options={(Object.keys(TOOLS) as Tool[]).map((key) => [key, TOOLS[key][0]] as const)}
            change={choose}
          />
          <NumberField label="Radius of the brush, mm" text={radius} change={setRadius} />
          <NumberField label={TOOLS[tool][1]} text={amount} change={setAmount} />
          <ChoiceField
            label="Sides it works on"
            value={mirrored ? 'both' : 'one'}
            options={{ one: 'this side', both: 'both sides of the middle' }}
            change={(to) => setMirrored(to === 'both')}
          />
        </div>
        <button
          className="ruled"
          disabled={!ready && !inHand}
          aria-pressed={inHand}
          onClick={inHand ? picking.leave : takeUp}
        >
          {inHand ? 'Put the brush down' : 'Take the brush up'}
        </button>
        <button
          className="ruled"
          disabled={!ready}
          onClick={() => picking.ask({ says: 'Pick the place', count: 1, then: add })}
        >
          Once, at a place
        </button>
      </div>
    </>
  );
}
