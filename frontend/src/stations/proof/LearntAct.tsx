import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { api, dataOf, type LearntView } from '../../app/client';
import type { Sheet } from '../../figure/sheet';
import { ChoiceField, NumberField, numberIn } from '../Fields';
import styles from './proof.module.css';

type Learnt = LearntView['learnt'][number];

/** What proofs and coupons have taught of the setting, taken over value by value; and coupons to print and tell. */
export function LearntAct({ page }: Pick<Sheet, 'page'>) {
  const client = useQueryClient();
  const setting = page.edition.setting ?? '';
  const key = ['proofs', 'learnt', setting];
  const path = { setting };
  const learnt = useQuery({
    queryKey: key,
    queryFn: () => dataOf<LearntView>(api.GET('/api/settings/{setting}/learnt', { params: { path } })),
  });
  const take = useMutation({
    mutationFn: (wanted: string) =>
      dataOf<LearntView>(
        api.POST('/api/settings/{setting}/learnt', { params: { path }, body: { path: wanted } }),
      ),
    onSuccess: async (told) => {
      client.setQueryData(key, told);
      await client.invalidateQueries({ queryKey: ['bench'] });
      await client.invalidateQueries({ queryKey: ['figure', page.id] });
    },
  });
  const told = learnt.data;
  const error = learnt.error?.message ?? take.error?.message;
  return (
    <>
      {error && (
        <p className="error" role="alert">
          {error}
        </p>
      )}
      {told && (
        <>
          <p className="soft">
            {told.setting_name}. Ranges hold nine times in ten; nothing is taken over before you say so.
          </p>
          {told.learnt.length === 0 && <p>Nothing yet: say how proofs came out, or what coupons tell.</p>}
          <table className={`limbs ${styles.learnt}`}>
            <tbody>
              {told.learnt.map((one) => (
                <tr key={one.title + one.kind}>
                  <th scope="row">
                    {one.title}
                    <br />
                    <span className="soft">{from(one)}</span>
                  </th>
                  <td>
                    <b>
                      {one.kind === 'value' ? '' : `${one.kind} `}
                      {shown(one, one.value)}
                    </b>
                    <br />
                    <span className="soft">{range(one)}</span>
                  </td>
                  <td>
                    {one.path && !isTaken(one) ? (
                      <button
                        className="plain"
                        disabled={take.isPending}
                        onClick={() => take.mutate(one.path)}
                      >
                        <u>take over</u> <span className="soft">now {shown(one, one.now ?? 0)}</span>
                      </button>
                    ) : (
                      <span className="soft">{one.path ? 'taken over' : one.says}</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {told.rates.length > 0 && (
            <>
              <h3>How right the checks were</h3>
              <table className="limbs">
                <thead>
                  <tr>
                    <th scope="col">finding</th>
                    <th scope="col">told</th>
                    <th scope="col">came true</th>
                    <th scope="col">came unsaid</th>
                  </tr>
                </thead>
                <tbody>
                  {told.rates.map((rate) => (
                    <tr key={rate.code}>
                      <th scope="row">{rate.code}</th>
                      <td>{rate.told}</td>
                      <td>{rate.came_true}</td>
                      <td>{rate.unsaid}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
          <Coupons key={told.coupons.length} told={told} keep={(next) => client.setQueryData(key, next)} />
        </>
      )}
    </>
  );
}

type Coupon = LearntView['coupons'][number];
const KINDS = { fit: 'ladder of gaps', measure: 'block to measure', walls: 'walls and pins' } as const;

/** Coupons to print for a setting, and what was read from them. */
function Coupons({ told, keep }: { told: LearntView; keep: (next: LearntView) => void }) {
  const { setting, coupons } = told;
  const [kind, setKind] = useState<keyof typeof KINDS>('fit');
  const [values, setValues] = useState<Record<string, string>>({});
  const features = useQuery({
    queryKey: ['coupon', setting, kind],
    queryFn: () =>
      dataOf<{ name: string; mm: number }[]>(
        api.GET('/api/settings/{setting}/coupons/{kind}', { params: { path: { setting, kind } } }),
      ),
    enabled: kind === 'measure',
    staleTime: Infinity,
  });
  const set = useMutation({
    mutationFn: (next: Coupon[]) =>
      dataOf<LearntView>(
        api.PUT('/api/settings/{setting}/coupons', { params: { path: { setting } }, body: next }),
      ),
    onSuccess: keep,
  });
  const asked: [string, string][] =
    kind === 'fit'
      ? [
          ['press', 'Least gap pressed in by hand, mm'],
          ['slide', 'Least gap that slides, mm'],
          ['free', 'Least gap that turns freely, mm'],
        ]
      : kind === 'walls'
        ? [
            ['wall', 'Thinnest wall that came out, mm'],
            ['pin', 'Thinnest pin that came out, mm'],
          ]
        : (features.data ?? []).map(({ name, mm }) => [name, `${name}, drawn ${mm.toFixed(1)} mm`]);
  const read = asked.flatMap(([name]): [string, number][] => {
    const value = numberIn(values[name] ?? '');
    return value === null ? [] : [[name, value]];
  });
  const coupon = (
    kind === 'measure'
      ? { coupon: kind, setting, lengths: Object.fromEntries(read) }
      : { coupon: kind, setting, ...Object.fromEntries(read) }
  ) as Coupon;
  return (
    <>
      <h3>Coupons</h3>
      <div className="fields two">
        <ChoiceField
          label="Coupon"
          value={kind}
          options={KINDS}
          change={(next) => {
            setKind(next);
            setValues({});
          }}
        />
        <a href={`/api/settings/${setting}/coupons/${kind}.stl`}>to print, STL</a>
      </div>
      <div className="fields two">
        {asked.map(([name, label]) => (
          <NumberField
            key={name}
            label={label}
            text={values[name] ?? ''}
            change={(text) => setValues({ ...values, [name]: text })}
            optional
          />
        ))}
      </div>
      {set.error && (
        <p className="error" role="alert">
          {set.error.message}
        </p>
      )}
      <p>
        <button
          className="ruled"
          disabled={read.length === 0 || set.isPending}
          onClick={() => set.mutate([...coupons, coupon])}
        >
          Learn from it
        </button>
      </p>
      <ul className="plain-list" aria-label="Coupons that were told">
        {coupons.map((one, k) => (
          <li key={k}>
            {KINDS[one.coupon]}: {saidOf(one)}{' '}
            <button
              className="plain"
              aria-label={`Leave out coupon ${k + 1}`}
              onClick={() => set.mutate(coupons.filter((other) => other !== one))}
            >
              <u>leave out</u>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

function saidOf(coupon: Coupon): string {
  const pairs =
    coupon.coupon === 'measure'
      ? Object.entries(coupon.lengths)
      : Object.entries(coupon).filter(
          (pair): pair is [string, number] => typeof pair[1] === 'number' && pair[0] !== 'proof',
        );
  return pairs.map(([name, value]) => `${name} ${value}`).join(', ');
}

const shown = ({ unit }: Learnt, value: number): string =>
  unit === 'share'
    ? `${(100 * value).toFixed(value < 0.05 ? 2 : 0)} %`
    : unit === 'times'
      ? `${value.toFixed(3)} times`
      : `${value.toFixed(unit === 'N' ? 1 : 3)} ${unit}`;

const range = (one: Learnt): string =>
  one.low == null || one.high == null ? '' : `${shown(one, one.low)} to ${shown(one, one.high)}`;

/** Whether the bench has a value as it was learnt, as it is rounded there. */
const isTaken = (one: Learnt): boolean => one.now != null && Math.abs(one.now - one.value) < 6e-5;

function from({ count, proofs, outliers }: Learnt): string {
  const said = proofs.length
    ? `from ${proofs.length > 1 ? 'proofs' : 'proof'} ${proofs.join(', ')}`
    : `from ${count > 1 ? `${count} readings of coupons` : 'a coupon'}`;
  return outliers.length ? `${said}; left out: ${outliers.join('; ')}` : said;
}
