import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { count, duration } from '../../app/units';
import { useKeys } from '../../app/useKeys';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import { Ready } from './Ready';
import { useProofs } from './useProofs';

const ALL = '';

/** Begins a proof of the files as they are now, once what has to be ready is ticked. */
export function BeginAct({
  page,
  build,
  busy,
  leaveAct,
}: Pick<Sheet, 'page' | 'build' | 'busy' | 'leaveAct'>) {
  const proofs = useProofs(page);
  const [part, setPart] = useState(ALL);
  const [copies, setCopies] = useState('1');
  const [ticked, setTicked] = useState<string[]>([]);
  const [beside, setBeside] = useState('');
  const mine = page.editions.find(({ id }) => id === page.looked);
  const many = numberIn(copies);
  const whole = many !== null && Number.isInteger(many) && many <= 200 ? many : null;
  const meant = build.parts.filter(({ facts }) => part === ALL || facts.part === part);
  const seconds = Math.max(0, ...meant.map(({ estimate }) => estimate?.seconds ?? 0));
  const ml = meant.reduce((sum, { estimate }) => sum + (estimate?.material_ml ?? 0), 0) * (whole ?? 1);
  const can = whole !== null && !busy && !proofs.busy;
  const others = page.editions.filter(({ id, setting }) => id !== page.looked && setting === mine?.setting);
  const begin = () => {
    if (!can) return;
    const line = { part, count: whole };
    // The other form has parts of its own.
    const parts = beside ? [line, { part: ALL, count: whole, edition: beside }] : [line];
    proofs.begin({ parts, ready: ticked }, leaveAct);
  };
  useKeys({ a: begin });
  return (
    <>
      <ErrorLine says={proofs.error} />
      <div className="fields two">
        <ChoiceField
          label="What is printed"
          value={part}
          shownWhenEmpty
          options={[
            [
              ALL,
              build.parts.length > 1 ? `all ${count(build.parts.length, 'part')}` : 'the figure',
            ] as const,
            ...(build.parts.length > 1
              ? build.parts.map(({ facts }) => [facts.part, facts.called] as const)
              : []),
          ]}
          change={setPart}
        />
        <NumberField label="Copies of each" text={copies} change={setCopies} />
        {others.length > 0 && (
          <ChoiceField
            label="Another form beside it, to compare"
            value={beside}
            shownWhenEmpty
            options={[
              ['', 'none'] as const,
              ...others.map(({ id, name, form }) => [id, form ? `${name}, ${form}` : name] as const),
            ]}
            change={setBeside}
          />
        )}
      </div>
      <Ready ready={proofs.ready} ticked={ticked} tick={setTicked} />
      <p>
        {duration(seconds)} or more, {ml.toFixed(1)} ml (estimate). Its files are kept as they are now,
        whatever is changed later.
      </p>
      <div className="do-it">
        <button className="ruled" disabled={!can} onClick={begin}>
          Begin the proof
        </button>
      </div>
    </>
  );
}
