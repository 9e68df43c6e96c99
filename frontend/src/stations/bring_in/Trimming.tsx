import { useEffect, useState } from 'react';

import type { PartRecord, StepOf } from '../../app/client';
import { mm } from '../../app/units';
import type { Box } from '../../chart/overlay';
import { DoIt } from '../../figure/DoIt';
import type { Pick, Picking } from '../../figure/picking';
import type { FigureActs } from '../../figure/useFigure';
import { ChoiceField, NumberField, numberIn } from '../Fields';

const HOWS = {
  ground: 'all below a height',
  plane: 'a plane through three places',
  box: 'a box',
  lasso: 'a line drawn on the chart',
};
type How = keyof typeof HOWS;

const SIDES = ['left', 'front', 'ground'] as const;

interface Props {
  part: PartRecord;
  acts: FigureActs;
  picking: Picking;
  /** Shows a box on the chart, or none. */
  showBox: (box: Box | null) => void;
}

/** Cutting away what does not belong to an object. */
export function Trimming({ part, acts, picking, showBox }: Props) {
  const [how, setHow] = useState<How>('ground');
  const [inside, setInside] = useState(true);
  const [height, setHeight] = useState('');
  const { size_mm: size, low_mm: low, factor } = part.facts;
  const [texts, setTexts] = useState(() => size.map((side) => [mm(side / 4), mm((side * 3) / 4)]));
  const busy = acts.busy || acts.stale;
  const says = 'trimmed';
  const cut = (volume: StepOf<'trim'>['volume'], taken = inside) => ({
    kind: 'trim' as const,
    volume,
    inside: taken,
  });
  const trim = (volume: StepOf<'trim'>['volume'], taken = inside) => acts.addStep(says, cut(volume, taken));

  const box = how === 'box' ? boxIn(texts, low, factor) : null;
  const drawn = JSON.stringify(box);
  useEffect(() => {
    showBox(JSON.parse(drawn) as Box | null);
    return () => showBox(null);
  }, [drawn, showBox]);

  const up = numberIn(height);
  const below =
    up === null
      ? null
      : cut({ volume: 'plane', point: [0, 0, (low[2] + up) / factor], normal: [0, 0, -1] }, true);
  const plane = () =>
    picking.ask({
      says: 'Pick three places of the cut; what is on your side of it goes',
      count: 3,
      then: (picks) => {
        const through = planeThrough(picks);
        if (through) trim({ volume: 'plane', ...through }, true);
      },
    });
  const lasso = () =>
    picking.ask({
      says: 'Draw a line round it; it goes through and through',
      outlined: (outline) => trim({ volume: 'lasso', ...outline }),
    });
  return (
    <>
      <div className="fields">
        <ChoiceField label="Cut away with" value={how} options={HOWS} change={setHow} />
        {(how === 'box' || how === 'lasso') && (
          <ChoiceField
            label="What is cut away"
            value={inside ? 'inside' : 'outside'}
            options={{ inside: 'what is inside', outside: 'what is outside' }}
            change={(to) => setInside(to === 'inside')}
          />
        )}
        {how === 'ground' && <NumberField label="Cut away below, mm up" text={height} change={setHeight} />}
        {how === 'ground' && (
          <DoIt acts={acts} label="Cut" change={below && { does: 'add', says, step: below }} />
        )}
        {how === 'plane' && (
          <button className="ruled" disabled={busy} onClick={plane}>
            Pick three places
          </button>
        )}
        {how === 'lasso' && (
          <button className="ruled" disabled={busy} onClick={lasso}>
            Draw on the chart
          </button>
        )}
        {how === 'box' &&
          SIDES.map((side, axis) => (
            <div className="fields two" key={side}>
              {['from', 'to'].map((end, k) => (
                <NumberField
                  key={end}
                  zero
                  label={`${end}, mm from the ${side}`}
                  text={texts[axis]?.[k] ?? ''}
                  change={(text) =>
                    setTexts(texts.map((pair, j) => (j === axis ? pair.with(k, text) : pair)))
                  }
                />
              ))}
            </div>
          ))}
        {how === 'box' && (
          <DoIt
            acts={acts}
            label="Cut"
            change={
              box && { does: 'add', says, step: cut({ volume: 'box', low: [...box[0]], high: [...box[1]] }) }
            }
          />
        )}
        {how === 'box' && !box && <p className="error">Each side of the box goes from less to more.</p>}
      </div>
    </>
  );
}

/** The box that six texts give, print mm from the part's left, front and ground; figure mm from the origin. */
function boxIn(texts: string[][], low: readonly number[], factor: number): Box | null {
  const ends = [0, 1].map((k) =>
    texts.map((pair, axis) => {
      const from = numberIn(pair[k] ?? '', true);
      return from === null ? NaN : (from + (low[axis] ?? 0)) / factor;
    }),
  ) as unknown as [[number, number, number], [number, number, number]];
  return ends[0].every((from, axis) => from < (ends[1][axis] ?? NaN)) ? ends : null;
}

/** A plane through three picks whose normal looks at who picked; null when they lie in one line. */
function planeThrough(picks: Pick[]) {
  const [a, b, c] = picks;
  if (!a || !b || !c) return null;
  const from = (p: Pick) => p.point.map((value, k) => value - (a.point[k] ?? 0)) as Pick['point'];
  const [u, v] = [from(b), from(c)];
  const normal: Pick['point'] = [
    u[1] * v[2] - u[2] * v[1],
    u[2] * v[0] - u[0] * v[2],
    u[0] * v[1] - u[1] * v[0],
  ];
  const long = Math.hypot(...normal);
  if (long < 1e-6 * Math.hypot(...u) * Math.hypot(...v) || long === 0) return null;
  const toward = normal.reduce((sum, value, k) => sum + value * (c.view[k] ?? 0), 0) < 0 ? -1 : 1;
  return { point: a.point, normal: normal.map((value) => (toward * value) / long) as Pick['normal'] };
}
