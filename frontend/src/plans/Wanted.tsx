import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { api, dataOf, type ShelfFigure, type WantedPlan } from '../app/client';
import { useEditionChoice } from '../shelf/useEditionChoice';
import { NumberField, numberIn } from '../stations/Fields';
import styles from './plans.module.css';
import type { PlanActs } from './usePlan';

type Line = NonNullable<WantedPlan['wanted']>[number];

const AS_OFTEN = 0.1;

/** What is to be printed: figures in editions, how many of each, and by what rules. */
export function Wanted({
  plan,
  acts,
}: {
  plan: WantedPlan;
  acts: Pick<PlanActs, 'busy' | 'change' | 'again'>;
}) {
  const { busy, change, again } = acts;
  const lines = plan.wanted ?? [];
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const named = new Map((shelf.data ?? []).map(({ id, name }) => [id, name]));
  const called = (line: Line) => named.get(line.figure) ?? `figure ${line.figure}`;
  const keep = (says: string, next: Line[]) => change(says, { wanted: next });
  return (
    <>
      <h2>To be printed</h2>
      {lines.length === 0 && <p className="soft">Nothing yet.</p>}
      <ul className={styles.wanted} aria-label="To be printed">
        {lines.map((line, k) => (
          <li key={k}>
            <span>
              {line.count ?? 1} x {called(line)}
            </span>
            <span className={styles.turns}>
              <label>
                <input
                  type="checkbox"
                  checked={!!line.painted}
                  disabled={busy}
                  onChange={({ target }) =>
                    keep(
                      `${called(line)} ${target.checked ? 'painted' : 'not painted'}`,
                      lines.map((one) => (one === line ? { ...one, painted: target.checked } : one)),
                    )
                  }
                />{' '}
                put together and painted
              </label>
              <button
                className="plain"
                disabled={busy}
                aria-label={`Leave out ${called(line)}`}
                onClick={() =>
                  keep(
                    `left out: ${called(line)}`,
                    lines.filter((one) => one !== line),
                  )
                }
              >
                <u>leave out</u>
              </button>
            </span>
          </li>
        ))}
      </ul>
      <details open={lines.length === 0 || undefined}>
        <summary>Add a figure</summary>
        <Adding busy={busy} add={(line, name) => keep(`added: ${name}`, [...lines, line])} />
      </details>
      <details>
        <summary>When, and by what rules</summary>
        <Rules plan={plan} busy={busy} change={change} />
      </details>
      {lines.length > 0 && (
        <p>
          <button className="plain" disabled={busy} onClick={again}>
            <u>plan again, as the figures are now</u>
          </button>
        </p>
      )}
    </>
  );
}

function Adding({ busy, add }: { busy: boolean; add: (line: Line, name: string) => void }) {
  const [many, setMany] = useState('1');
  const { chosen, fields } = useEditionChoice();
  const copies = numberIn(many);
  return (
    <>
      <div className="fields two">
        {fields}
        <NumberField label="How many" text={many} change={setMany} />
      </div>
      <p>
        <button
          className="ruled"
          disabled={busy || !chosen || copies === null || !Number.isInteger(copies)}
          onClick={() =>
            chosen &&
            copies &&
            add(
              { figure: chosen.figure, edition: chosen.edition, part: '', count: copies, painted: false },
              chosen.figureName,
            )
          }
        >
          Add it
        </button>
      </p>
    </>
  );
}

function Rules({ plan, busy, change }: { plan: WantedPlan; busy: boolean; change: PlanActs['change'] }) {
  const [most, setMost] = useState(plan.most_parts ? String(plan.most_parts) : '');
  const [off, setOff] = useState('');
  const limit = most.trim() === '' ? null : numberIn(most);
  const days = plan.days_off ?? [];
  return (
    <>
      <div className="fields two">
        <NumberField
          label="Parts on a plate at most; empty for all that fit"
          text={most}
          change={setMost}
          optional
        />
      </div>
      <p className={styles.turns}>
        <button
          className="ruled"
          disabled={busy || limit === (plan.most_parts ?? null) || (most.trim() !== '' && limit === null)}
          onClick={() =>
            change('parts on a plate', { most_parts: limit === null ? null : Math.round(limit) })
          }
        >
          Keep to that many
        </button>
        <label>
          <input
            type="checkbox"
            checked={plan.spare_from != null}
            disabled={busy}
            onChange={({ target }) =>
              change(target.checked ? 'time for spares' : 'no spares', {
                spare_from: target.checked ? AS_OFTEN : null,
              })
            }
          />{' '}
          keep time to print a plate again where 1 in 10 fails or more
        </label>
      </p>
      <p className={styles.turns}>
        <When label="begin" value={plan.begins} keep={(begins) => change('begins', { begins })} />
        <When label="due" value={plan.due} keep={(due) => change('due', { due })} />
      </p>
      <p className={styles.turns}>
        <label>
          nobody is there on <input type="date" value={off} onChange={({ target }) => setOff(target.value)} />
        </label>
        <button
          className="ruled"
          disabled={busy || !off || days.includes(off)}
          onClick={() => {
            change(`nobody there on ${off}`, { days_off: [...days, off].sort() });
            setOff('');
          }}
        >
          Keep that day free
        </button>
        {days.map((one) => (
          <button
            key={one}
            className="plain"
            disabled={busy}
            aria-label={`Somebody is there on ${one} after all`}
            onClick={() =>
              change(`somebody there on ${one}`, { days_off: days.filter((day) => day !== one) })
            }
          >
            <u>{one}, after all not</u>
          </button>
        ))}
      </p>
    </>
  );
}

function When({
  label,
  value,
  keep,
}: {
  label: string;
  value: string | null | undefined;
  keep: (moment: string | null) => void;
}) {
  return (
    <label>
      {label}{' '}
      <input
        type="datetime-local"
        value={value?.slice(0, 16) ?? ''}
        onChange={({ target }) => keep(target.value ? `${target.value}:00` : null)}
      />
    </label>
  );
}
