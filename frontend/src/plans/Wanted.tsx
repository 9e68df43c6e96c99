import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { api, dataOf, type FigurePage, type ShelfFigure, type WantedPlan } from '../app/client';
import { ChoiceField, NumberField, numberIn } from '../stations/Fields';
import styles from './plans.module.css';

type Line = NonNullable<WantedPlan['wanted']>[number];

/** What is to be printed: figures in editions, and how many of each. */
export function Wanted({
  wanted,
  busy,
  keep,
  again,
}: {
  wanted: WantedPlan;
  busy: boolean;
  keep: (next: WantedPlan) => void;
  again: () => void;
}) {
  const lines = wanted.wanted ?? [];
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const [figure, setFigure] = useState('');
  const [edition, setEdition] = useState('');
  const [many, setMany] = useState('1');
  const [most, setMost] = useState(wanted.most_parts ? String(wanted.most_parts) : '');
  const page = useQuery({
    queryKey: ['figure', Number(figure), ''],
    queryFn: () =>
      dataOf<FigurePage>(api.GET('/api/figures/{number}', { params: { path: { number: Number(figure) } } })),
    enabled: figure !== '',
  });
  const editions = page.data?.editions ?? [];
  const chosen = editions.find(({ id }) => id === edition) ?? editions[0];
  const copies = numberIn(many);
  const named = new Map((shelf.data ?? []).map(({ id, name }) => [id, name]));
  const change = (next: Line[]) => keep({ ...wanted, wanted: next });
  const limit = most.trim() === '' ? null : numberIn(most);
  return (
    <>
      <h2>To be printed</h2>
      {lines.length === 0 && <p className="soft">Nothing yet.</p>}
      <ul className={styles.wanted} aria-label="To be printed">
        {lines.map((line, k) => (
          <li key={k}>
            <span>
              {line.count ?? 1} x {named.get(line.figure) ?? `figure ${line.figure}`}
            </span>
            <button
              className="plain"
              disabled={busy}
              aria-label={`Leave out ${named.get(line.figure) ?? line.figure}`}
              onClick={() => change(lines.filter((_, other) => other !== k))}
            >
              <u>leave out</u>
            </button>
          </li>
        ))}
      </ul>
      <div className="fields two">
        <ChoiceField
          label="Figure"
          value={figure}
          options={(shelf.data ?? []).map(({ id, name }) => [String(id), name] as const)}
          change={(next) => {
            setFigure(next);
            setEdition('');
          }}
        />
        <ChoiceField
          label="Edition"
          value={chosen?.id ?? ''}
          options={editions.map(({ id, name }) => [id, name] as const)}
          change={setEdition}
        />
        <NumberField label="How many" text={many} change={setMany} />
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
          disabled={busy || !chosen || copies === null || !Number.isInteger(copies)}
          onClick={() =>
            chosen &&
            copies &&
            change([...lines, { figure: Number(figure), edition: chosen.id, part: '', count: copies }])
          }
        >
          Add it
        </button>
        <button
          className="ruled"
          disabled={busy || limit === (wanted.most_parts ?? null) || (most.trim() !== '' && limit === null)}
          onClick={() => keep({ ...wanted, most_parts: limit === null ? null : Math.round(limit) })}
        >
          Keep to that many
        </button>
        {lines.length > 0 && (
          <button className="plain" disabled={busy} onClick={again}>
            <u>plan again, as the figures are now</u>
          </button>
        )}
        <label>
          due{' '}
          <input
            type="datetime-local"
            value={wanted.due?.slice(0, 16) ?? ''}
            onChange={(event) =>
              keep({ ...wanted, due: event.target.value ? `${event.target.value}:00` : null })
            }
          />
        </label>
      </p>
    </>
  );
}
