import { useState } from 'react';

import type { StepOf } from '../../app/client';
import { stepsOf } from '../../app/steps';
import { count, mm } from '../../app/units';
import { DoIt } from '../../figure/DoIt';
import { anchor, type Pick } from '../../figure/picking';
import type { Change, Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { actsSaid, BEGINNINGS, heldBy, LABELS, TOOLS, type Beginning, type SaidAct, type Tool } from './hand';
import styles from './stand.module.css';

/** Supports changed by hand: places are clicked one after the other, then all of it is made at once. */
export function HandActs({ build, part, acts, picking }: Sheet) {
  const support = stepsOf(build, 'support').at(-1);
  const [said, setSaid] = useState<SaidAct[]>(() => actsSaid(support));
  const [begin, setBegin] = useState<Beginning>(support?.begin ?? 'proposal');
  const [tool, setTool] = useState<Tool>('add');
  const [radius, setRadius] = useState('3');
  const [mirrored, setMirrored] = useState(false);
  if (!part) return null;
  const region = tool === 'forbid' || tool === 'ask';
  const within = region ? numberIn(radius) : 2;
  const { picks, says } = TOOLS[tool];
  const ask = () => {
    if (within === null) return;
    picking.ask({
      says: `${says} (Esc when done)`,
      count: picks,
      then: ([at, to]: Pick[]) => {
        if (!at) return;
        const one: SaidAct = {
          does: tool,
          at: anchor(at, part.source),
          to: to ? anchor(to, part.source) : null,
          radius: within,
          mirrored,
        };
        setSaid((before) => [...before, one]);
        ask();
      },
    });
  };
  const change: Change = {
    does: 'set',
    says: `supports by hand, ${count(said.length, 'act')}`,
    steps: [{ kind: 'support', values: { on: true, begin, ...heldBy(said) } }],
  };
  const undone = new Set(undoneOf(build, support));
  return (
    <>
      <div className="fields two">
        <ChoiceField label="Begin with" value={begin} options={BEGINNINGS} change={setBegin} />
        <ChoiceField
          label="What a click does"
          value={tool}
          options={LABELS}
          change={(next) => {
            picking.leave();
            setTool(next);
          }}
        />
        {region && <NumberField label="Within, mm" text={radius} change={setRadius} />}
      </div>
      <p>
        <label>
          <input type="checkbox" checked={mirrored} onChange={(event) => setMirrored(event.target.checked)} />{' '}
          on the other side too, left for right
        </label>
      </p>
      <p>
        <button className="ruled" disabled={within === null} onClick={picking.asked ? picking.leave : ask}>
          {picking.asked ? 'Done clicking' : 'Click places on the figure'}
        </button>
      </p>
      {said.length > 0 && (
        <ol className={styles.acts} aria-label="Acts by hand">
          {said.map((one, k) => (
            <li key={k}>
              <span>
                {k + 1}. {TOOLS[one.does].told}
                {one.does === 'forbid' || one.does === 'ask' ? ` within ${mm(one.radius)} mm` : ''}
                {one.mirrored ? ', on both sides' : ''}
                {undone.has(k) && <em className={styles.stop}>: no way for it there</em>}
              </span>
              <button
                className="plain"
                aria-label={`Leave out act ${k + 1}`}
                onClick={() => setSaid(said.filter((_, other) => other !== k))}
              >
                <u>leave out</u>
              </button>
            </li>
          ))}
        </ol>
      )}
      <DoIt acts={acts} label="Hold it so" change={change} />
    </>
  );
}

/** Acts that the last run of the step found no way for. */
function undoneOf(build: Sheet['build'], support: StepOf<'support'> | undefined): number[] {
  const receipt = build.steps.find(({ step }) => step.id === support?.id)?.receipt;
  return Array.isArray(receipt?.undone) ? receipt.undone.map(Number) : [];
}
