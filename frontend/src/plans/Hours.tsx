import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../app/ErrorLine';
import { api, dataOf, type LoggedTime, type PlanTold, type ShelfFigure } from '../app/client';
import { day, duration } from '../app/units';
import { ChoiceField, NumberField, numberIn } from '../stations/Fields';
import styles from './plans.module.css';

const KINDS = { design: 'Design', 'clean-up': 'Clean-up', painting: 'Painting' } as const;
type Kind = keyof typeof KINDS;
const KEY = ['hours'];

/** Hours that were worked, by figure, beside what the plan told of it. */
export function Hours({ told }: { told: PlanTold | null }) {
  const client = useQueryClient();
  const [figure, setFigure] = useState('');
  const [kind, setKind] = useState<Kind>('design');
  const [minutes, setMinutes] = useState('');
  const [struck, setStruck] = useState<number | null>(null);
  const hours = useQuery({ queryKey: KEY, queryFn: () => dataOf<LoggedTime[]>(api.GET('/api/hours')) });
  const shelf = useQuery({
    queryKey: ['shelf'],
    queryFn: () => dataOf<ShelfFigure[]>(api.GET('/api/shelf')),
  });
  const act = useMutation({
    mutationFn: (asked: () => Promise<LoggedTime[]>) => asked(),
    onSuccess: (after) => client.setQueryData(KEY, after),
  });
  const rows = hours.data ?? [];
  const running = rows.find((one) => one.minutes === null);
  const entered = numberIn(minutes);
  const of = { figure: Number(figure), kind };
  const path = (entry: number) => ({ params: { path: { entry } } });
  return (
    <>
      <h2>Hours worked</h2>
      <ErrorLine says={act.error?.message} />
      <div className="fields two">
        <ChoiceField
          label="Worked on"
          value={figure}
          options={(shelf.data ?? []).map(({ id, name }) => [String(id), name] as const)}
          change={setFigure}
        />
        <ChoiceField label="What was done" value={kind} options={KINDS} change={setKind} />
        <NumberField label="Minutes; empty to count them" text={minutes} change={setMinutes} optional />
      </div>
      <p className={styles.turns}>
        <button
          className="ruled"
          disabled={act.isPending || !figure || (minutes.trim() !== '' && entered === null)}
          onClick={() =>
            act.mutate(
              () =>
                dataOf<LoggedTime[]>(
                  entered
                    ? api.POST('/api/hours', {
                        body: {
                          ...of,
                          began: new Date(Date.now() - entered * 60_000).toISOString(),
                          minutes: entered,
                          says: '',
                        },
                      })
                    : api.POST('/api/hours/begun', { body: of }),
                ),
              // So that they are not entered twice.
              { onSuccess: () => setMinutes('') },
            )
          }
        >
          {entered ? 'Enter them' : 'Begin to count'}
        </button>
        {running && (
          <button
            className="ruled"
            disabled={act.isPending}
            onClick={() =>
              act.mutate(() =>
                dataOf<LoggedTime[]>(
                  api.POST('/api/hours/{entry}/stopped', { ...path(running.number), body: { says: '' } }),
                ),
              )
            }
          >
            Stop: {KINDS[running.kind].toLowerCase()} of {running.figure_name}
          </button>
        )}
        {struck !== null && (
          <button
            className="plain"
            onClick={() => {
              act.mutate(() => dataOf<LoggedTime[]>(api.POST('/api/hours/{entry}/put-back', path(struck))));
              setStruck(null);
            }}
          >
            <u>put back what was struck out</u>
          </button>
        )}
      </p>
      {rows.length === 0 ? (
        <p className="soft">Nothing yet.</p>
      ) : (
        <>
          <table className={`limbs ${styles.byFigure}`}>
            <thead>
              <tr>
                <th scope="col">figure</th>
                <th scope="col">design</th>
                <th scope="col">clean-up</th>
                <th scope="col">painting</th>
                <th scope="col">hands as planned</th>
              </tr>
            </thead>
            <tbody>
              {byFigure(rows).map(([number, name, sums]) => (
                <tr key={number}>
                  <th scope="row">{name}</th>
                  {(Object.keys(KINDS) as Kind[]).map((one) => (
                    <td key={one}>{sums[one] ? duration(sums[one] * 60) : ''}</td>
                  ))}
                  <td>{plannedSays(told, number)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <details>
            <summary>Each entry</summary>
            <ul className={styles.wanted}>
              {rows.map(({ number, figure_name, kind: done, began, minutes: took }) => (
                <li key={number}>
                  <span>
                    {day(began)}: {KINDS[done].toLowerCase()} of {figure_name},{' '}
                    {took === null ? 'still counted' : duration(took * 60)}
                  </span>
                  <button
                    className="plain"
                    aria-label={`Strike out ${KINDS[done].toLowerCase()} of ${figure_name}`}
                    onClick={() => {
                      act.mutate(() => dataOf<LoggedTime[]>(api.DELETE('/api/hours/{entry}', path(number))));
                      setStruck(number);
                    }}
                  >
                    <u>strike it out</u>
                  </button>
                </li>
              ))}
            </ul>
          </details>
        </>
      )}
    </>
  );
}

/** Minutes by figure and kind, in the order of names. */
function byFigure(rows: LoggedTime[]): [number, string, Record<Kind, number>][] {
  const found = new Map<number, [string, Record<Kind, number>]>();
  for (const { figure, figure_name, kind, minutes } of rows) {
    const [, sums] = found.get(figure) ?? [figure_name, { design: 0, 'clean-up': 0, painting: 0 }];
    found.set(figure, [figure_name, { ...sums, [kind]: sums[kind] + (minutes ?? 0) }]);
  }
  return [...found]
    .map(([number, [name, sums]]): [number, string, Record<Kind, number>] => [number, name, sums])
    .sort((a, b) => a[1].localeCompare(b[1]));
}

function plannedSays(told: PlanTold | null, figure: number): string {
  const lines = (told?.sums?.lines ?? []).filter((line) => line.figure === figure);
  const minutes = lines.reduce((sum, line) => sum + line.hands_min, 0);
  return lines.length ? duration(minutes * 60) : '';
}
