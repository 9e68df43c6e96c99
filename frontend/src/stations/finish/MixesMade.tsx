import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { ErrorLine } from '../../app/ErrorLine';
import { PutBack, usePutBack } from '../../app/PutBack';
import { api, dataOf, type BenchView, type Mix, type MixTold, type MixView } from '../../app/client';
import { day, today } from '../../app/units';
import { NumberField, numberIn } from '../Fields';
import styles from './finish.module.css';

const KEY = ['mixes'];

/** Mixes as they are kept: made, made again in any amount, and what they dried to. */
export function MixesMade({
  name,
  drops,
  names,
}: {
  /** What a mix that is made now is called. */
  name: string;
  /** Its paints; nothing where none is chosen. */
  drops: Record<string, number> | null;
  names: ReadonlyMap<string, string>;
}) {
  const client = useQueryClient();
  const [much, setMuch] = useState('5');
  const mixes = useQuery({ queryKey: KEY, queryFn: () => dataOf<MixView[]>(api.GET('/api/mixes')) });
  const keep = (after: MixView[]) => {
    client.setQueryData(KEY, after);
    for (const key of ['stock', 'figure']) void client.invalidateQueries({ queryKey: [key] });
  };
  const act = useMutation({
    mutationFn: (asked: () => Promise<MixView[]>) => asked(),
    onSuccess: keep,
  });
  const back = usePutBack(
    async (mix) => keep(await dataOf(api.POST('/api/mixes/{mix}/put-back', { params: { path: { mix } } }))),
    () => Promise.resolve(),
  );
  const drop = (mix: number) =>
    act.mutate(() => dataOf<MixView[]>(api.DELETE('/api/mixes/{mix}', { params: { path: { mix } } })), {
      onSuccess: () => back.wentAway(mix),
    });
  const ml = numberIn(much);
  const make = (mix: Mix) => act.mutate(() => dataOf<MixView[]>(api.POST('/api/mixes', { body: mix })));
  const change = (number: number, mix: Mix) =>
    act.mutate(() =>
      dataOf<MixView[]>(api.PUT('/api/mixes/{mix}', { params: { path: { mix: number } }, body: mix })),
    );
  const made = mixes.data ?? [];
  return (
    <>
      <ErrorLine says={act.error?.message} />
      <PutBack back={back} what="the mix that was struck out" />
      {(drops || made.length > 0) && (
        <div className="fields two">
          <NumberField label="How much of a mix, ml" text={much} change={setMuch} />
          {drops && (
            <button
              className="ruled"
              disabled={act.isPending || ml === null}
              onClick={() =>
                ml && make({ name, amounts: drops, by: 'drops', made_ml: ml, day: today(), dried: null })
              }
            >
              Mix so much
            </button>
          )}
        </div>
      )}
      {made.length > 0 && (
        <ul className={styles.mixes} aria-label="Mixes that were made">
          {made.map((one) => (
            <MixLine
              key={one.number}
              one={one}
              ml={ml}
              names={names}
              busy={act.isPending}
              make={make}
              change={change}
              drop={drop}
            />
          ))}
        </ul>
      )}
    </>
  );
}

function MixLine({
  one,
  ml,
  names,
  busy,
  make,
  change,
  drop,
}: {
  one: MixView;
  ml: number | null;
  names: ReadonlyMap<string, string>;
  busy: boolean;
  make: (mix: Mix) => void;
  change: (number: number, mix: Mix) => void;
  drop: (number: number) => void;
}) {
  const { number, mix, colour, left_ml } = one;
  const wanted = { ...mix, made_ml: ml ?? mix.made_ml, day: today() };
  const amounts = useQuery({
    queryKey: ['mix amounts', wanted],
    queryFn: () =>
      dataOf<{ amounts: Record<string, number> }>(api.POST('/api/mixes/amounts', { body: wanted })),
  });
  return (
    <li>
      <p className={styles.want}>
        <i className={styles.pair} aria-hidden="true">
          <span style={{ background: colour }} />
        </i>
        <b>{mix.name}</b>
        <span className="soft">
          {day(mix.day)}, {left_ml.toFixed(1)} of {mix.made_ml.toFixed(1)} ml left
        </span>
        <label>
          dried{' '}
          <input
            type="color"
            defaultValue={colour}
            aria-label={`What ${mix.name} dried to`}
            disabled={busy}
            onBlur={({ target }) =>
              target.value !== colour && change(number, { ...mix, dried: target.value })
            }
          />
        </label>
        <button className="plain" disabled={busy} onClick={() => make(wanted)}>
          <u>make {wanted.made_ml.toFixed(1)} ml of it again</u>
        </button>
        <button
          className="plain"
          disabled={busy}
          aria-label={`Strike out ${mix.name}, made ${day(mix.day)}`}
          onClick={() => drop(number)}
        >
          <u>strike it out</u>
        </button>
      </p>
      {amounts.data && (
        <p className="soft">
          {wanted.made_ml.toFixed(1)} ml:{' '}
          {Object.entries(amounts.data.amounts)
            .map(
              ([paint, amount]) =>
                `${Number(amount.toFixed(2))} ${UNITS[mix.by]}${names.get(paint) ?? paint}`,
            )
            .join(', ')}
        </p>
      )}
      {mix.dried && <Strength mix={mix} dried={mix.dried} names={names} />}
    </li>
  );
}

const UNITS = { drops: '', parts: 'parts ', grams: 'g ' } as const;

/** How strongly a paint tints, by what a mix dried to; taken over by one act. */
function Strength({ mix, dried, names }: { mix: Mix; dried: string; names: ReadonlyMap<string, string> }) {
  const client = useQueryClient();
  const [most] = Object.entries(mix.amounts).sort(([, a], [, b]) => b - a)[0] ?? [''];
  const told = useQuery({
    queryKey: ['mix told', mix.amounts, dried, most],
    queryFn: () =>
      dataOf<MixTold>(api.POST('/api/colours/mixes', { body: { drops: mix.amounts, dried, tells: most } })),
  });
  const take = useMutation({
    mutationFn: async (value: number) => {
      const { revision } = await dataOf<BenchView>(api.GET('/api/bench'));
      return dataOf<BenchView>(
        api.PUT('/api/bench/value', {
          params: { header: { 'If-Match': revision } },
          body: { place: 'paints', thing: most, path: 'strength', value },
        }),
      );
    },
    onSuccess: () => client.invalidateQueries(),
  });
  const { difference = null, strength = null } = told.data ?? {};
  if (difference === null) return null;
  return (
    <p className="soft">
      {difference.toFixed(1)} from what was told.{' '}
      {strength !== null &&
        (take.isSuccess ? (
          'Taken over.'
        ) : (
          <button
            className="plain"
            disabled={take.isPending}
            onClick={() => take.mutate(Number(strength.toFixed(3)))}
          >
            <u>
              {names.get(most) ?? most} tints {strength.toFixed(2)} times as strongly: take it over
            </u>
          </button>
        ))}
      {take.error && <span role="alert"> {take.error.message}</span>}
    </p>
  );
}
